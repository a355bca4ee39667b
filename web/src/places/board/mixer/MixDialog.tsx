// The light groups of a finished picture made brighter, darker, or of another colour, without rendering; and kept as
// options, whose own render is that picture.
import { Modal, TextInput } from '@mantine/core';
import type { Project, Render, Variant } from '@variscen/contract';
import { freeName, groupMembers, mixChanges } from '@variscen/core/looks';
import { useMemo, useState } from 'react';
import type { ApiError } from '../../../api/client.ts';
import { AS_RENDERED, type GroupSetting, isAsRendered, optionsOfMix, sharesOf } from '../../../model/groupMixer.ts';
import { useSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { facetName } from '../../../ui/glyphs.tsx';
import { say } from '../../../ui/notify.ts';
import { GroupRow } from './GroupRow.tsx';
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
    <Modal opened onClose={onClose} title={`${cameraName} in ${variant.name}: light groups`} size={1200}>
      {error && (
        <p className="notice">{[error.message, (error as Partial<ApiError>).remedy].filter(Boolean).join(' ')}</p>
      )}
      {!error && !picture && (
        <p className="dim" aria-busy>
          Reading the light groups …
        </p>
      )}
      {picture && <Mixer {...props} picture={picture} />}
    </Modal>
  );
}

function Mixer({ project, variant, picture, isCurrent, onClose }: Props & { readonly picture: MixedPicture }) {
  const { about, state } = picture;
  const { groups } = about;
  const [settings, setSettings] = useState<readonly GroupSetting[]>(() => groups.map(() => AS_RENDERED));
  const shares = useMemo(() => sharesOf(settings), [settings]);
  const canvas = useMixing(picture, shares);
  const members = useMemo(() => groupMembers(state), [state]);
  const set = (g: number, change: Partial<GroupSetting>) =>
    setSettings((all) => all.map((s, i) => (i === g ? { ...s, ...change } : s)));
  const labels = (group: string) => (members.get(group) ?? []).map((target) => state.scene.label(target));
  return (
    <div className={styles.mixer}>
      <canvas
        ref={canvas}
        width={about.widthPx}
        height={about.heightPx}
        role="img"
        aria-label="The picture as it is mixed"
        className={styles.picture}
      />
      <div className={styles.side}>
        {groups.map((group, g) => (
          <GroupRow
            key={group}
            name={`Group ${group}`}
            lights={labels(group)}
            setting={settings[g]!}
            onChange={(change) => set(g, change)}
          />
        ))}
        <button
          type="button"
          className="quiet"
          disabled={isAsRendered(settings)}
          onClick={() => setSettings(groups.map(() => AS_RENDERED))}
        >
          As rendered
        </button>
        <Keep
          project={project}
          variant={variant}
          picture={picture}
          shares={new Map(groups.map((group, g) => [group, shares[g]!]))}
          isCurrent={isCurrent}
          onClose={onClose}
        />
      </div>
    </div>
  );
}

interface KeepProps extends Pick<Props, 'project' | 'variant' | 'isCurrent' | 'onClose'> {
  readonly picture: MixedPicture;
  readonly shares: Parameters<typeof mixChanges>[1];
}
function Keep({ project, variant, picture, shares, isCurrent, onClose }: KeepProps) {
  const session = useSession(project.id);
  const [name, setName] = useState(() =>
    freeName(new Set(project.variants.map((v) => v.name)), `${variant.name}, mixed`),
  );
  const changes = useMemo(() => mixChanges(picture.state, shares), [picture.state, shares]);
  const options = optionsOfMix(project, variant, changes, name.trim());
  const facets = options.map((o) => facetName(o.facet)).join(', ');
  const keep = async (withVariant: boolean) => {
    const from = withVariant ? { fromVariantId: variant.id, name: name.trim() } : undefined;
    if (!(await session.makeOptions(options, from))) return;
    say(`Made: ${name.trim()}`, `${plural(changes.length, 'value')} in ${facets}.`);
    onClose();
  };
  const canKeep = options.length > 0 && name.trim() !== '';
  return (
    <form
      className={styles.keep}
      onSubmit={(e) => {
        e.preventDefault();
        if (canKeep) void keep(true);
      }}
    >
      <TextInput
        size="xs"
        label="Keep as"
        value={name}
        maxLength={200}
        onChange={(e) => setName(e.currentTarget.value)}
      />
      <p className="dim">
        {options.length
          ? `Options of ${facets}: what “${variant.name}” has, with ${plural(changes.length, 'value')} changed.`
          : 'Nothing is changed yet.'}
      </p>
      {!isCurrent && (
        <p className="notice">
          The look has changed since this was rendered: rendered anew, the options may show something else.
        </p>
      )}
      <div className={styles.buttons}>
        <button type="submit" className="go" disabled={!canKeep}>
          Make a variant with it
        </button>
        <button type="button" className="quiet" disabled={!canKeep} onClick={() => void keep(false)}>
          Only the options
        </button>
      </div>
    </form>
  );
}
