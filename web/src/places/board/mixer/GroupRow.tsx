// One light group, or one light of a look: how strong it is, in what colour, whether it is there.
import { Slider } from '@mantine/core';
import { type GroupSetting, STOPS } from '../../../model/groupMixer.ts';
import { ColorField, fromHex, toHex } from '../../../ui/ColorField.tsx';
import { plural } from '../../../ui/format.ts';
import styles from './Mix.module.css';

interface Props {
  readonly name: string;
  /** In a light group; absent: it is one. */
  readonly lights?: readonly string[];
  readonly setting: GroupSetting;
  readonly onChange: (change: Partial<GroupSetting>) => void;
}
/** More are counted. */
const NAMED = 2;
const stopsText = (v: number): string => `${v > 0 ? '+' : ''}${Number(v.toFixed(1))}`.replace('-', '−');

function wordsFor(lights: readonly string[]): string {
  if (lights.length > NAMED) return plural(lights.length, 'light');
  return lights.join(', ') || 'nothing that is on now';
}

export function GroupRow({ name, lights, setting, onChange }: Props) {
  const { stops, color, isMuted, isAlone } = setting;
  return (
    <div role="group" aria-label={name} className={styles.group}>
      <div className={styles.head}>
        <b>{name}</b>
        <span className={`dim ellipsis ${styles.lights}`} title={lights?.join(', ')}>
          {lights && wordsFor(lights)}
        </span>
        <button
          type="button"
          className={`quiet ${styles.small}`}
          aria-pressed={isMuted}
          onClick={() => onChange({ isMuted: !isMuted })}
        >
          Off
        </button>
        <button
          type="button"
          className={`quiet ${styles.small}`}
          aria-pressed={isAlone}
          onClick={() => onChange({ isAlone: !isAlone })}
        >
          Alone
        </button>
      </div>
      <div className={styles.strength}>
        <Slider
          size="xs"
          thumbLabel={`${name}, Strength`}
          label={null}
          min={STOPS.min}
          max={STOPS.max}
          step={STOPS.step}
          value={stops}
          onChange={(v) => onChange({ stops: v })}
        />
        <button
          type="button"
          className={`mono ${styles.value}`}
          title="As rendered"
          aria-label={`${name}: ${stopsText(stops)} stops, back to the middle`}
          onClick={() => onChange({ stops: 0 })}
        >
          {stopsText(stops)}
        </button>
        <ColorField
          label={`${name}, Colour`}
          value={toHex(color)}
          onChange={(hex) => onChange({ color: fromHex(hex) })}
        />
      </div>
    </div>
  );
}
