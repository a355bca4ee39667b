// What the strip shows: the options of a facet, all cameras, or all materials.
import { IconCircleHalf2, IconPhoto } from '@tabler/icons-react';
import { FACET_NAMES, type Facet } from '@variscen/core/looks';
import type { ReactNode } from 'react';
import { FACETS, FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import styles from './OptionStrip.module.css';

/** Materials are a facet too: what shows all of them has a name of its own. */
export type AllOf = 'allCameras' | 'allMaterials';
export type StripContent = Facet | AllOf;

interface Props {
  shown: StripContent;
  onShow: (content: StripContent) => void;
}
export function FacetTabs({ shown, onShow }: Props) {
  const tab = (content: StripContent, glyph: ReactNode, words: string, facet?: Facet) => (
    <button
      type="button"
      role="tab"
      key={content}
      aria-selected={shown === content}
      onClick={() => onShow(content)}
      className={styles.tab}
      data-facet={facet && facetOr(facet)}
      data-on={shown === content}
    >
      {glyph}
      {words}
    </button>
  );
  return (
    <div role="tablist" aria-label="Facets" className={styles.facets}>
      {FACETS.map((f) => tab(f, <FacetGlyph facet={f} />, FACET_NAMES[f], f))}
      {tab('allCameras', <IconPhoto size={12} stroke={1.6} />, 'All cameras')}
      {tab('allMaterials', <IconCircleHalf2 size={12} stroke={1.6} />, 'All materials')}
    </div>
  );
}
