// Which meshes of a selection can be loaded piece by piece, and what they take.
import { BACKDROP } from './backdropMesh.ts';
import { emits } from './count.ts';
import type { JobCounts } from './memoryPlan.ts';
import type { SelectedMesh, Selection } from './selection.ts';
import { pieceBytes } from './storedMesh.ts';

/** Smaller meshes take less than what is known of their pieces. */
const LEAST_TRIANGLES = 64;

/** What gives light is whole, since all paths look for its light; so is what is posed or displaced, which is made anew. */
export function storable(s: Selection): (m: SelectedMesh, i: number) => boolean {
  const glows = s.materials.map(emits);
  const lights = new Set(s.instances.filter((o) => glows[o.material]).map((o) => o.mesh));
  const { meshes } = s.pose.now.document;
  return ({ mesh, node, displaced }, i) =>
    mesh !== BACKDROP && node === null && !displaced && !lights.has(i) && meshes[mesh]!.triangles >= LEAST_TRIANGLES;
}

/** Bytes of a job that need not be in memory all at once. */
export function storableBytes(s: Selection, { meshes }: JobCounts): number {
  const is = storable(s);
  return s.meshes.reduce((sum, m, i) => sum + (is(m, i) ? pieceBytes(meshes[i]!, meshes[i]!) : 0), 0);
}
