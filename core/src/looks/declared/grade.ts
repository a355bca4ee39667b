import { NEUTRAL_GRADE } from '../../image/index.ts';
import type { Rgb } from '../../scene/index.ts';
import type { Property } from '../property.ts';

const common = { facet: 'grade', on: 'grade' } as const;
/** In pictures, not in the real-time view. */
const LENS = { section: 'Lens' } as const;
const number = (
  id: string,
  label: string,
  min: number,
  max: number,
  step: number,
  unit: string,
  base: number,
  more: Partial<Pick<Property, 'section' | 'counts'>> = {},
): Property => ({
  ...common,
  ...more,
  id: `grade.${id}`,
  label,
  type: 'number',
  min,
  max,
  step,
  unit,
  base: () => base,
});
const channels = (id: string, label: string, min: number, max: number, base: Rgb): Property => ({
  ...common,
  section: 'Slope, offset, power',
  id: `grade.${id}`,
  label,
  type: 'vector',
  of: 'channels',
  min,
  max,
  step: 0.01,
  unit: '',
  base: () => base,
});

export const GRADE_PROPERTIES: readonly Property[] = [
  number('exposure', 'Exposure', -20, 20, 0.1, 'EV', NEUTRAL_GRADE.exposureEv),
  number('whiteKelvin', 'White is light of', 1700, 25_000, 100, 'K', NEUTRAL_GRADE.whiteKelvin),
  number('whiteTint', 'Green to magenta', -100, 100, 1, '', NEUTRAL_GRADE.whiteTint),
  channels('slope', 'Slope', 0, 10, NEUTRAL_GRADE.slope),
  channels('offset', 'Offset', -1, 1, NEUTRAL_GRADE.offset),
  channels('power', 'Power', 0.1, 10, NEUTRAL_GRADE.power),
  number('contrast', 'Contrast', 0.2, 3, 0.01, '×', NEUTRAL_GRADE.contrast),
  number('saturation', 'Saturation', 0, 3, 0.01, '×', NEUTRAL_GRADE.saturation),
  number('rolloff', 'Highlight rolloff', 0, 1, 0.01, '', NEUTRAL_GRADE.rolloff),
  {
    ...common,
    section: 'LUT',
    id: 'grade.lut',
    label: 'LUT',
    type: 'choice',
    choices: () => [{ value: 'none', label: 'None' }],
    brings: 'lut',
    base: () => 'none',
  },
  number('lutStrength', 'LUT by', 0, 1, 0.05, '×', NEUTRAL_GRADE.lutStrength, {
    section: 'LUT',
    counts: (get) => get('grade.lut') !== 'none',
  }),
  number('vignette', 'Vignette', 0, 2, 0.05, '', NEUTRAL_GRADE.vignette, LENS),
  number('bloom', 'Bloom', 0, 1, 0.01, '×', NEUTRAL_GRADE.bloom, LENS),
  number('bloomSize', 'Bloom size', 0.2, 25, 0.5, '%', NEUTRAL_GRADE.bloomSize * 100, {
    ...LENS,
    counts: (get) => get('grade.bloom') !== 0,
  }),
];
