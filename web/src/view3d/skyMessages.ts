// What the page and the worker that reads environment maps say to each other.
import type { EnvironmentMap, ImportedSky } from '@variscen/core/environment';

export interface SkyAsked {
  readonly id: number;
  readonly sky: ImportedSky;
  readonly maxHeight: number;
}
export type SkyAnswer =
  { readonly id: number; readonly map: EnvironmentMap } | { readonly id: number; readonly failed: string };
