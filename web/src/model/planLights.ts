// Lights in the plan: where they are, how large, where they look; and what dragging one there means in the world. Pure.
import { type ResolvedState, isOn, lightPlace, lightShape, objectTarget, stands } from '@variscen/core/looks';
import {
  type Matrix,
  type Rgb,
  type SceneDocument,
  type SceneLight,
  transformPoint,
  worldMatrices,
} from '@variscen/core/scene';
import { type P2, type Side, hull, onPlane } from './planGeometry.ts';

export interface PlanLight {
  readonly node: number;
  readonly path: string;
  readonly name: string;
  readonly at: P2;
  /** Of a panel. */
  readonly outline: readonly P2[];
  /** Where a stick of one metre along its light ends; null: it shines all round. */
  readonly towards: P2 | null;
  readonly isOn: boolean;
}

/** Lights that stand in a look and are shown; suns, which stand nowhere, are not among them. */
export function planLights(document: SceneDocument, state: ResolvedState, side: Side): PlanLight[] {
  const world = worldMatrices(document.nodes);
  const shown: boolean[] = [];
  return document.nodes.flatMap((n, node): PlanLight[] => {
    shown.push((n.parent < 0 || shown[n.parent]!) && state.get(objectTarget(n.path), 'object.shown') !== false);
    if (n.light === undefined || n.copyOf !== undefined || !shown[node] || !stands(state, n.path)) return [];
    const light = lightShape(document, state, node);
    if (light.type === 'sun') return [];
    const m = lightPlace(state, n.path, world[node]!);
    const point = (p: Rgb) => onPlane(side, transformPoint(m, p));
    return [
      {
        node,
        path: n.path,
        name: n.name,
        at: point([0, 0, 0]),
        outline: hull(cornersOf(light).map(point)),
        towards: light.type === 'point' || light.type === 'ball' ? null : onPlane(side, ahead(m)),
        isOn: isOn(state, n.path),
      },
    ];
  });
}
/** One metre along its light, in the world. */
function ahead(m: Matrix): Rgb {
  const length = Math.hypot(m[8]!, m[9]!, m[10]!) || 1;
  return [m[12]! - m[8]! / length, m[13]! - m[9]! / length, m[14]! - m[10]! / length];
}
const ROUND = 16;
/** Axes in which a round light is drawn: a disc in its own plane, a ball in all. */
const CIRCLES = [
  [0, 1],
  [0, 2],
  [1, 2],
] as const;
function cornersOf(light: SceneLight): Rgb[] {
  if (light.type === 'rectangle') {
    const [x, y] = [light.widthM / 2, light.heightM / 2];
    return [
      [-x, -y, 0],
      [x, -y, 0],
      [x, y, 0],
      [-x, y, 0],
    ];
  }
  if (light.type !== 'disc' && light.type !== 'ball') return [];
  const circles = light.type === 'disc' ? CIRCLES.slice(0, 1) : CIRCLES;
  return circles.flatMap(([a, b]) =>
    Array.from({ length: ROUND }, (_, i): Rgb => {
      const p: [number, number, number] = [0, 0, 0];
      p[a] = light.radiusM * Math.cos((2 * Math.PI * i) / ROUND);
      p[b] = light.radiusM * Math.sin((2 * Math.PI * i) / ROUND);
      return p;
    }),
  );
}

/** The world's way of a way on the plan; what the plan does not show of it is none. */
export function offPlane(side: Side, [x, y]: P2): Rgb {
  if (side === 'top') return [x, 0, -y];
  return side === 'front' ? [x, y, 0] : [0, y, -x];
}

/** The light whose place is within reach of a pixel. */
export function planLightAt(
  lights: readonly PlanLight[],
  [x, y]: P2,
  toPx: (p: P2) => P2,
  reachPx: number,
): PlanLight | undefined {
  let best: PlanLight | undefined;
  let nearest = reachPx;
  for (const light of lights) {
    const [px, py] = toPx(light.at);
    const d = Math.hypot(px - x, py - y);
    if (d < nearest) {
      nearest = d;
      best = light;
    }
  }
  return best;
}
/** The light moved on the plan. */
export function movedOnPlan(light: PlanLight, by: P2): PlanLight {
  const move = (p: P2): P2 => [p[0] + by[0], p[1] + by[1]];
  return {
    ...light,
    at: move(light.at),
    outline: light.outline.map(move),
    towards: light.towards && move(light.towards),
  };
}
