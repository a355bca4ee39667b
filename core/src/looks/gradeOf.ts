import { type Grade, NEUTRAL_GRADE } from '../image/index.ts';
import type { ResolvedState } from './resolve.ts';

/** How a look is shown. */
export function gradeOf(state: ResolvedState): Grade {
  const get = (p: string, otherwise: number) => { const v = state.get('grade', `grade.${p}`); return typeof v === 'number' ? v : otherwise; };
  return { exposureEv: get('exposure', NEUTRAL_GRADE.exposureEv), contrast: get('contrast', 1), saturation: get('saturation', 1), rolloff: get('rolloff', NEUTRAL_GRADE.rolloff) };
}
