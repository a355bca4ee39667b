// The grade of a picture's look, and what it is with some values changed.
import type { Project } from '@variscen/contract';
import type { Grade } from '@variscen/core/image';
import { type SceneIndex, type Value, gradeOf, layersOf, propertiesFor, resolve } from '@variscen/core/looks';
import type { Listed } from '../../../model/review/strip.ts';

/** Values of the grade by property, as they are kept now; what is pending is in no picture. */
export function lookGrade(
  { base, options, patches }: Project,
  index: SceneIndex,
  { camera, variant }: Pick<Listed, 'camera' | 'variant'>,
): ReadonlyMap<string, Value> {
  const state = resolve(index, layersOf({ base, options, patches } as never, variant, camera.id));
  return new Map(propertiesFor(index, 'grade').map((p) => [p.id, state.get('grade', p.id)!]));
}
export const gradeWith = (look: ReadonlyMap<string, Value>, changed: ReadonlyMap<string, Value>): Grade =>
  gradeOf({ get: (_, property) => changed.get(property) ?? look.get(property) });
