// What of a selection can be loaded part by part, and what it takes: meshes in pieces, textures in levels.
import { withPanels } from './areaLights.ts';
import { madeMesh } from './madeMeshes.ts';
import { emits, isPane } from './count.ts';
import { finerBytes } from './memoryPlan.ts';
import type { JobCounts } from './memoryPlaces.ts';
import type { EngineMaterial, TextureSlot } from './scene.ts';
import type { SelectedMesh, Selection } from './selection.ts';
import { pieceBytes } from './storedMesh.ts';

/** Smaller meshes take less than what is known of their pieces. */
const LEAST_TRIANGLES = 64;

/**
 * What gives light is whole, since all paths look for its light; so is what is posed or displaced, which is made anew.
 */
export function storable(s: Selection): (m: SelectedMesh, i: number) => boolean {
  const glows = s.materials.map(emits);
  const lights = new Set(s.instances.filter((o) => glows[o.material]).map((o) => o.mesh));
  const { meshes } = s.pose.now.document;
  return ({ mesh, node, displaced, standIn }, i) =>
    !madeMesh(mesh) &&
    node === null &&
    !displaced &&
    !lights.has(i) &&
    (standIn ?? meshes[mesh]!).triangles >= LEAST_TRIANGLES;
}

/**
 * Which textures need not be whole: all but those that are looked up in full, while rays are traced or lights are
 * picked.
 */
export function storableTextures(materials: readonly EngineMaterial[]): (texture: number) => boolean {
  const whole = new Set<number>();
  for (const m of materials) {
    for (const [slot, use] of Object.entries(m.textures ?? {}))
      if (isLookedUpInFull(m, slot as TextureSlot)) whole.add(use.texture);
  }
  return (texture) => !whole.has(texture);
}
function isLookedUpInFull(m: EngineMaterial, slot: TextureSlot): boolean {
  if (isPane(m)) return true; // by shadow rays
  if (slot === 'emission') return Math.max(...m.emission) > 0;
  return slot === 'base' && (m.alphaMode === 'mask' || m.alphaMode === 'blend');
}

/** Bytes of meshes that need not be in memory all at once. */
export function storableMeshBytes(s: Selection, { meshes }: JobCounts): number {
  const is = storable(s);
  return s.meshes.reduce((sum, m, i) => sum + (is(m, i) ? pieceBytes(meshes[i]!, meshes[i]!) : 0), 0);
}
/** Bytes of textures that need not be in memory all at once. */
export function storableTextureBytes({ textures, materials, lights }: Selection, capPx?: number): number {
  const is = storableTextures(withPanels(materials, lights));
  return textures.reduce((sum, t, i) => sum + (is(i) ? finerBytes({ ...t, stored: true }, capPx) : 0), 0);
}
