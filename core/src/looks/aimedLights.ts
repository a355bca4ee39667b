// Lights that follow a thing with their aim, wherever it and they are.
import {
  IDENTITY,
  type Matrix,
  type Rgb,
  type SceneDocument,
  type SceneNode,
  axisScales,
  inverted,
  lookAt,
  minus,
  multiply,
  worldMatrices,
} from '../scene/index.ts';
import { middles } from './placement.ts';
import { AIM, UNAIMED } from './properties.ts';
import type { ResolvedState } from './resolve.ts';
import { lightTarget, parseTarget } from './targets.ts';

/** Paths of lights, and of what each is aimed at. */
function aimsOf(state: ResolvedState): Map<string, string> {
  const out = new Map<string, string>();
  for (const v of state.values.values())
    if (v.property.id === AIM && typeof v.value === 'string' && v.value !== UNAIMED)
      out.set(parseTarget(v.target)!.name, v.value);
  return out;
}

/**
 * The document with the lights that a look aims turned to the middles of what they are aimed at, as the document places
 * it. A light that stands in it, or is aimed at what is not there, is left as it is.
 */
export function withAims(document: SceneDocument, state: ResolvedState): SceneDocument {
  const aims = aimsOf(state);
  if (!aims.size) return document;
  const wanted = new Set([...aims.keys(), ...aims.values()]);
  const at = new Map<string, number>();
  for (const [i, n] of document.nodes.entries()) if (wanted.has(n.path)) at.set(n.path, i);
  const world = worldMatrices(document.nodes);
  const middle = middles(document, world);
  const nodes: SceneNode[] = [...document.nodes];
  for (const [path, aimedAt] of aims) {
    const light = at.get(path);
    const aim = at.get(aimedAt);
    if (light === undefined || aim === undefined || nodes[light]!.light === undefined) continue;
    const n = nodes[light]!;
    const own = world[light]!;
    const offset = state.get(lightTarget(path), 'light.offset');
    const moved: Rgb = Array.isArray(offset) ? (offset as unknown as Rgb) : [0, 0, 0];
    const place: Rgb = [own[12]! + moved[0], own[13]! + moved[1], own[14]! + moved[2]];
    const turned = lookingAt(place, middle(aim), axisScales(own));
    const back = inverted(n.parent < 0 ? IDENTITY : world[n.parent]!);
    if (!turned || !back) continue;
    nodes[light] = { ...n, matrix: multiply(back, [...turned.slice(0, 12), own[12]!, own[13]!, own[14]!, 1]) };
  }
  return { ...document, nodes };
}

/**
 * A matrix that stands at a place and looks along its −Z at a point, upright where that can be.
 * @param scale along its axes
 * @returns undefined where the two are one
 */
export function lookingAt(place: Rgb, point: Rgb, scale: Rgb = [1, 1, 1]): Matrix | undefined {
  if (Math.hypot(...minus(place, point)) < 1e-9) return undefined;
  return lookAt(place, point).map((x, i) => (i < 12 ? x * scale[Math.floor(i / 4)]! : x));
}

/**
 * Turns about X, then Y, then Z of the world, in degrees, as looks have them, of what a matrix without skew does
 * (placement.ts, turnedScaled): Rz · Ry · Rx.
 */
export function turnOf(m: Matrix): Rgb {
  const [sx, sy, sz] = axisScales(m);
  const degrees = (rad: number) => (rad * 180) / Math.PI;
  const sinY = Math.min(1, Math.max(-1, -m[2]! / sx));
  const y = Math.asin(sinY);
  // straight up or down turns about X and Z are one
  if (Math.abs(sinY) > 0.999999) return [degrees(Math.atan2(-m[9]! / sz, m[5]! / sy)), degrees(y), 0];
  return [degrees(Math.atan2(m[6]! / sy, m[10]! / sz)), degrees(y), degrees(Math.atan2(m[1]! / sx, m[0]! / sx))];
}
