// The copies that a look makes of a thing: how many there are, what each wears, and a way to dress all of them in turn.
import { MultiSelect, Select } from '@mantine/core';
import {
  type Change,
  MOST_COPIES,
  type ResolvedState,
  type SceneIndex,
  copyPath,
  copyPlaces,
  objectTarget,
} from '@variscen/core/looks';
import { useMemo, useState } from 'react';
import { count, plural } from '../../../ui/format.ts';
import styles from './CopiesPanel.module.css';

/** More are dressed in turn, not one by one. */
const LISTED = 24;

export function CopiesPanel({
  index,
  state,
  path,
  record,
  onSelect,
}: {
  index: SceneIndex;
  state: ResolvedState;
  path: string;
  record: (changes: readonly Change[]) => void;
  onSelect: (target: string) => void;
}) {
  const copies = useMemo(() => copyPlaces(state, path), [state, path]);
  const [turn, setTurn] = useState<string[]>([]);
  const materials = index.document.materials.map((m) => m.name);
  const wears = state.get(objectTarget(path), 'object.material') !== undefined;
  if (!copies.length) return null;
  const wear = (number: number, material: string): Change => ({
    target: objectTarget(copyPath(path, number)),
    property: 'object.material',
    value: material,
  });
  return (
    <section aria-label="Copies" className={styles.copies}>
      <div className="dim">
        {plural(copies.length, 'copy', 'copies')}
        {copies.length >= MOST_COPIES && `, which is the most: the rest of the ${count(MOST_COPIES)} is not made`}. Each
        costs one transform.
      </div>
      {wears && (
        <>
          <div className={styles.multiSelectFrame}>
            <MultiSelect
              size="xs"
              label="Alternate materials"
              data={materials}
              value={turn}
              onChange={setTurn}
              searchable
              maxValues={40}
            />
            <button
              type="button"
              className={`quiet ${styles.quiet}`}
              disabled={!turn.length}
              onClick={() => record(copies.map((c, i) => wear(c.number, turn[i % turn.length]!)))}
            >
              Assign to {copies.length}
            </button>
          </div>
          {copies.slice(0, LISTED).map(({ number }) => (
            <div key={number} className={styles.selectFrame}>
              <button
                type="button"
                className="dim"
                onClick={() => onSelect(objectTarget(copyPath(path, number)))}
                title="Select this copy"
              >
                Copy {number}
              </button>
              <Select
                size="xs"
                aria-label={`Copy ${number}, material`}
                data={materials}
                value={String(state.get(objectTarget(copyPath(path, number)), 'object.material'))}
                allowDeselect={false}
                searchable={materials.length > 8}
                onChange={(m) => {
                  if (m) record([wear(number, m)]);
                }}
                comboboxProps={{ width: 200, position: 'bottom-end' }}
              />
            </div>
          ))}
          {copies.length > LISTED && (
            <div className="faint">and {count(copies.length - LISTED)} more: click one in the view.</div>
          )}
        </>
      )}
    </section>
  );
}
