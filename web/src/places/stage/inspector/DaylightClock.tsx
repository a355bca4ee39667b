// Sets the sun of a sky by place, date and hour.
import type { Change, ResolvedState } from '@variscen/core/looks';
import dayjs from 'dayjs';
import { useState } from 'react';
import { type PlaceAndTime, daylightChanges, isNight, sunOf, withKept } from '../../../model/daylightClock.ts';
import { NumberField } from '../../../ui/NumberField.tsx';
import styles from './DaylightClock.module.css';

const KEPT = 'variscen.sunPlace';

export function DaylightClock({ state, record }: { state: ResolvedState; record: (c: readonly Change[]) => void }) {
  const [at, setAt] = useState(known);
  const sun = sunOf(at);
  const put = (more: Partial<PlaceAndTime>) => {
    const next = { ...at, ...more };
    localStorage.setItem(KEPT, JSON.stringify(next));
    setAt(next);
  };
  const number = (label: string, key: 'latitudeDeg' | 'longitudeDeg' | 'hoursAhead', most: number, unit: string) => (
    <label className={styles.row}>
      <span>{label}</span>
      <NumberField
        label={label}
        unit={unit}
        value={at[key]}
        min={-most}
        max={most}
        step={key === 'hoursAhead' ? 0.5 : 0.01}
        empty=""
        onChange={(v) => put({ [key]: v })}
      />
    </label>
  );
  const isDark = sun !== null && isNight(sun.elevationDeg);
  return (
    <fieldset className={styles.clock}>
      <legend>By place and time</legend>
      {number('Latitude', 'latitudeDeg', 90, '° N')}
      {number('Longitude', 'longitudeDeg', 180, '° E')}
      <label className={styles.row}>
        <span>Date</span>
        <input type="date" value={at.date} onChange={(e) => put({ date: e.currentTarget.value })} />
      </label>
      <label className={styles.row}>
        <span>Time there</span>
        <input type="time" value={at.time} onChange={(e) => put({ time: e.currentTarget.value })} />
      </label>
      {number('Before UTC', 'hoursAhead', 14, 'h')}
      <div className={styles.row}>
        <span className="dim">{sun ? wordsOf(sun.elevationDeg) : 'Give a date and a time.'}</span>
        <button
          type="button"
          className="quiet"
          disabled={!sun || isDark}
          onClick={() => {
            if (sun) record(daylightChanges(state, sun));
          }}
        >
          Set the sun
        </button>
      </div>
    </fieldset>
  );
}

function wordsOf(elevationDeg: number): string {
  const deg = Math.abs(elevationDeg).toFixed(1);
  if (isNight(elevationDeg)) return `Night: ${deg}° below the horizon`;
  return elevationDeg < 0 ? `Twilight: ${deg}° below the horizon` : `${deg}° over the horizon`;
}

/** As it was left, or now, where this browser's clock is. */
function known(): PlaceAndTime {
  const now = dayjs();
  const hoursAhead = now.utcOffset() / 60;
  const date = now.format('YYYY-MM-DD');
  const first: PlaceAndTime = { latitudeDeg: 50, longitudeDeg: hoursAhead * 15, date, time: '15:00', hoursAhead };
  try {
    return withKept(first, JSON.parse(localStorage.getItem(KEPT) ?? '{}'));
  } catch {
    return first;
  }
}
