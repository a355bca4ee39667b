// What a profile sets, in the order and the words in which it is shown.
import type { Aov, ProfileSettings } from '@variscen/core/plan';

export interface NumberSetting {
  readonly kind: 'number';
  readonly key: 'samples' | 'noise' | 'timeLimitS' | 'maxBounces' | 'clampIndirect' | 'denoise' | 'textureCapPx';
  readonly label: string;
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  readonly step?: number;
  readonly decimals?: number;
  readonly scale?: 'log';
  /** What no value means, where there may be none. */
  readonly none?: string;
  /** Shown and typed as so many times the value. */
  readonly times?: number;
}

export const NUMBERS: readonly NumberSetting[] = [
  {
    kind: 'number',
    key: 'samples',
    label: 'Samples, at most',
    unit: '',
    min: 1,
    max: 65_536,
    decimals: 0,
    scale: 'log',
  },
  {
    kind: 'number',
    key: 'noise',
    label: 'Noise, down to',
    unit: '%',
    min: 0.01,
    max: 100,
    step: 0.1,
    times: 100,
    none: 'all samples',
  },
  { kind: 'number', key: 'timeLimitS', label: 'Time limit', unit: 's', min: 1, max: 1e6, decimals: 0, none: 'none' },
  { kind: 'number', key: 'maxBounces', label: 'Bounces', unit: '', min: 0, max: 64, decimals: 0 },
  { kind: 'number', key: 'clampIndirect', label: 'Clamp indirect light', unit: 'nits', min: 0, max: 1e6, step: 0.5 },
  { kind: 'number', key: 'denoise', label: 'Denoise', unit: '%', min: 0, max: 100, times: 100, decimals: 0 },
  {
    kind: 'number',
    key: 'textureCapPx',
    label: 'Textures, at most',
    unit: 'px',
    min: 1,
    max: 65_536,
    decimals: 0,
    scale: 'log',
    none: 'as they are',
  },
];

export const INTEGRATOR_WORDS: Readonly<Record<ProfileSettings['integrator'], string>> = {
  full: 'All light',
  direct: 'Direct light only',
  clay: 'All light, on clay',
};
export const AOV_WORDS: Readonly<Record<Aov, string>> = {
  depth: 'Depth',
  position: 'Position',
  normal: 'Normal',
  geometricNormal: 'Geometric normal',
  albedo: 'Albedo',
  emission: 'Emission',
  direct: 'Direct light',
  indirect: 'Indirect light',
  objects: 'Object ids',
  materials: 'Material ids',
  samples: 'Samples',
  noise: 'Noise',
  lightGroups: 'Light groups',
  motion: 'Motion',
  leftOut: 'Cost of what is left out',
};

/** Settings that can be excepted, with what they are called. */
export const EXCEPTABLE = [
  ['size', 'Size', ['sizeFactor', 'widthPx']],
  ['integrator', 'Light', ['integrator']],
  ['samples', 'Samples', ['samples']],
  ['noise', 'Noise', ['noise']],
  ['timeLimitS', 'Time limit', ['timeLimitS']],
  ['maxBounces', 'Bounces', ['maxBounces']],
  ['clampIndirect', 'Clamp', ['clampIndirect']],
  ['denoise', 'Denoise', ['denoise']],
  ['textureCapPx', 'Textures', ['textureCapPx']],
  ['aovs', 'AOVs', ['aovs', 'floatAovs', 'lightGroups']],
  ['files', 'Files', ['files']],
] as const satisfies readonly (readonly [string, string, readonly (keyof ProfileSettings)[]])[];
export type Exceptable = (typeof EXCEPTABLE)[number][0];

/** What settings set, in words: "Samples 64, Denoise 0 %, Files". */
export const settingWords = (settings: Partial<ProfileSettings>): string =>
  EXCEPTABLE.filter(([, , keys]) => keys.some((k) => k in settings))
    .map(([name, label]) => [label, valueWords(settings, name)].filter(Boolean).join(' '))
    .join(', ');

function valueWords(settings: Partial<ProfileSettings>, name: Exceptable): string {
  if (name === 'integrator') return INTEGRATOR_WORDS[settings.integrator!].toLowerCase();
  if (name === 'size')
    return settings.widthPx
      ? `${settings.widthPx} px wide`
      : `${Number(((settings.sizeFactor ?? 1) * 100).toPrecision(3))} %`;
  const number = NUMBERS.find((n) => n.key === name);
  if (!number) return '';
  const value = settings[number.key];
  if (value === null || value === undefined) return number.none ?? '';
  const shown = Number((value * (number.times ?? 1)).toPrecision(4));
  return `${shown}${number.unit ? ` ${number.unit}` : ''}`;
}
