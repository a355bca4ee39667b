// Facet glyphs and cell states: each is told by its shape first, colour only repeats it.
import type { CellStatus } from '@variscen/contract';
import { FACETS, FACET_NAMES, type Facet } from '@variscen/core/looks';

const FACET_PATHS: Readonly<Record<Facet, string>> = {
  lighting: 'M3 9a3 3 0 1 1 6 0zM6 .8v2M1.3 3l1.4 1.2M10.7 3 9.3 4.2M2.5 11h7',
  environment: 'M1 6a5 5 0 1 0 10 0a5 5 0 1 0-10 0M1.2 7.2c2-1.4 3.4-1.4 4.8 0s3 1.4 4.8 0',
  materials: 'M1 8.5 8.5 1 11 3.5 3.5 11zM4.6 5 7 7.4',
  visibility: 'M1 1h4M1 1v4M11 11H7M11 11V7M4 6a2 2 0 1 0 4 0a2 2 0 1 0-4 0',
  placement: 'M1 5h6v6H1zM4.5 1H11v6.5',
  grade: 'M1 11V1M1 11h10M1.5 10.5C5 10 5 2.5 10.8 2',
};
export const FacetGlyph = ({ facet, size = 12 }: { facet: Facet; size?: number }) => (
  <svg
    width={size}
    height={size}
    viewBox="0 0 12 12"
    fill="none"
    stroke="currentColor"
    strokeWidth={1.3}
    aria-hidden
    className="glyph"
  >
    <path d={FACET_PATHS[facet]} />
  </svg>
);
/** For the attribute data-facet, which sets the colour --fc (app/tokens.css). */
export const facetOr = (facet: Facet | null | undefined): Facet | 'none' => facet ?? 'none';
export const facetName = (facet: Facet): string => FACET_NAMES[facet];
export { FACETS };

export const STATUS_WORDS: Readonly<Record<CellStatus, string>> = {
  never: 'Never rendered',
  current: 'Up to date',
  outdated: 'Out of date',
  waiting: 'Waiting',
  rendering: 'Rendering',
  failed: 'Failed',
  excluded: 'Left out',
};
/**
 * The arc of a rendering cell moves with its progress, not by itself: with a mark that turned all the time, four cells
 * took 121 to 156 s beside a page drawn in software; without, 82 to 97 s.
 */
export function StateMark({ status, fraction = 0 }: { status: CellStatus; fraction?: number }) {
  const ring = <circle cx="6" cy="6" r="4.2" fill="none" stroke="#ededed" strokeWidth="1.4" />;
  const shape = {
    never: <path d="M2 6h8" stroke="#a8a8a8" strokeWidth="1.6" />,
    excluded: <path d="M2 6h8" stroke="#8a8a8a" strokeWidth="1.6" strokeDasharray="2 1.5" />,
    current: <circle cx="6" cy="6" r="4.2" fill="#ededed" />,
    outdated: (
      <>
        {ring}
        <path d="M6 1.8a4.2 4.2 0 0 0 0 8.4z" fill="#ededed" />
      </>
    ),
    waiting: ring,
    rendering: (
      <>
        <circle cx="6" cy="6" r="4.2" fill="none" stroke="#ffffff55" strokeWidth="2" />
        <circle
          cx="6"
          cy="6"
          r="4.2"
          fill="none"
          stroke="var(--go)"
          strokeWidth="2.2"
          strokeDasharray={`${Math.max(0.08, fraction) * 26.4} 26.4`}
          transform="rotate(-90 6 6)"
        />
      </>
    ),
    failed: <path d="M2.5 2.5l7 7M9.5 2.5l-7 7" stroke="var(--bad)" strokeWidth="2" />,
  }[status];
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={STATUS_WORDS[status]} className="glyph">
      {shape}
    </svg>
  );
}
