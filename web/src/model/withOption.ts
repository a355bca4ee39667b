import type { Project } from '@variscen/contract';
import type { Facet } from '@variscen/core/looks';

/** The variant with this option instead of those of its facet. */
export const withOption = (
  project: Pick<Project, 'options'>,
  optionIds: readonly string[],
  facet: Facet,
  id: string | null,
): string[] => {
  const others = optionIds.filter((x) => project.options.find((o) => o.id === x)?.facet !== facet);
  return id === null ? others : [...others, id];
};
