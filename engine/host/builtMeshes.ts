// Builds the structures of meshes: by themselves, to measure or to keep them, or in a job's memory.
import * as K from '../kernel/layout/index.ts';
import { checkScene } from './check.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import type { MeshCache } from './meshCache.ts';
import { packMesh } from './pack.ts';
import type { KernelPool } from './pool.ts';
import { EngineError, type EngineMesh, type SceneMesh, isStored } from './scene.ts';
import { type Views, viewsOf } from './views.ts';

const align = (n: number, to: number) => Math.ceil(n / to) * to;

/** Where a structure stands, and how long it is; its root comes first. */
export interface BuiltStructure {
  readonly at: number;
  readonly bytes: number;
}
/** Builds a mesh in memory of which nothing else is in use. */
export async function buildAlone(pool: KernelPool, mesh: EngineMesh): Promise<BuiltStructure> {
  checkScene({ meshes: [mesh], materials: [], textures: [], instances: [], lights: [] });
  const vertices = mesh.positions.length / 3;
  const triangles = mesh.indices.length / 3;
  const positions = K.MEMORY.FIRST_ADDRESS;
  const indices = align(positions + vertices * 12 + 16, 64);
  const records = align(indices + triangles * 12, 64);
  const scratch = align(records + triangles * K.BUILD.RECORD_BYTES, 64);
  const at = align(scratch + K.BUILD.SCRATCH_BYTES, 64);
  // at most one block a triangle, and one node for every two leaves beside the root
  pool.reserve(at + triangles * K.BLOCK.BYTES + (triangles + 2) * (K.NODE.BYTES + 64));
  const v = viewsOf(pool.memory);
  v.f32.set(mesh.restPositions ?? mesh.positions, positions >>> 2);
  v.u32.set(mesh.indices, indices >>> 2);
  await pool.call(0, 'buildMesh', positions, indices, triangles, records, scratch, at);
  return { at, bytes: (await pool.call(0, 'buildEnd')) - at };
}

/**
 * Writes and builds a job's meshes. Returns the root of each; that of a stored one is a node whose stubs come later.
 */
export async function buildMeshes(
  pool: KernelPool,
  cache: MeshCache | undefined,
  meshes: readonly SceneMesh[],
  plan: MemoryPlan,
  acceleration: readonly number[],
): Promise<number[]> {
  const v = viewsOf(pool.memory);
  const roots: number[] = [];
  for (const [i, m] of meshes.entries()) {
    const place = plan.meshes[i]!;
    if (isStored(m)) {
      roots.push(place.acceleration);
      continue;
    }
    packMesh(v, m, place);
    const root =
      takeKnown(pool, cache, m, place.acceleration, acceleration[i]!) ??
      (await buildOne(pool, cache, v, m, plan, place, acceleration[i]!));
    if (m.restPositions) {
      v.f32.set(m.positions, plan.build.positions >>> 2);
      await pool.call(0, 'refitMesh', root, plan.build.positions, place.indices, plan.build.scratch);
    }
    roots.push(root);
  }
  return roots;
}
function takeKnown(
  { memory }: KernelPool,
  cache: MeshCache | undefined,
  { contentKey }: EngineMesh,
  at: number,
  bytes: number,
): number | undefined {
  return contentKey === undefined ? undefined : cache?.take(contentKey, memory.buffer, at, bytes);
}
async function buildOne(
  pool: KernelPool,
  cache: MeshCache | undefined,
  v: Views,
  m: EngineMesh,
  plan: MemoryPlan,
  place: MemoryPlan['meshes'][number],
  bytes: number,
): Promise<number> {
  const { positions, records, scratch } = plan.build;
  const at = place.acceleration;
  v.f32.set(m.restPositions ?? m.positions, positions >>> 2);
  const root = await pool.call(0, 'buildMesh', positions, place.indices, m.indices.length / 3, records, scratch, at);
  const built = (await pool.call(0, 'buildEnd')) - at;
  if (built !== bytes)
    throw new EngineError(
      'BAD_MESH',
      `Mesh “${m.name}” took ${built} bytes instead of the ${bytes} measured before. Import the scene again.`,
    );
  if (m.contentKey) cache?.put(m.contentKey, pool.memory.buffer, at, built, root);
  return root;
}
