// Which pieces of the selected meshes are left out.
import { type LeftOutOfMesh, unpackMet } from '@variscen/core/cull';
import type { SceneDocument } from '@variscen/core/scene';
import { emits } from './count.ts';
import { madeMesh } from './madeMeshes.ts';
import type { MeshCounts } from './memoryPlaces.ts';
import type { EngineInstance, EngineMaterial, StoredMesh } from './scene.ts';
import type { SelectedMesh } from './selection.ts';

interface Shown {
  readonly meshes: readonly SelectedMesh[];
  readonly instances: readonly Pick<EngineInstance, 'mesh' | 'material' | 'name'>[];
  readonly materials: readonly Pick<EngineMaterial, 'transmission' | 'emission' | 'unlit'>[];
}
/**
 * The meshes, with what a plan leaves out of them. Whole are meshes that are made anew for the picture, that something
 * stands in for, that give light, or that are of glass here, whose back belongs to its front.
 * @param named by hash of the mesh
 */
export function withPiecesLeftOut(
  { meshes, instances, materials }: Shown,
  document: Pick<SceneDocument, 'meshes'>,
  named: ReadonlyMap<string, LeftOutOfMesh> | undefined,
): readonly SelectedMesh[] {
  if (!named?.size) return meshes;
  const isWhole = new Set<number>();
  const names = new Map<number, string>();
  for (const { mesh, material, name } of instances) {
    const m = materials[material]! as EngineMaterial;
    if (m.transmission > 0 || emits(m)) isWhole.add(mesh);
    if (!names.has(mesh)) names.set(mesh, name);
  }
  return meshes.map((m, i) => {
    if (m.node !== null || m.displaced || m.standIn || isWhole.has(i) || madeMesh(m.mesh)) return m;
    const pieces = named.get(document.meshes[m.mesh]!.blob);
    return pieces ? { ...m, leftOut: { ...pieces, name: names.get(i) ?? '' } } : m;
  });
}
/** As the engine is given it; whole where it is divided otherwise than it was when it was measured. */
export function storedWithout(mesh: StoredMesh, { leftOut }: SelectedMesh): StoredMesh {
  if (leftOut?.count !== mesh.head.pieces.length) return mesh;
  const { name, nits, pieces, count } = leftOut;
  return { ...mesh, leftOut: { isLeftOut: unpackMet(pieces, count), name, nits } };
}
/** What is left of a mesh, about: a piece's share of its bytes is taken to be that of its triangles. */
export function countsWithout<C extends MeshCounts>(counts: C, { leftOut }: SelectedMesh): C {
  if (!leftOut) return counts;
  const left = (n: number): number => Math.ceil(n * (1 - leftOut.bytesShare));
  return {
    ...counts,
    vertices: left(counts.vertices),
    triangles: left(counts.triangles),
    accelerationBytes: left(counts.accelerationBytes),
  };
}
