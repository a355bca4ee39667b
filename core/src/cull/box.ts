// The room that an object takes, posed and placed, in world space.
import { type Matrix, type Rgb, type SceneDocument, boundsOf, transformPoint } from '../scene/index.ts';

export interface Box {
  /** Of each part's box: x y z, eight times. */
  readonly corners: readonly Float64Array[];
  /** How far beyond them its surface may reach, metres. */
  readonly grownM: number;
}

/** Corners of a box that is placed by m: x y z, eight times. */
export function cornersOf(min: Rgb, max: Rgb, m: Matrix): Float64Array {
  const out = new Float64Array(24);
  for (let i = 0; i < 8; i++)
    out.set(transformPoint(m, [i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2]]), i * 3);
  return out;
}

/** @param placed by node, what takes it to the world; world: of the nodes, for what poses it */
export function boxOf(
  document: SceneDocument,
  node: number,
  world: readonly Matrix[],
  placed: readonly Matrix[],
  grownM: number,
): Box {
  const corners = document.nodes[node]!.parts!.map((p) => {
    const { min, max } = boundsOf(document, node, p.mesh, world);
    return cornersOf(min, max, placed[node]!);
  });
  return { corners, grownM };
}

/** The ball about an object's box. */
export function ballOf({ corners, grownM }: Box): { readonly centre: Rgb; readonly radiusM: number } {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (const c of corners)
    for (let i = 0; i < 24; i++) {
      min[i % 3] = Math.min(min[i % 3]!, c[i]!);
      max[i % 3] = Math.max(max[i % 3]!, c[i]!);
    }
  const centre = [0, 1, 2].map((k) => (min[k]! + max[k]!) / 2) as unknown as Rgb;
  const radiusM = Math.hypot(...[0, 1, 2].map((k) => (max[k]! - min[k]!) / 2)) + grownM;
  return { centre, radiusM };
}
