// A value of a target: with its unit, where it comes from, and what it would be without.
import {
  type Property,
  type ResolvedValue,
  type Value,
  sameValue,
  targetLabel,
  unitOf,
  valueText,
  valueWithout,
} from '@variscen/core/looks';
import { isPending, recordedIn } from '../../../model/destinations.ts';
import { FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import styles from './Inspector.module.css';
import { PropertyRow } from './PropertyRow.tsx';
import { ValueEditor } from './ValueEditor.tsx';
import type { Inspected } from './inspected.ts';

export function ValueRow({
  project,
  index,
  state,
  target,
  property,
  destination,
  edit,
  onDiscard,
  onClear,
  onDestination,
}: Inspected & { target: string; property: Property }) {
  const value = state.get(target, property.id)!;
  const source = state.provenance(target, property.id);
  const unit = unitOf(property, index, target);
  const pending = isPending(project, destination.id, target, property.id);
  const recorded = pending
    ? recordedIn(project, destination.id).find((c) => c.target === target && c.property === property.id)?.value
    : undefined;
  const without = recorded ?? (source && valueWithout(state, source));
  const winner = source?.layers.at(-1);
  const set = (v: Value) => {
    if (!sameValue(v, value)) edit([target], property.id, v);
  };
  const facet = winner?.facet ?? property.facet;
  return (
    <PropertyRow
      property={property}
      glyph={source && <FacetGlyph facet={property.facet} size={10} />}
      value={value}
      onChange={set}
      editor={
        <ValueEditor
          project={project}
          property={property}
          index={index}
          value={value}
          unit={unit}
          label={`${targetLabel(target)}, ${property.label}`}
          onChange={set}
        />
      }
    >
      {source && winner && (
        <div className={`faint ${styles.pending}`} data-facet={facetOr(facet)}>
          {pending ? 'Pending in ' : 'Set by '}
          <button
            type="button"
            title={`Send edits to ${layerName(winner)}`}
            onClick={() => onDestination(winner.id)}
            className={styles.source}
            data-on={winner.kind === 'option'}
          >
            {layerName(winner)}
          </button>
          {source.layers.length > 1 && `, overrides ${source.layers.slice(0, -1).map(layerName).join(', ')}`}
          {!sameValue(without, value) && <>; otherwise {valueText(property, without, unit, index)}</>}
          {pending ? (
            <button type="button" onClick={() => onDiscard(target, property.id)} className={styles.link}>
              discard
            </button>
          ) : (
            <button
              type="button"
              aria-label={`Clear ${targetLabel(target)}, ${property.label.toLowerCase()}, in ${layerName(winner)}`}
              title={`Take it out of ${layerName(winner)}`}
              onClick={() => onClear(winner.id, target, property.id)}
              className={styles.link}
            >
              clear
            </button>
          )}
        </div>
      )}
    </PropertyRow>
  );
}

const layerName = (l: ResolvedValue['layers'][number]): string => (l.kind === 'base' ? 'the base' : l.name);
