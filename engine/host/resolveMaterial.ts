// Materials as a look has them, in the engine's terms.
import { type LaidMap, type ResolvedState, displacementMapOf, materialOf, materialTarget } from '@variscen/core/looks';
import type { SceneTexture } from '@variscen/core/scene';
import { num, scaled } from './looked.ts';
import { PLAIN_MATERIAL } from './plainMaterial.ts';
import type { EngineMaterial, TextureSlot, TextureUse, Vec3 } from './scene.ts';
import type { DisplacedUse } from './selection.ts';

/**
 * A material of the scene, or a copy of one, as a look has it. texture: gives an image, read as colours or as numbers,
 * its place in the engine's list.
 */
export function resolveMaterial(
  state: ResolvedState,
  name: string,
  texture: (t: SceneTexture, srgb: boolean) => number,
): EngineMaterial {
  const {
    maps,
    layers = {},
    attenuationColor,
    attenuationDistanceM,
    emissionColor,
    emissionStrength,
    baseColor,
    solid,
    label: _,
    ...m
  } = materialOf(state, name);
  const { alpha, ...rest } = layers;
  const textures: Partial<Record<TextureSlot, TextureUse>> = {};
  // Beer–Lambert: light has the inner colour after the distance
  const attenuation: Vec3 =
    attenuationDistanceM === null
      ? [0, 0, 0]
      : (attenuationColor.map((c) => -Math.log(Math.max(c, 1e-4)) / attenuationDistanceM) as unknown as Vec3);
  for (const [slot, { texture: t, ...use }] of Object.entries(maps) as [TextureSlot, LaidMap][])
    textures[slot] = { texture: texture(t, COLOR_TEXTURES.has(slot)), srgb: COLOR_TEXTURES.has(slot), ...use };
  return {
    ...m,
    baseColor: [...baseColor, rest.alphaMode ? (alpha ?? 1) : 1],
    emission: scaled(emissionColor, emissionStrength),
    attenuation,
    solid,
    ...rest,
    textures,
  };
}
const COLOR_TEXTURES: ReadonlySet<TextureSlot> = new Set(['base', 'emission', 'specularColor', 'sheen']);

/** What a material's surface is displaced by, if anything; the map lies as its base texture does. */
export function displacementOf(state: ResolvedState, material: string): Omit<DisplacedUse, 'placements'> | undefined {
  const heightM = num(state.get(materialTarget(material), 'material.displacement'));
  const map = heightM === 0 ? undefined : displacementMapOf(state, material);
  if (!map) return undefined;
  const { texture, ...use } = map;
  return { texture, heightM, use };
}

const CLAY_COLOR = 0.55;
const CLAY_ROUGHNESS = 0.85;
/** A material as clay: its form only. What glows goes on glowing, what is cut out stays cut out. */
export function clay(m: EngineMaterial): EngineMaterial {
  const { normal, base } = m.textures ?? {};
  const cut = m.alphaMode === 'mask' || m.alphaMode === 'blend';
  return {
    ...PLAIN_MATERIAL,
    ...(m.name !== undefined && { name: m.name }),
    baseColor: [CLAY_COLOR, CLAY_COLOR, CLAY_COLOR, m.baseColor[3]],
    roughness: CLAY_ROUGHNESS,
    specular: 0.5,
    emission: m.emission,
    normalScale: m.normalScale,
    doubleSided: m.doubleSided,
    ...(cut && { alphaMode: m.alphaMode!, alphaCutoff: m.alphaCutoff ?? 0.5 }),
    textures: {
      ...(normal && { normal }),
      ...(cut && base && { base }),
      ...(m.textures?.emission && { emission: m.textures.emission }),
    },
  };
}
