// The shape of a ball light.
import type { EngineMesh, Vec3 } from './scene.ts';

/** An icosahedron whose edges are halved twice, out to a sphere; as large as the sphere of radius 1 by its area. */
export function ballMesh(): EngineMesh {
  const g = (1 + Math.sqrt(5)) / 2;
  const points: Vec3[] = [];
  for (const a of [-1, 1]) for (const b of [-g, g]) points.push([0, a, b], [a, b, 0], [b, 0, a]);
  const unit = points.map(outTo(1));
  // faces are the threes of corners that are nearest to each other
  const edge = 2 / Math.hypot(1, g);
  const isEdge = (i: number, j: number) => Math.abs(Math.hypot(...minus(unit[i]!, unit[j]!)) - edge) < 1e-6;
  let faces: Vec3[] = [];
  for (let i = 0; i < unit.length; i++)
    for (let j = i + 1; j < unit.length; j++)
      for (let k = j + 1; k < unit.length; k++)
        if (isEdge(i, j) && isEdge(j, k) && isEdge(i, k)) faces.push(facingOut(unit, [i, j, k]));
  for (let turn = 0; turn < 2; turn++) faces = halved(unit, faces);
  const area = faces.reduce((sum, f) => sum + areaOf(unit, f), 0);
  const grown = unit.map(outTo(Math.sqrt((4 * Math.PI) / area)));
  return { name: 'ball light', positions: new Float32Array(grown.flat()), indices: new Uint32Array(faces.flat()) };
}
/** Each triangle as four, new corners out to the sphere of radius 1; corners are added to the points. */
function halved(points: Vec3[], faces: readonly Vec3[]): Vec3[] {
  const known = new Map<string, number>();
  const between = (i: number, j: number): number => {
    const key = `${Math.min(i, j)} ${Math.max(i, j)}`;
    const at = known.get(key);
    if (at !== undefined) return at;
    const [a, b] = [points[i]!, points[j]!];
    const made = points.push(outTo(1)([a[0] + b[0], a[1] + b[1], a[2] + b[2]])) - 1;
    known.set(key, made);
    return made;
  };
  return faces.flatMap(([i, j, k]): Vec3[] => {
    const [ij, jk, ki] = [between(i, j), between(j, k), between(k, i)];
    return [
      [i, ij, ki],
      [ij, j, jk],
      [ki, jk, k],
      [ij, jk, ki],
    ];
  });
}
const outTo =
  (radius: number) =>
  (p: Vec3): Vec3 => {
    const k = radius / Math.hypot(...p);
    return [p[0] * k, p[1] * k, p[2] * k];
  };
const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const normal = (points: readonly Vec3[], [i, j, k]: Vec3): Vec3 => {
  const u = minus(points[j]!, points[i]!);
  const v = minus(points[k]!, points[i]!);
  return [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
};
const areaOf = (points: readonly Vec3[], f: Vec3): number => Math.hypot(...normal(points, f)) / 2;
function facingOut(points: readonly Vec3[], f: Vec3): Vec3 {
  const n = normal(points, f);
  const p = points[f[0]]!;
  return n[0] * p[0] + n[1] * p[1] + n[2] * p[2] > 0 ? f : [f[0], f[2], f[1]];
}
