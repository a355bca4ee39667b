// Chooses options, facet by facet; the order of choosing is their order of force.
import { Checkbox } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { FACETS, FacetGlyph, facetOr, facetName } from '../../ui/glyphs.tsx';
import styles from './OptionPicker.module.css';

export function OptionPicker({
  project,
  selected,
  onChange,
}: {
  project: Project;
  selected: readonly string[];
  onChange: (ids: string[]) => void;
}) {
  if (project.options.length === 0)
    return <p className="dim">There are no options yet. Record one on the stage first.</p>;
  /** Where several of one facet are selected: which of them it is. */
  const order = (id: string, f: string) => {
    const same = selected.filter((x) => project.options.find((o) => o.id === x)?.facet === f);
    return same.length > 1 && same.includes(id) ? <span className="mono faint"> {same.indexOf(id) + 1}</span> : null;
  };
  return (
    <>
      <p className={`dim ${styles.whereTwoOptions}`}>
        Where two options of one facet set the same value, the later one wins.
      </p>
      {FACETS.filter((f) => project.options.some((o) => o.facet === f)).map((f) => (
        <fieldset key={f} className={styles.options}>
          <legend className={`chip ${styles.chip}`} data-facet={facetOr(f)}>
            <FacetGlyph facet={f} />
            {facetName(f)}
          </legend>
          {project.options
            .filter((o) => o.facet === f)
            .map((o) => (
              <Checkbox
                key={o.id}
                size="xs"
                mb={4}
                label={
                  <>
                    {o.name}
                    {order(o.id, f)}
                  </>
                }
                aria-label={o.name}
                checked={selected.includes(o.id)}
                onChange={(e) =>
                  onChange(e.currentTarget.checked ? [...selected, o.id] : selected.filter((x) => x !== o.id))
                }
              />
            ))}
        </fieldset>
      ))}
    </>
  );
}
