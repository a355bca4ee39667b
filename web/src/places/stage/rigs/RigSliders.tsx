// Four sliders over all of a lighting.
import { Slider } from '@mantine/core';
import { RIG_LIMITS, type RigSettings } from '@variscen/core/rigs';
import styles from './Rigs.module.css';

const SLIDERS: readonly {
  readonly key: keyof RigSettings;
  readonly label: string;
  readonly step: number;
  readonly words: (v: number) => string;
}[] = [
  { key: 'turnDeg', label: 'Rotation', step: 5, words: (v) => `${v}°` },
  { key: 'strengthStops', label: 'Strength', step: 0.1, words: (v) => stops(v) },
  { key: 'warmth', label: 'Warmth', step: 0.05, words: (v) => `${signed(Math.round(v * 100))} mired` },
  { key: 'contrastStops', label: 'Contrast', step: 0.1, words: (v) => stops(v) },
];
const signed = (v: number): string => (v > 0 ? `+${v}` : `${v}`).replace('-', '−');
const stops = (v: number): string => `${signed(Number(v.toFixed(1)))} stops`;

interface Props {
  settings: RigSettings;
  onChange: (s: Partial<RigSettings>) => void;
  /** A slider was let go. */
  onEnd?: () => void;
}
export function RigSliders({ settings, onChange, onEnd }: Props) {
  return (
    <div className={styles.sliders}>
      {SLIDERS.map(({ key, label, step, words }) => (
        <div key={key} className={styles.slider}>
          <span>{label}</span>
          <Slider
            size="xs"
            thumbLabel={label}
            label={null}
            min={RIG_LIMITS[key].min}
            max={RIG_LIMITS[key].max}
            step={step}
            value={settings[key]}
            onChange={(v) => onChange({ [key]: v })}
            {...(onEnd && { onChangeEnd: onEnd })}
          />
          <button
            type="button"
            className={`mono ${styles.value}`}
            title="Back to the middle"
            aria-label={`${label}: ${words(settings[key])}, back to the middle`}
            onClick={() => {
              onChange({ [key]: 0 });
              onEnd?.();
            }}
          >
            {words(settings[key])}
          </button>
        </div>
      ))}
    </div>
  );
}
