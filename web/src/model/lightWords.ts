// What lights are called.
import type { LightType } from '@variscen/core/scene';

export const LIGHT_WORDS: Readonly<Record<LightType, string>> = {
  sun: 'Sun',
  point: 'Point light',
  spot: 'Spot light',
  rectangle: 'Rectangle light',
  disc: 'Disc light',
  ball: 'Ball light',
};
/** In the order in which they are offered. */
export const LIGHT_TYPES: readonly LightType[] = ['rectangle', 'disc', 'ball', 'spot', 'point', 'sun'];
