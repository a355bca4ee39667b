// Displaced meshes of a selection: made for a camera and a picture size, counted by making them.
import { displace } from '@variscen/core/displace';
import type { Profile } from '@variscen/core/plan';
import { halfHeightOf } from '@variscen/core/scene';
import type { Selection, SelectionData } from './selection.ts';
import type { Engine } from './engine.ts';
import type { MeshCounts } from './memoryPlaces.ts';
import type { EngineMesh } from './scene.ts';

export interface DisplacedMesh {
  readonly mesh: EngineMesh;
  /** The limit of triangles ended it before its edges were as short as wanted. */
  readonly limited: boolean;
}

/** By their place in the selection's list of meshes. */
export async function displacedMeshes(
  s: Selection,
  data: Pick<SelectionData, 'geometry' | 'pixels'>,
  { edgePx, farM, maxTriangles }: Profile['displacement'],
  heightPx: number,
): Promise<Map<number, DisplacedMesh>> {
  const { document, camera } = s.pose.now;
  const out = new Map<number, DisplacedMesh>();
  for (const [i, { mesh, displaced }] of s.meshes.entries()) {
    if (!displaced) continue;
    const m = document.meshes[mesh]!;
    const t = displaced.texture;
    const made = displace(await data.geometry(mesh), {
      placements: displaced.placements,
      eye: [camera.matrix[12]!, camera.matrix[13]!, camera.matrix[14]!],
      pixelsPerM: heightPx / (2 * halfHeightOf(camera)),
      parallel: camera.projection === 'orthographic',
      edgePx,
      farM,
      maxTriangles,
      heightM: displaced.heightM,
      map: { width: t.width, height: t.height, data: await data.pixels(t), use: displaced.use },
    });
    if (made) out.set(i, { mesh: { name: m.name, ...made.geometry }, limited: made.limited });
  }
  return out;
}

/** What displaced meshes take, measured by making them and building their structures. */
export async function countDisplaced(
  meshes: ReadonlyMap<number, DisplacedMesh>,
  engine: Engine,
): Promise<Map<number, MeshCounts>> {
  const out = new Map<number, MeshCounts>();
  for (const [i, { mesh: m }] of meshes)
    out.set(i, {
      vertices: m.positions.length / 3,
      triangles: m.indices.length / 3,
      normals: true,
      uv0: !!m.uv0,
      uv1: !!m.uv1,
      colors: !!m.colors,
      accelerationBytes: await engine.measureMesh(m),
    });
  return out;
}
