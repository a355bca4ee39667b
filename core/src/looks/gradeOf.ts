import { type Grade, NEUTRAL_GRADE, parseLut } from '../image/index.ts';
import type { Rgb } from '../scene/index.ts';
import type { ResolvedState } from './resolve.ts';

/** How a look is shown. */
export function gradeOf(state: Pick<ResolvedState, 'get'>): Grade {
  const get = (p: string) => state.get('grade', `grade.${p}`);
  const number = (p: string, otherwise: number) => {
    const v = get(p);
    return typeof v === 'number' ? v : otherwise;
  };
  const triple = (p: string, otherwise: Rgb): Rgb => {
    const v = get(p);
    return Array.isArray(v) ? (v as unknown as Rgb) : otherwise;
  };
  const n = NEUTRAL_GRADE;
  return {
    exposureEv: number('exposure', n.exposureEv),
    whiteKelvin: number('whiteKelvin', n.whiteKelvin),
    whiteTint: number('whiteTint', n.whiteTint),
    slope: triple('slope', n.slope),
    offset: triple('offset', n.offset),
    power: triple('power', n.power),
    contrast: number('contrast', n.contrast),
    saturation: number('saturation', n.saturation),
    rolloff: number('rolloff', n.rolloff),
    lut: parseLut(get('lut')) ?? null,
    lutStrength: number('lutStrength', n.lutStrength),
    vignette: number('vignette', n.vignette),
    bloom: number('bloom', n.bloom),
    bloomSize: number('bloomSize', n.bloomSize * 100) / 100,
  };
}
