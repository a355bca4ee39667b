// What objects take in the engine's memory, counted from what is known of their meshes.
import type { SceneDocument, SceneMesh } from '../scene/index.ts';

/** Bytes of a vertex's normal, texture coordinates and colour, and of a triangle's corners. */
const BYTES = { normals: 12, uv0: 8, uv1: 8, colors: 16, triangle: 12 } as const;

/** Of a mesh with its structure, once, however often it is placed. */
export const meshBytes = (m: SceneMesh): number =>
  m.accelerationBytes +
  m.triangles * BYTES.triangle +
  m.vertices *
    ((m.normals ? BYTES.normals : 0) +
      (m.uv0 ? BYTES.uv0 : 0) +
      (m.uv1 ? BYTES.uv1 : 0) +
      (m.colors ? BYTES.colors : 0));

/**
 * By path: an object's meshes, each shared evenly among the objects that show it.
 * @param bytesOf what of a mesh counts
 */
export function objectBytes(
  { nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>,
  bytesOf: (mesh: SceneMesh) => number = meshBytes,
): Map<string, number> {
  const users = new Float64Array(meshes.length);
  for (const n of nodes) for (const p of n.parts ?? []) users[p.mesh]!++;
  const out = new Map<string, number>();
  for (const { path, parts } of nodes)
    if (parts)
      out.set(
        path,
        parts.reduce((sum, p) => sum + bytesOf(meshes[p.mesh]!) / users[p.mesh]!, 0),
      );
  return out;
}
