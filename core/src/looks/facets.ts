// The six independent kinds of scene state.
export const FACETS = ['lighting', 'environment', 'materials', 'visibility', 'placement', 'grade'] as const;
export type Facet = (typeof FACETS)[number];
export const FACET_NAMES: Readonly<Record<Facet, string>> = {
  lighting: 'Lighting',
  environment: 'Environment',
  materials: 'Materials',
  visibility: 'Visibility',
  placement: 'Placement',
  grade: 'Grade',
};
