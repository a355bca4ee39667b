// An underlined part of the sentence that opens a list.
import { Menu } from '@mantine/core';
import type { Facet } from '@variscen/core/looks';
import type { ReactNode } from 'react';
import { FacetGlyph, facetOr } from '../ui/glyphs.tsx';
import styles from './Pick.module.css';

export interface Choice {
  readonly id: string;
  readonly label: string;
  readonly facet?: Facet | undefined;
  readonly section?: string;
}

export function Pick({
  label,
  value,
  facet,
  choices,
  onPick,
  footer,
}: {
  label: string;
  value: string;
  facet?: Facet | undefined;
  choices: readonly Choice[];
  onPick: (id: string) => void;
  footer?: ReactNode;
}) {
  let section: string | undefined;
  return (
    <Menu position="bottom-start" offset={8}>
      <Menu.Target>
        <button
          type="button"
          className={`pick ellipsis ${facet ? 'facet' : ''}`}
          data-facet={facetOr(facet ?? null)}
          aria-label={`${label}: ${value}`}
        >
          {facet && <FacetGlyph facet={facet} size={13} />}
          <span className="ellipsis">{value}</span>
        </button>
      </Menu.Target>
      <Menu.Dropdown mah={520} className={styles.choices}>
        {choices.map((c) => {
          const heading = c.section !== section ? c.section : undefined;
          section = c.section;
          return [
            heading !== undefined && <Menu.Label key={`s ${heading}`}>{heading}</Menu.Label>,
            <Menu.Item
              key={c.id}
              onClick={() => onPick(c.id)}
              leftSection={
                c.facet && (
                  <span className={styles.facetGlyphFrame} data-facet={facetOr(c.facet)}>
                    <FacetGlyph facet={c.facet} />
                  </span>
                )
              }
            >
              {c.label}
            </Menu.Item>,
          ];
        })}
        {footer}
      </Menu.Dropdown>
    </Menu>
  );
}
