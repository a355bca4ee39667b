// Focus distance, f-stop and blades.
import styles from './CameraPanel.module.css';
import { Part } from './CameraPart.tsx';
import type { CameraEditing } from './cameraEditing.tsx';

export function FocusPart({
  edit,
  picking,
  onPickFocus,
}: {
  edit: CameraEditing;
  picking: boolean;
  onPickFocus: (on: boolean) => void;
}) {
  const { one, same, set, field } = edit;
  return (
    <Part title="Focus">
      {field(
        'Distance',
        'm',
        same((c) => c.settings.focusDistanceM),
        0.001,
        1e6,
        (focusDistanceM) => set({ focusDistanceM }),
        { decimals: 3, step: 0.05 },
      )}
      <button
        type="button"
        className={`quiet ${styles.wideButtonApart}`}
        aria-pressed={picking}
        disabled={!one}
        onClick={() => onPickFocus(!picking)}
      >
        {picking ? 'Click what should be sharp' : 'Focus on a point…'}
      </button>
      {field(
        'F-stop',
        '',
        same((c) => c.settings.fStop),
        0.1,
        128,
        (fStop) => set({ fStop }),
        { decimals: 2, empty: 'all sharp', onEmpty: () => set({ fStop: null }) },
      )}
      {field(
        'Blades',
        '',
        same((c) => c.settings.blades ?? null),
        3,
        32,
        (v) => set({ blades: Math.round(v) }),
        { decimals: 0, empty: 'round', onEmpty: () => set({ blades: undefined }) },
      )}
    </Part>
  );
}
