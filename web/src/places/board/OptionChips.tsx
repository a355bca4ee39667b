import type { Project } from '@variscen/contract';
import { FacetGlyph, facetOr } from '../../ui/glyphs.tsx';

export function OptionChips({ project, optionIds }: { project: Project; optionIds: readonly string[] }) {
  return (
    <>
      {optionIds
        .map((id) => project.options.find((o) => o.id === id))
        .filter((o) => o !== undefined)
        .map((o) => (
          <div key={o.id} className="chip" data-facet={facetOr(o.facet)}>
            <FacetGlyph facet={o.facet} size={11} />
            <span className="ellipsis">{o.name}</span>
          </div>
        ))}
    </>
  );
}
