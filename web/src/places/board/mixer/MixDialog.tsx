// The light of a finished picture, by group or light by light, made brighter, darker, or of another colour, without
// rendering; and kept as options, whose own render is that picture.
import { Modal } from '@mantine/core';
import type { Project, Render, Variant } from '@variscen/contract';
import { mixChanges, mixMembers } from '@variscen/core/looks';
import { useMemo, useState } from 'react';
import type { ApiError } from '../../../api/client.ts';
import { AS_RENDERED, type GroupSetting, isAsRendered, sharesOf } from '../../../model/groupMixer.ts';
import { GroupRow } from './GroupRow.tsx';
import { KeepMix } from './KeepMix.tsx';
import styles from './Mix.module.css';
import { type MixedPicture, useLightPicture, useMixing } from './useMixedPicture.ts';

interface Props {
  readonly project: Project;
  readonly variant: Variant;
  readonly cameraName: string;
  readonly render: Render;
  /** Whether it would be rendered so now. */
  readonly isCurrent: boolean;
  readonly onClose: () => void;
}

export function MixDialog(props: Props) {
  const { variant, cameraName, render, onClose } = props;
  const { picture, error } = useLightPicture(render.id);
  return (
    <Modal opened onClose={onClose} title={`${cameraName} in ${variant.name}: its light`} size={1200}>
      {error && (
        <p className="notice">{[error.message, (error as Partial<ApiError>).remedy].filter(Boolean).join(' ')}</p>
      )}
      {!error && !picture && (
        <p className="dim" aria-busy>
          Reading the light …
        </p>
      )}
      {picture && <Mixer {...props} picture={picture} />}
    </Modal>
  );
}

function Mixer({ project, variant, picture, isCurrent, onClose }: Props & { readonly picture: MixedPicture }) {
  const { about, state } = picture;
  const { groups, by } = about;
  const [settings, setSettings] = useState<readonly GroupSetting[]>(() => groups.map(() => AS_RENDERED));
  const shares = useMemo(() => sharesOf(settings), [settings]);
  const canvas = useMixing(picture, shares);
  const members = useMemo(() => mixMembers(state, by), [state, by]);
  const changes = useMemo(
    () => mixChanges(state, new Map(groups.map((group, g) => [group, shares[g]!])), by),
    [state, groups, by, shares],
  );
  const set = (g: number, change: Partial<GroupSetting>) =>
    setSettings((all) => all.map((s, i) => (i === g ? { ...s, ...change } : s)));
  const labels = (group: string) => (members.get(group) ?? []).map((target) => state.scene.label(target));
  const nameOf = (group: string) => (by === 'group' ? `Group ${group}` : state.scene.label(group));
  const inOrder = groups.map((group, g) => ({ group, g })).sort((a, b) => byName(nameOf(a.group), nameOf(b.group)));
  return (
    <div className={styles.mixer}>
      <div className={styles.shown}>
        <canvas
          ref={canvas}
          width={about.widthPx}
          height={about.heightPx}
          role="img"
          aria-label="The picture as it is mixed"
          className={styles.picture}
        />
        <button
          type="button"
          className={`quiet ${styles.asRendered}`}
          disabled={isAsRendered(settings)}
          onClick={() => setSettings(groups.map(() => AS_RENDERED))}
        >
          As rendered
        </button>
        <KeepMix project={project} variant={variant} changes={changes} onKept={onClose}>
          {!isCurrent && (
            <p className="notice">
              The look has changed since this was rendered: rendered anew, the options may show something else.
            </p>
          )}
        </KeepMix>
      </div>
      <div className={styles.side}>
        {inOrder.map(({ group, g }) => (
          <GroupRow
            key={group}
            name={nameOf(group)}
            {...(by === 'group' && { lights: labels(group) })}
            setting={settings[g]!}
            onChange={(change) => set(g, change)}
          />
        ))}
      </div>
    </div>
  );
}
/** “Lantern 2” before “Lantern 10”. */
const { compare: byName } = new Intl.Collator('en', { numeric: true });
