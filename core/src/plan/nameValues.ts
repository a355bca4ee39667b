// What the tokens of a file name stand for, for one cell.
import type { NameValues } from './names.ts';
import { type Profile, frameSize } from './profile.ts';

export interface NamedParts {
  readonly project: string;
  readonly camera: {
    readonly name: string;
    readonly settings: { readonly widthPx: number; readonly heightPx: number; readonly frame?: number | undefined };
  };
  readonly variant: string;
  /** The variant's options, in its order. */
  readonly options: readonly { readonly facet: string; readonly name: string }[];
  readonly profile: Pick<Profile, 'name' | 'sizeFactor' | 'widthPx'>;
  readonly version: number;
  /** Of a sequence; null: the camera's. */
  readonly frame: number | null;
  /** ISO 8601. */
  readonly at: string;
}

export function nameValuesOf({
  project,
  camera,
  variant,
  options,
  profile,
  version,
  frame,
  at,
}: NamedParts): NameValues {
  const named = (facet: string) =>
    options
      .filter((o) => o.facet === facet)
      .map((o) => o.name)
      .join('-');
  return {
    project,
    camera: camera.name,
    variant,
    lighting: named('lighting'),
    environment: named('environment'),
    materials: named('materials'),
    visibility: named('visibility'),
    placement: named('placement'),
    grade: named('grade'),
    profile: profile.name,
    version,
    frame: frame ?? camera.settings.frame ?? 0,
    ...frameSize(profile, camera.settings),
    at,
  };
}
