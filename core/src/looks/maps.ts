// Which images a material's surface shows in a look, and how they lie on it: for the engine and the view alike.
import type { SceneTexture, TextureRef, TextureSlot } from '../scene/index.ts';
import { parseImage } from './images.ts';
import { TEXTURE_PROPERTIES, type Value } from './properties.ts';
import type { ResolvedState } from './resolve.ts';
import { materialTarget } from './targets.ts';

export interface LaidMap extends Omit<TextureRef, 'texture'> {
  readonly texture: SceneTexture;
}
const PROPERTY_OF_SLOT: ReadonlyMap<string, string> = new Map(
  Object.entries(TEXTURE_PROPERTIES).map(([property, slot]) => [slot, property]),
);
type Get = (property: string) => Value | undefined;

/**
 * The maps of a material by slot. A map that a look puts where the scene has none lies as the material's base map does
 * or, without one, once over the first coordinates.
 */
export function mapsOf(state: ResolvedState, material: string): Partial<Record<TextureSlot, LaidMap>> {
  const m = state.scene.material(material)!;
  const get: Get = (p) => state.get(materialTarget(material), p);
  const out: Partial<Record<TextureSlot, LaidMap>> = {};
  const { textures } = state.scene.document;
  for (const slot of new Set([...Object.keys(m.textures), ...Object.values(TEXTURE_PROPERTIES)]) as Set<TextureSlot>) {
    const ref = m.textures[slot];
    const own = ref && textures[ref.texture];
    const property = PROPERTY_OF_SLOT.get(slot);
    const value = property && get(property);
    const texture = property === undefined || value === own?.name ? own : textureNamed(state, value);
    if (texture) out[slot] = { texture, ...lying(ref ?? m.textures.base, get) };
  }
  return out;
}
/** What displaces a material's surface, lying as its base map does; undefined where nothing does. */
export function displacementMapOf(state: ResolvedState, material: string): LaidMap | undefined {
  const get: Get = (p) => state.get(materialTarget(material), p);
  const texture = textureNamed(state, get('material.displacementMap'));
  return texture && { texture, ...lying(state.scene.material(material)?.textures.base, get) };
}

/** A texture of the scene by its name, or an image that was brought in. */
export const textureNamed = (state: ResolvedState, value: Value | undefined): SceneTexture | undefined =>
  value === undefined || value === 'none'
    ? undefined
    : (parseImage(value) ?? state.scene.document.textures.find((t) => t.name === value));

/** As the scene has it, turned about the middle of the picture and repeated as the look says. */
function lying(ref: Omit<TextureRef, 'texture'> | undefined, get: Get): Omit<TextureRef, 'texture'> {
  const {
    uvSet,
    wrapS,
    wrapT,
    matrix: m,
  } = ref ?? ({ uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [1, 0, 0, 0, 1, 0] } as const);
  const repeat = get('material.mapScale');
  const turned = get('material.mapTurn');
  const k = typeof repeat === 'number' ? repeat : 1;
  const turn = typeof turned === 'number' ? turned : 0;
  if (k === 1 && turn === 0) return { uvSet, wrapS, wrapT, matrix: m };
  const c = Math.cos((turn * Math.PI) / 180);
  const s = Math.sin((turn * Math.PI) / 180);
  const x = 0.5 - 0.5 * c + 0.5 * s;
  const y = 0.5 - 0.5 * s - 0.5 * c;
  return {
    uvSet,
    wrapS,
    wrapT,
    matrix: [
      k * (m[0] * c + m[1] * s),
      k * (m[1] * c - m[0] * s),
      k * (m[0] * x + m[1] * y) + m[2],
      k * (m[3] * c + m[4] * s),
      k * (m[4] * c - m[3] * s),
      k * (m[3] * x + m[4] * y) + m[5],
    ],
  };
}
