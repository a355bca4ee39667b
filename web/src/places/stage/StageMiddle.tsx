// In the middle: what is looked at, side by side, and the time below.
import { FRAMES_PER_SECOND, framesIn } from '@variscen/core/scene';
import { useAddress } from '../../ui/address.ts';
import { VIEWING_PANELS, type ViewingPanel } from './panels.tsx';
import type { StagePanelProps } from './stage.ts';
import styles from './StagePlace.module.css';
import { TimeBar } from './TimeBar.tsx';

function isOpen(panel: ViewingPanel, search: URLSearchParams): boolean {
  return panel.toggle === undefined || search.get(panel.id) === 'open';
}

export function StageMiddle({ stage }: StagePanelProps) {
  const [search] = useAddress();
  const open = VIEWING_PANELS.filter((p) => isOpen(p, search));
  const durationS = stage.shown.index?.document.animation?.durationS;
  return (
    <div className={styles.middle} data-animated={durationS !== undefined}>
      <div className={styles.views}>
        {open.map(({ id, Panel }) => (
          <Panel key={id} stage={stage} />
        ))}
      </div>
      {durationS !== undefined && <Time stage={stage} durationS={durationS} />}
    </div>
  );
}

/** Buttons that open and close what may stand beside the view. */
export function ViewingToggles() {
  const [search, put] = useAddress();
  return VIEWING_PANELS.filter((p) => p.toggle !== undefined).map((p) => (
    <button
      type="button"
      key={p.id}
      className={`quiet ${styles.quiet}`}
      aria-pressed={isOpen(p, search)}
      onClick={() => put({ [p.id]: isOpen(p, search) ? null : 'open' })}
    >
      {p.toggle}
    </button>
  ));
}

function Time({ stage, durationS }: StagePanelProps & { durationS: number }) {
  const { shown, looking, session } = stage;
  const { camera } = shown;
  const ranges = camera?.handling.frames ?? [];
  const frames = ranges.length ? framesIn(ranges) : [];
  const use = (frame: number) => {
    if (!camera) return;
    session.changeCameras([camera.id], { settings: { frame: frame === 0 ? undefined : frame } });
    looking.setFrame(null);
  };
  return (
    <TimeBar
      first={frames[0] ?? 0}
      last={frames.at(-1) ?? Math.ceil(durationS * FRAMES_PER_SECOND)}
      step={ranges.length === 1 ? ranges[0]!.step : 1}
      own={camera?.settings.frame ?? 0}
      shown={looking.frame}
      onShow={looking.setFrame}
      onUse={camera && use}
    />
  );
}
