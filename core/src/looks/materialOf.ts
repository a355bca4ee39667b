// A material as a look has it, in the scene's own terms.
import type { MaterialLayers, Rgb, SceneMaterial, TextureSlot } from '../scene/index.ts';
import { type LaidMap, mapsOf } from './maps.ts';
import type { ResolvedState } from './resolve.ts';
import { materialTarget } from './targets.ts';

export interface MaterialNow extends Omit<SceneMaterial, 'textures'> {
  readonly maps: Partial<Readonly<Record<TextureSlot, LaidMap>>>;
  /** Where solids overlap, that of the highest is there alone. */
  readonly priority: number;
}
/** From here on light is never absorbed inside a solid, metres. */
const NEVER_M = 1e6;

/** Of a material of the scene, or a copy that a look makes of one. */
export function materialOf(state: ResolvedState, name: string): MaterialNow {
  const m = state.scene.material(name)!;
  const get = (p: string) => state.get(materialTarget(name), `material.${p}`);
  const number = (p: string, otherwise: number): number => {
    const v = get(p);
    return typeof v === 'number' ? v : otherwise;
  };
  const rgb = (p: string, otherwise: Rgb): Rgb => {
    const v = get(p);
    return Array.isArray(v) ? (v as unknown as Rgb) : otherwise;
  };
  const { textures: _, layers, ...rest } = m;
  const coat = number('coat', 0);
  const sheen = rgb('sheen', [0, 0, 0]);
  const anisotropy = number('anisotropy', 0);
  const iridescence = number('iridescence', 0);
  const distanceM = number('absorptionDistance', NEVER_M);
  const now: MaterialLayers = {
    ...layers,
    ...(layers?.alphaMode && { alpha: number('alpha', 1) }),
    ...(coat > 0 && { coat, coatRoughness: number('coatRoughness', 0) }),
    ...(Math.max(...sheen) > 0 && { sheen, sheenRoughness: number('sheenRoughness', 0) }),
    ...(anisotropy > 0 && { anisotropy }),
    ...(iridescence > 0 && {
      iridescence,
      iridescenceIor: layers?.iridescenceIor ?? 1.3,
      iridescenceNm: layers?.iridescenceNm ?? [100, 400],
    }),
  };
  return {
    ...rest,
    name,
    baseColor: rgb('baseColor', m.baseColor),
    metallic: number('metallic', m.metallic),
    roughness: number('roughness', m.roughness),
    transmission: number('transmission', m.transmission),
    ior: number('ior', m.ior),
    specular: number('specular', m.specular),
    emissionColor: rgb('emissionColor', m.emissionColor),
    emissionStrength: number('emissionStrength', m.emissionStrength),
    normalScale: number('normalScale', m.normalScale),
    attenuationColor: rgb('absorptionColor', m.attenuationColor),
    attenuationDistanceM: m.solid && distanceM < NEVER_M ? distanceM : null,
    ...(Object.keys(now).length && { layers: now }),
    priority: number('priority', 0),
    maps: mapsOf(state, name),
  };
}
