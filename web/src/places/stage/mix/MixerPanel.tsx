// The lights of the look that is shown, mixed: seen at once in the view and in the live render, and kept as pending
// edits or as options when one wants them.
import { SegmentedControl } from '@mantine/core';
import type { MixBy } from '@variscen/core/image';
import { isAsRendered } from '../../../model/groupMixer.ts';
import { GroupRow } from '../../board/mixer/GroupRow.tsx';
import { KeepMix } from '../../board/mixer/KeepMix.tsx';
import type { StagePanelProps } from '../stage.ts';
import styles from './Mixer.module.css';
import { useMix, useMixer } from './useMix.ts';

const WAYS: readonly { readonly value: MixBy; readonly label: string }[] = [
  { value: 'target', label: 'Each light' },
  { value: 'group', label: 'Light groups' },
];

export function MixerPanel({ stage }: StagePanelProps) {
  const { project, variant, shown, recording, destination } = stage;
  const [, toggle] = useMixer();
  const mix = useMix(project.id, shown.state);
  const { by, rows, changes } = mix;
  const label = (target: string) => shown.state!.scene.label(target);
  /** What is dropped where it was asked where it belongs stays in the mix. */
  const makePending = () => {
    const open = new Set(changes.map((c) => c.target));
    recording.record(changes, (taken) => {
      for (const { target } of taken) open.delete(target);
      if (open.size === 0) mix.clear();
      else mix.settle(rows.filter((row) => row.members.every((m) => !open.has(m))).map((row) => row.key));
    });
  };
  const isUnchanged = isAsRendered(rows.map((row) => row.setting));
  return (
    <section aria-label="Mix lights" className={styles.panel}>
      <header className={styles.head}>
        <h2>Mix lights</h2>
        <button type="button" className="quiet" onClick={toggle}>
          Close
        </button>
      </header>
      <p className="dim">Shown in the view and the live render alone until you keep it.</p>
      <SegmentedControl
        size="xs"
        fullWidth
        aria-label="What is mixed"
        data={[...WAYS]}
        value={by}
        onChange={(value) => mix.mixBy(value as MixBy)}
      />
      {rows.length === 0 && <p className="notice">Nothing gives light in this look. Switch a light on first.</p>}
      <div className={styles.rows}>
        {rows.map(({ key, members, setting }) => (
          <GroupRow
            key={key}
            name={by === 'group' ? `Group ${key}` : label(key)}
            {...(by === 'group' && { lights: members.map(label) })}
            setting={setting}
            onChange={(change) => mix.set(key, change)}
          />
        ))}
      </div>
      <div className={styles.buttons}>
        <button type="button" className="quiet" disabled={isUnchanged} onClick={mix.clear}>
          As in the look
        </button>
        <button
          type="button"
          className="quiet"
          disabled={!changes.length}
          title={`Records the values in ${destination.label}, or asks where they belong`}
          onClick={makePending}
        >
          Make pending edits
        </button>
      </div>
      <KeepMix project={project} variant={variant} changes={changes} onKept={mix.clear} />
    </section>
  );
}
