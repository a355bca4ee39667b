import type { Change, Inputs } from '@variscen/core/looks';

/** What a picture is made from, as changes of its scene. */
export const asChanges = (values: Inputs['values']): Change[] =>
  values.map(([target, property, value]) => ({ target, property, value }));
