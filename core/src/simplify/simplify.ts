// A mesh with fewer triangles that is off by about a given distance at most, as the simplifier reckons it: by the
// planes of the triangles that go.
import { MeshoptSimplifier } from 'meshoptimizer';
import type { Geometry } from '../scene/index.ts';

/** Of its surface so much stays: what is smaller than the tolerance, as leaves are, would vanish. */
const LEAST_AREA = 0.95;
/** How often the tolerance is halved until it does. */
const HALVINGS = 8;

/**
 * Corners are some of the mesh's own, with their normals, texture coordinates and colours. The same mesh always gives
 * the same one.
 * @param toleranceM > 0, in the mesh's own metres
 * @returns the mesh itself where nothing of it can go
 */
export async function simplified(g: Geometry, toleranceM: number): Promise<Geometry> {
  await MeshoptSimplifier.ready;
  const area = areaOf(g.positions, g.indices);
  for (let i = 0, tolerance = toleranceM; i <= HALVINGS; i++, tolerance /= 2) {
    const [indices] = MeshoptSimplifier.simplify(g.indices, g.positions, 3, 0, tolerance, ['ErrorAbsolute']);
    if (indices.length && areaOf(g.positions, indices) >= area * LEAST_AREA) return ofCorners(g, indices);
  }
  return g;
}

/** Some of a mesh's triangles, with those corners alone that they have. @param kept by number of the triangle */
export async function someTriangles(g: Geometry, kept: (triangle: number) => boolean): Promise<Geometry> {
  await MeshoptSimplifier.ready;
  return ofCorners(
    g,
    g.indices.filter((_, i) => kept(Math.floor(i / 3))),
  );
}

/** With those corners alone that its triangles have. */
function ofCorners(g: Geometry, kept: Uint32Array): Geometry {
  const indices = kept.slice();
  const [places, count] = MeshoptSimplifier.compactMesh(indices);
  const taken = (of: Float32Array | undefined): Float32Array | undefined => {
    if (!of) return undefined;
    const size = of.length / (g.positions.length / 3);
    const out = new Float32Array(count * size);
    places.forEach((to, from) => {
      if (to !== NOWHERE) out.set(of.subarray(from * size, (from + 1) * size), to * size);
    });
    return out;
  };
  return {
    positions: taken(g.positions)!,
    normals: taken(g.normals),
    uv0: taken(g.uv0),
    uv1: taken(g.uv1),
    colors: taken(g.colors),
    indices,
  };
}
const NOWHERE = 0xffffffff;

/** Of all triangles, square metres of the mesh itself. */
function areaOf(p: Float32Array, indices: Uint32Array): number {
  let sum = 0;
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i]! * 3, indices[i + 1]! * 3, indices[i + 2]! * 3];
    const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
    const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
    sum += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
  }
  return sum;
}
