// The plan view's picture, apart from its canvas: what lies where seen from above, from the front or from a side. Pure.
import type { ResolvedState } from '@variscen/core/looks';
import { objectTarget } from '@variscen/core/looks';
import {
  type CameraSettings,
  type DepthSpan,
  type SceneDocument,
  depthSpan,
  halfHeightOf,
  boundsOf,
  placements,
  worldMatrices,
  transformPoint,
} from '@variscen/core/scene';
import { framePlanes, outside } from '@variscen/core/cull';

export type Side = 'top' | 'front' | 'side';
export type P2 = readonly [number, number];
/**
 * World to the plane of the view in metres: right and up on the page. From above, north is −Z; the side is seen from
 * +X.
 */
export function onPlane(side: Side, p: readonly [number, number, number]): P2 {
  if (side === 'top') return [p[0], -p[2]];
  return side === 'front' ? [p[0], p[1]] : [-p[2], p[1]];
}

export interface Outline {
  readonly node: number;
  readonly hull: readonly P2[];
  readonly state: 'kept' | 'before' | 'beyond' | 'off-frame' | 'hidden';
}
/** Where the page's middle is, in metres of the plane, and pixels a metre. */
export interface PlanView {
  readonly x: number;
  readonly y: number;
  readonly pxPerM: number;
}

const corners = (min: readonly number[], max: readonly number[]): Float32Array => {
  const out = new Float32Array(24);
  for (let i = 0; i < 8; i++)
    out.set([i & 1 ? max[0]! : min[0]!, i & 2 ? max[1]! : min[1]!, i & 4 ? max[2]! : min[2]!], i * 3);
  return out;
};

/** Convex hull, counter-clockwise (Andrew's monotone chain). */
export function hull(points: readonly P2[]): P2[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const cross = (o: P2, a: P2, b: P2) => (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]);
  const half = (list: readonly P2[]) => {
    const out: P2[] = [];
    for (const p of list) {
      while (out.length > 1 && cross(out.at(-2)!, out.at(-1)!, p) <= 0) out.pop();
      out.push(p);
    }
    out.pop();
    return out;
  };
  return sorted.length < 3 ? sorted : [...half(sorted), ...half(sorted.reverse())];
}

/** Of fewer things than these, all are fitted in. */
const FEW = 20;

export interface PlanScene {
  readonly outlines: readonly Outline[];
  /** Of closed bodies that may be in the camera's frame, by their boxes. */
  readonly spans: readonly DepthSpan[];
}

/** @param out outside the frame @param fromM nearest and @param toM farthest depth of the object */
function outlineState(
  isShown: boolean,
  camera: CameraSettings | undefined,
  out: boolean,
  fromM: number,
  toM: number,
): Outline['state'] {
  if (!isShown) return 'hidden';
  if (!camera) return 'kept';
  if (out) return 'off-frame';
  if (toM <= camera.nearM) return 'before';
  return fromM >= camera.farM ? 'beyond' : 'kept';
}

/** What the plan shows for a look and a camera. */
export function planScene(
  document: SceneDocument,
  state: ResolvedState,
  side: Side,
  camera: CameraSettings | undefined,
): PlanScene {
  const world = worldMatrices(document.nodes);
  const placed = placements(document, world);
  const outlines: Outline[] = [];
  const spans: DepthSpan[] = [];
  const planes = camera && framePlanes(camera, 0);
  const shown: boolean[] = [];
  const boxes = document.meshes.map((m) => corners(m.min, m.max));
  document.nodes.forEach((n, i) => {
    shown.push((n.parent < 0 || shown[n.parent]!) && state.get(objectTarget(n.path), 'object.shown') !== false);
    if (!n.parts) return;
    const m = placed[i]!;
    const points: P2[] = [];
    let from = Infinity;
    let to = -Infinity;
    let out = planes !== undefined;
    for (const p of n.parts) {
      const bounds = boundsOf(document, i, p.mesh, world);
      const isAtRest = bounds === document.meshes[p.mesh];
      const box = isAtRest ? boxes[p.mesh]! : corners(bounds.min, bounds.max);
      for (let c = 0; c < 8; c++)
        points.push(onPlane(side, transformPoint(m, [box[c * 3]!, box[c * 3 + 1]!, box[c * 3 + 2]!])));
      if (!camera || !planes) continue;
      const s = depthSpan(camera, m, box);
      from = Math.min(from, s.fromM);
      to = Math.max(to, s.toM);
      if (out) out = outside(planes, bounds.min, bounds.max, m);
    }
    const seen = shown[i]! && state.get(objectTarget(n.path), 'object.seenByCamera') !== false;
    if (camera && seen && !out && n.parts.every((p) => document.meshes[p.mesh]!.closed))
      spans.push({ node: i, fromM: from, toM: to });
    outlines.push({
      node: i,
      hull: hull(points),
      state: outlineState(shown[i]!, camera, out, from, to),
    });
  });
  return { outlines, spans };
}

