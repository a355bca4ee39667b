// All materials of the scene on balls by the engine, as the look has them: to look for, to drag onto things, to edit,
// to copy.
import type { Project } from '@variscen/contract';
import { type Change, type ResolvedState, type SceneIndex, materialTarget, propertyOf } from '@variscen/core/looks';
import { materialLabelOf } from '@variscen/core/scene';
import { useEffect, useMemo, useState } from 'react';
import { engineService } from '../../../engine/engineService.ts';
import { MATERIAL_DRAG } from '../../../model/materialDrag.ts';
import { copiedMaterials } from '../../../model/materialNames.ts';
import { type Picture, Print } from '../../../engine/smallPictures.tsx';
import styles from './MaterialStrip.module.css';

/** As MaterialStrip.module.css has it. */
const SIZE_PX = 84;
const REST_MS = 300;

export function MaterialStrip({
  project,
  index,
  state,
  sceneHash,
  selected,
  onSelect,
}: {
  project: Project;
  index: SceneIndex;
  state: ResolvedState;
  sceneHash: string;
  selected: string | null;
  onSelect: (target: string) => void;
}) {
  const [find, setFind] = useState('');
  const [pictures, setPictures] = useState<ReadonlyMap<string, Picture>>(new Map());
  const [fault, setFault] = useState<string | null>(null);
  const { base, options, patches, pending } = project;
  const all = useMemo(
    () =>
      [
        ...index.document.materials.map((m) => ({ name: m.name, label: materialLabelOf(m) })),
        ...copiedMaterials({ base, options, patches, pending })
          .filter((n) => index.material(n) && !index.materials.has(n))
          .map((n) => ({ name: n, label: n.replace('#', ' ') })),
      ].sort((a, b) => a.label.localeCompare(b.label)),
    [index, base, options, patches, pending],
  );
  const shown = useMemo(() => {
    const sought = find.trim().toLowerCase();
    return all.filter((m) => m.label.toLowerCase().includes(sought));
  }, [all, find]);
  // what no material shows does not make the pictures anew
  const changes = useMemo(
    () =>
      [...state.values.values()]
        .filter((v) => propertyOf(v.property.id)?.on === 'material')
        .map((v) => ({ target: v.target, property: v.property.id, value: v.value })),
    [state],
  );
  const key = JSON.stringify(changes);
  const names = shown.map((m) => m.name).join('\n');
  useEffect(() => {
    let id: number | undefined;
    const begin = () => {
      const wish = {
        sceneHash,
        changes: JSON.parse(key) as Change[],
        names: names ? names.split('\n') : [],
        sizePx: SIZE_PX,
      };
      id = engineService.ask({ kind: 'balls', wish }, (m) => {
        if (m.kind === 'failed') setFault(m.message);
        if (m.kind !== 'ball') return;
        const picture = { rgba: m.rgba, widthPx: SIZE_PX, heightPx: SIZE_PX };
        setPictures((old) => new Map(old).set(m.name, picture));
      });
    };
    const wait = setTimeout(begin, REST_MS);
    return () => {
      clearTimeout(wait);
      if (id !== undefined) engineService.forget(id);
    };
  }, [key, names, sceneHash]);
  return (
    <div className={styles.columns}>
      <div>
        <input
          value={find}
          onChange={(e) => setFind(e.currentTarget.value)}
          placeholder={`Find among ${all.length}`}
          aria-label="Find a material"
          className={styles.findAMaterial}
        />
        <p className={`dim ${styles.dragOneOnto}`}>
          Drag one onto an object in the view or the tree. A click shows its values.
        </p>
        {fault && <p className={`dim ${styles.fault}`}>{fault}</p>}
      </div>
      <div role="listbox" aria-label="Materials" className={styles.materials}>
        {shown.map((m) => {
          const picture = pictures.get(m.name);
          const on = selected === materialTarget(m.name);
          return (
            <div
              key={m.name}
              role="option"
              tabIndex={0}
              aria-selected={on}
              aria-label={m.label}
              draggable
              data-picture={picture ? 'yes' : 'no'}
              onDragStart={(e) => {
                e.dataTransfer.setData(MATERIAL_DRAG, m.name);
                e.dataTransfer.effectAllowed = 'copy';
              }}
              onClick={() => onSelect(materialTarget(m.name))}
              onKeyDown={(e) => {
                if (e.key === 'Enter' || e.key === ' ') {
                  e.preventDefault();
                  onSelect(materialTarget(m.name));
                }
              }}
              className={styles.option}
            >
              <div className={styles.picture} data-on={on}>
                {picture && <Print picture={picture} />}
              </div>
              <div className={`ellipsis ${styles.label}`} title={m.label} data-on={on}>
                {m.label}
              </div>
            </div>
          );
        })}
        {shown.length === 0 && <p className="dim">Nothing is called “{find}”.</p>}
      </div>
    </div>
  );
}
