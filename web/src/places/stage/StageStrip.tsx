// Below the view: the panel of the strip whose tab is selected.
import { useEffect, useState } from 'react';
import { facetOr } from '../../ui/glyphs.tsx';
import { STRIP_PANELS } from './panels.tsx';
import type { StagePanelProps } from './stage.ts';
import styles from './StageStrip.module.css';

/** Shown until edits go to an option. */
const FIRST = 'lighting';

export function StageStrip({ stage }: StagePanelProps) {
  const { facet } = stage.destination;
  const [shownId, show] = useState<string>(facet ?? FIRST);
  useEffect(() => {
    if (facet) show(facet);
  }, [facet]);
  const Shown = STRIP_PANELS.find((p) => p.id === shownId)?.Panel;
  return (
    <section aria-label="Options" data-tour="options" className={styles.strip}>
      <div role="tablist" aria-label="Facets" className={styles.tabs}>
        {STRIP_PANELS.map((p) => (
          <button
            type="button"
            role="tab"
            key={p.id}
            aria-selected={p.id === shownId}
            onClick={() => show(p.id)}
            className={styles.tab}
            data-facet={p.facet && facetOr(p.facet)}
            data-on={p.id === shownId}
          >
            {p.glyph}
            {p.label}
          </button>
        ))}
      </div>
      {Shown && <Shown stage={stage} />}
    </section>
  );
}