/**
 * The smallest view that shows, with a margin, where the things are: all but the farthest of many, which a ground or a
 * sky dome would be.
 */
export function fitted(outlines: readonly Outline[], extra: readonly P2[], width: number, height: number): PlanView {
  const things = outlines.filter((o) => o.hull.length > 2);
  const reach = (o: Outline) => Math.max(...o.hull.map((p) => Math.hypot(p[0] - o.hull[0]![0], p[1] - o.hull[0]![1])));
  const limit =
    things.length > FEW
      ? (things.map(reach).sort((a, b) => a - b)[Math.floor(things.length * 0.98)] ?? 0) * 1.5
      : Infinity;
  const all = [...things.filter((o) => reach(o) <= limit).flatMap((o) => [...o.hull]), ...extra];
  if (!all.length) return { x: 0, y: 0, pxPerM: 50 };
  let x0 = Infinity;
  let x1 = -Infinity;
  let y0 = Infinity;
  let y1 = -Infinity;
  for (const [x, y] of all) {
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  }
  return {
    x: (x0 + x1) / 2,
    y: (y0 + y1) / 2,
    pxPerM: Math.min(2000, 0.88 * Math.min(width / Math.max(1e-6, x1 - x0), height / Math.max(1e-6, y1 - y0))),
  };
}

/** A camera's cone on the plane: the eye, and for a distance the ends of the frame there. */
export function cone(
  c: CameraSettings,
  side: Side,
  distanceM: number,
): { readonly eye: P2; readonly middle: P2; readonly ends: readonly [P2, P2] } {
  const m = c.matrix;
  const unit = (k: number): [number, number, number] => {
    const v = [m[k]!, m[k + 1]!, m[k + 2]!];
    const l = Math.hypot(...v) || 1;
    return [v[0]! / l, v[1]! / l, v[2]! / l];
  };
  const right = unit(0);
  const up = unit(4);
  const back = unit(8);
  const eye: [number, number, number] = [m[12]!, m[13]!, m[14]!];
  const scale = c.projection === 'orthographic' ? 1 : distanceM;
  const y = halfHeightOf(c) * scale;
  const x = (y * c.widthPx) / c.heightPx;
  const sx = 2 * (c.shiftX ?? 0) * x;
  const sy = 2 * (c.shiftY ?? 0) * y;
  const point = (a: number, b: number): P2 =>
    onPlane(
      side,
      [0, 1, 2].map((k) => eye[k]! - back[k]! * distanceM + right[k]! * a + up[k]! * b) as [number, number, number],
    );
  // the two corners of the frame that reach farthest to either side, as seen in this view
  const middle = point(sx, sy);
  const corner = [point(sx - x, sy - y), point(sx + x, sy - y), point(sx + x, sy + y), point(sx - x, sy + y)];
  const axis = onPlane(side, back);
  const l = Math.hypot(...axis) || 1;
  const across = (p: P2) => ((p[0] - middle[0]) * -axis[1] + (p[1] - middle[1]) * axis[0]) / l;
  const sorted = [...corner].sort((a, b) => across(a) - across(b));
  return { eye: onPlane(side, eye), middle, ends: [sorted[0]!, sorted[3]!] };
}
/** The distance along a camera's axis of a point of the plane; undefined where the camera looks along the view. */
export function distanceAt(c: CameraSettings, side: Side, p: P2): number | undefined {
  const m = c.matrix;
  const l = Math.hypot(m[8]!, m[9]!, m[10]!) || 1;
  const along = onPlane(side, [-m[8]! / l, -m[9]! / l, -m[10]! / l]);
  const eye = onPlane(side, [m[12]!, m[13]!, m[14]!]);
  const k = along[0] ** 2 + along[1] ** 2;
  return k < 0.03 ? undefined : ((p[0] - eye[0]) * along[0] + (p[1] - eye[1]) * along[1]) / k;
}
