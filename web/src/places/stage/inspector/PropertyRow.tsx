// A row of the inspector: what kind of look sets it, its name, its editor, and what is said below. The name of a number
// is dragged to change it.
import type { Property, Value } from '@variscen/core/looks';
import type { ReactNode } from 'react';
import { DragLabel } from '../../../ui/DragLabel.tsx';
import { facetOr } from '../../../ui/glyphs.tsx';
import styles from './Inspector.module.css';

interface Props {
  property: Property;
  glyph?: ReactNode;
  /** null: several that differ. */
  value: Value | null;
  onChange: (v: Value) => void;
  editor: ReactNode;
  children?: ReactNode;
}
export function PropertyRow({ property, glyph, value, onChange, editor, children }: Props) {
  return (
    <div className={styles.value} data-kind={property.type}>
      <span className={styles.source} data-facet={facetOr(property.facet)}>
        {glyph}
      </span>
      {property.type === 'number' ? (
        <DragLabel
          value={value === null ? null : Number(value)}
          range={property}
          title={`${property.label}: drag to change it`}
          className="dim ellipsis"
          onChange={onChange}
        >
          {property.label}
        </DragLabel>
      ) : (
        <span className="dim ellipsis" title={property.label}>
          {property.label}
          {property.type === 'vector' && <span className="faint"> {property.unit}</span>}
        </span>
      )}
      {editor}
      {children}
    </div>
  );
}
