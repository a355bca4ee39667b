import type { ResolvedValue } from '@variscen/core/looks';
import { useMemo } from 'react';
import { plural } from '../../../ui/format.ts';
import styles from './Inspector.module.css';
import { ValueRow } from './ValueRow.tsx';
import type { Inspected } from './inspected.ts';

/** With nothing selected: all that is changed here, by thing. */
export function ChangedPanel({ index, state, onSelect, ...p }: Inspected) {
  const targets = useMemo(() => {
    const out = new Map<string, ResolvedValue[]>();
    for (const v of state.values.values()) out.set(v.target, [...(out.get(v.target) ?? []), v]);
    return [...out];
  }, [state]);
  const shown = targets.slice(0, MOST_THINGS);
  return (
    <>
      <h3 className={styles.size}>{plural(state.values.size, 'changed value')}</h3>
      <div className={`dim ${styles.node}`}>of {plural(targets.length, 'object')}, in what is shown now</div>
      {shown.map(([target, values]) => (
        <section key={target} className={styles.section}>
          <button type="button" onClick={() => onSelect(target)} className={styles.changedLabel}>
            {index.label(target)}
          </button>
          {values.map((v) => (
            <ValueRow
              key={v.property.id}
              {...p}
              index={index}
              state={state}
              onSelect={onSelect}
              target={target}
              property={v.property}
            />
          ))}
        </section>
      ))}
      {targets.length > shown.length && (
        <p className="dim">and {plural(targets.length - shown.length, 'more thing')}: select some to see theirs.</p>
      )}
    </>
  );
}
const MOST_THINGS = 40;
