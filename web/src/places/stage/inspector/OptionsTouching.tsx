import { type Change, type Property, optionsTouching } from '@variscen/core/looks';
import { plural } from '../../../ui/format.ts';
import { FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import styles from './Inspector.module.css';
import type { InspectorProps } from './inspected.ts';

/** Which options, used here or not, change something of what is selected. */
export function OptionsTouching({
  project,
  targets,
  destination,
  onDestination,
}: InspectorProps & { targets: readonly string[] }) {
  const found = optionsTouching(
    project.options as readonly { id: string; name: string; facet: Property['facet']; changes: Change[] }[],
    targets,
  );
  if (!found.length) return null;
  return (
    <section aria-label="Options that change it" className={styles.optionsThatChangeIt}>
      <h4>Options that change it</h4>
      {found.map((o) => (
        <button
          type="button"
          key={o.id}
          className={`chip ${styles.sendEditsThere}`}
          aria-pressed={destination.id === `option:${o.id}`}
          title="Send edits there"
          onClick={() => onDestination(`option:${o.id}`)}
          data-facet={facetOr(o.facet)}
        >
          <FacetGlyph facet={o.facet} size={11} />
          {o.name}{' '}
          <span className="faint">{plural(o.changes.filter((c) => targets.includes(c.target)).length, 'value')}</span>
        </button>
      ))}
    </section>
  );
}
