// Starting rigs, each as it would light what the camera shows; four sliders over all of one; and what it becomes.
import { Modal, SegmentedControl, Switch } from '@mantine/core';
import type { Camera, Project, Variant } from '@variscen/contract';
import { type ResolvedState, type SceneIndex, freeName } from '@variscen/core/looks';
import { PLAIN_RIG } from '@variscen/core/rigs';
import type { CameraSettings } from '@variscen/core/scene';
import { useDeferredValue, useState } from 'react';
import {
  type PictureJob,
  Print,
  earlierPictureOf,
  pictureOf,
  useSmallPictures,
} from '../../../engine/smallPictures.tsx';
import type { Kept, ProjectSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import styles from './Rigs.module.css';
import { RigSliders } from './RigSliders.tsx';
import { type MadeRig, type RigAsked, type SubjectKind, optionsOf, useRigs } from './useRigs.ts';

/** As Rigs.module.css has it. */
const CARD_PX = 190;
const PICTURE_PX = 107;

interface Props {
  project: Project;
  index: SceneIndex;
  state: ResolvedState;
  variant: Variant;
  camera: Camera;
  sceneHash: string;
  /** What is selected. */
  nodes: readonly number[];
  session: ProjectSession;
  /** It became options, and on wish a variant. */
  onMade: (made: Kept) => void;
  onClose: () => void;
}

export function RigDialog(props: Props) {
  const { project, index, state, variant, camera, sceneHash, nodes, session, onMade, onClose } = props;
  const hasSelection = nodes.some((n) => !index.document.nodes[n]!.added);
  const hasLights = index.document.nodes.some((n) => n.light !== undefined);
  const [chosen, choose] = useState<readonly number[]>([0]);
  const [asked, setAsked] = useState<RigAsked>({
    subject: hasSelection ? 'selection' : 'focus',
    settings: PLAIN_RIG,
    replaces: true,
  });
  const settings = camera.settings as CameraSettings;
  const heightPx = Math.round(Math.min(PICTURE_PX, (CARD_PX * settings.heightPx) / settings.widthPx));
  const rigs = useRigs(
    { project, index, state, variant, camera: { id: camera.id, settings }, sceneHash, nodes, heightPx },
    useDeferredValue(asked),
  );
  const taken = chosen.map((i) => rigs[i]!);
  const rig = taken.at(-1)!;
  // those that are chosen come first
  const { fault } = useSmallPictures(sceneHash, inTurn(rigs, chosen), 'seen');
  const take = async (how: 'variant' | 'options') => {
    const names = new Set(project.variants.map((v) => v.name));
    let last: Kept | undefined;
    for (const r of taken) {
      const name = freeName(names, r.rig.label);
      names.add(name);
      const from = how === 'variant' ? { fromVariantId: variant.id, name } : undefined;
      const made = await session.makeOptions(optionsOf(r), from);
      if (!made) break;
      last = made;
    }
    if (!last) return;
    const what = how === 'variant' ? plural(taken.length, 'variant') : `options of ${plural(taken.length, 'rig')}`;
    say(`Made: ${what}`, how === 'variant' ? 'Lights and sky are ordinary values now.' : 'Add them to variants.');
    onMade(last);
  };
  const chose = (i: number, more: boolean) => {
    if (!more) choose([i]);
    else if (!chosen.includes(i)) choose([...chosen, i]);
    else if (chosen.length > 1) choose(chosen.filter((k) => k !== i));
  };
  return (
    <Modal opened onClose={onClose} title="Light it with a rig" size={1160}>
      <div className={styles.dialog}>
        <div role="listbox" aria-label="Rigs" aria-multiselectable className={styles.rigs}>
          {rigs.map((r, i) => (
            <RigCard key={r.rig.id} rig={r} isChosen={chosen.includes(i)} onChoose={(more) => chose(i, more)} />
          ))}
        </div>
        <div className={styles.side}>
          <h4>{taken.length > 1 ? `${taken.length} rigs` : rig.rig.label}</h4>
          <p className="dim">
            {taken.length > 1 ? taken.map((r) => r.rig.label).join(', ') : rig.rig.about}. Ctrl with a click selects
            several.
          </p>
          <RigSliders
            settings={asked.settings}
            onChange={(s) => setAsked({ ...asked, settings: { ...asked.settings, ...s } })}
          />
          <div className={styles.row}>
            <span>About</span>
            <SegmentedControl
              size="xs"
              aria-label="What it is built about"
              value={asked.subject}
              data={SUBJECTS.filter((s) => s.value !== 'selection' || hasSelection)}
              onChange={(v) => setAsked({ ...asked, subject: v as SubjectKind })}
            />
          </div>
          {hasLights && (
            <Switch
              size="xs"
              label="Switch other lights off in it"
              checked={asked.replaces}
              onChange={(e) => setAsked({ ...asked, replaces: e.currentTarget.checked })}
            />
          )}
          {fault && <p className="notice">{fault}</p>}
          {taken.length === 1 && <p className="dim">{becomes(rig)}</p>}
          <div className={styles.buttons}>
            <button type="button" className="go" onClick={() => void take('variant')}>
              {taken.length === 1 ? 'Make a variant with it' : `Make ${plural(taken.length, 'variant')}`}
            </button>
            <button type="button" className="quiet" onClick={() => void take('options')}>
              Only the options
            </button>
          </div>
        </div>
      </div>
    </Modal>
  );
}

const SUBJECTS: { value: SubjectKind; label: string }[] = [
  { value: 'focus', label: 'In focus' },
  { value: 'selection', label: 'Selected' },
  { value: 'scene', label: 'All' },
];

function inTurn(rigs: readonly MadeRig[], chosen: readonly number[]): PictureJob[] {
  const isChosen = (_: MadeRig, i: number) => chosen.includes(i);
  return [...rigs.filter(isChosen), ...rigs.filter((r, i) => !isChosen(r, i))].map((r) => r.job);
}

function becomes({ rig, made }: MadeRig): string {
  const lights = made.lighting.filter((c) => c.property === 'light.added').length;
  const what = lights ? `${plural(lights, 'light')} and a sky` : 'a sky';
  return `Becomes ${what}: a Lighting and an Environment option called “${rig.label}”.`;
}

interface CardProps {
  rig: MadeRig;
  isChosen: boolean;
  /** @param more besides what is chosen */
  onChoose: (more: boolean) => void;
}
function RigCard({ rig: { rig, job }, isChosen, onChoose }: CardProps) {
  const now = pictureOf(job);
  const picture = now ?? earlierPictureOf(job);
  return (
    <button
      type="button"
      role="option"
      aria-selected={isChosen}
      className={styles.card}
      data-chosen={isChosen}
      data-picture={now ? 'yes' : 'no'}
      onClick={(e) => onChoose(e.ctrlKey || e.metaKey || e.shiftKey)}
    >
      <span className={styles.picture}>{picture && <Print picture={picture} stale={!now} />}</span>
      <span className={styles.label}>{rig.label}</span>
    </button>
  );
}
