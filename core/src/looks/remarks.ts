// What a look says that the scene cannot show: each is said in the plan, by name, and none is replaced in silence.
import { parseSky } from '../environment/index.ts';
import { parseLut } from '../image/index.ts';
import { parseImage } from './images.ts';
import { parseProfile } from './photometry.ts';
import { propertyOf } from './properties.ts';
import type { ResolvedState } from './resolve.ts';
import { isAddedPath, parseTarget } from './targets.ts';

export interface LookRemarks {
  /** Recorded for what the scene does not have, with how many values. */
  readonly vanished: readonly { readonly target: string; readonly values: number }[];
  /** Values that name something that is not there: a material, a choice. */
  readonly unknown: readonly { readonly target: string; readonly property: string; readonly value: string }[];
  /** Content of files that the look brings, by hash, with what each is called. */
  readonly files: readonly { readonly hash: string; readonly name: string; readonly kind: FileKind }[];
}
type FileKind = 'environment map' | 'LUT' | 'image';

const isBrought = (value: string) =>
  (parseSky(value) ?? parseLut(value) ?? parseImage(value) ?? parseProfile(value)) !== undefined;

export function remarksOf(state: ResolvedState): LookRemarks {
  const vanished = new Map<string, number>();
  for (const { target, property } of state.unmatched) {
    const t = parseTarget(target);
    const isGone =
      t !== undefined &&
      propertyOf(property) !== undefined &&
      (t.kind === 'material'
        ? state.scene.material(t.name) === undefined
        : (t.kind === 'object' || t.kind === 'light') &&
          !isAddedPath(t.name) &&
          state.scene.indexOf(t.name) === undefined);
    if (isGone) vanished.set(target, (vanished.get(target) ?? 0) + 1);
  }
  const unknown: LookRemarks['unknown'][number][] = [];
  const files = new Map<string, LookRemarks['files'][number]>();
  for (const { target, property, value } of state.values.values()) {
    if (typeof value !== 'string' || property.type !== 'choice') continue;
    const [sky, lut, image] = [parseSky(value), parseLut(value), parseImage(value)];
    if (sky) files.set(sky.hash, { hash: sky.hash, name: sky.name, kind: 'environment map' });
    if (lut) files.set(lut.hash, { hash: lut.hash, name: lut.name, kind: 'LUT' });
    if (image) files.set(image.blob, { hash: image.blob, name: image.name, kind: 'image' });
    const isKnown =
      value === '' ||
      value === property.base(state.scene, parseTarget(target)!.name) ||
      isBrought(value) ||
      property.choices(state.scene).some((c) => c.value === value) ||
      (property.picks === 'object' && state.scene.indexOf(value) !== undefined) ||
      (property.id === 'object.material' && state.scene.material(value) !== undefined);
    if (!isKnown) unknown.push({ target, property: property.id, value });
  }
  return {
    vanished: [...vanished].map(([target, values]) => ({ target, values })),
    unknown,
    files: [...files.values()],
  };
}
