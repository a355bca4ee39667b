// What the camera does not see itself is loaded simplified, so that its shadow, the light that bounces off it and its
// blurred reflections stay: which meshes, and how far a stand-in may be off. How wide the rays are that meet an object,
// or whose light it stops, says what detail of it they tell apart.
import { originalPath } from '../looks/targets.ts';
import { type SceneDocument, axisScales, placements } from '../scene/index.ts';
import { type CullEvidence, type ObjectEvidence, isLatelyMet } from './evidence.ts';

/** A mesh as it stands in for another, as it takes memory. */
export interface StandIn {
  /** It is off by about two to the power of this at most, metres of the mesh itself (core/simplify). */
  readonly exponent: number;
  readonly vertices: number;
  readonly triangles: number;
  readonly accelerationBytes: number;
}

/** So many of the rays may be narrower than the detail that is told apart. */
const NARROWER_SHARE = 0.02;
/** What is off by less than this share of the detail is not told apart. */
const TOLD_SHARE = 0.25;
/** Meshes of fewer triangles are left as they are. */
const LEAST_TRIANGLES = 256;
/** A mesh stands in for another where it has no more than this share of its triangles. */
export const WORTH_SHARE = 0.7;

/**
 * The detail that rays tell apart, metres; null where none is known.
 * @param times how often rays were so wide: one count for each power of two from `fromM` on
 */
export function detailOf(times: readonly number[], fromM: number): number | null {
  const all = times.reduce((a, b) => a + b, 0);
  if (!all) return null;
  let narrower = 0;
  for (const [place, n] of times.entries()) {
    narrower += n;
    if (narrower > all * NARROWER_SHARE) return fromM * 2 ** place;
  }
  return null;
}

/** Not seen by the camera itself. In a mirror or through clear glass its detail is as fine as that of what is seen. */
const isMetScattered = ({ times, detailM }: ObjectEvidence): boolean =>
  times.seen === 0 && times.lit === 0 && detailM !== null;

/**
 * Hashes of meshes that may be simplified, with the exponent of how far off they may be (StandIn). A mesh that anything
 * shows otherwise is left as it is: it is loaded anyway.
 * @param without paths of what is not loaded, and of what stays as it is
 */
export function mayStandIn(
  evidence: CullEvidence,
  document: SceneDocument,
  without: { readonly leftOut: ReadonlySet<string>; readonly keep: ReadonlySet<string> },
): Map<string, number> {
  const placed = placements(document);
  const nodes = new Map(document.nodes.map((n, i) => [n.path, i]));
  const exponents = new Map<string, number>();
  const asTheyAre = new Set<string>();
  const entering = new Set(evidence.entering);
  const meshesOf = (node: number) => (document.nodes[node]!.parts ?? []).map((p) => document.meshes[p.mesh]!);
  for (const o of evidence.objects) {
    if (without.leftOut.has(o.path) || isLatelyMet(o)) continue;
    const node = nodes.get(o.path);
    const isDecided = without.keep.has(o.path) || entering.has(o.path);
    const stays = node === undefined || isDecided || !isMetScattered(o);
    const known = node ?? nodes.get(originalPath(o.path)); // of a copy it is not known here how large it is
    if (known === undefined) continue;
    for (const m of meshesOf(known)) {
      if (stays || m.deform || m.triangles < LEAST_TRIANGLES) asTheyAre.add(m.blob);
      else {
        const exponent = Math.floor(Math.log2((o.detailM! * TOLD_SHARE) / Math.max(...axisScales(placed[known]!))));
        exponents.set(m.blob, Math.min(exponents.get(m.blob) ?? Infinity, exponent));
      }
    }
  }
  return new Map([...exponents].filter(([blob, e]) => Number.isFinite(e) && !asTheyAre.has(blob)));
}

/** What a picture depends on of stand-ins, in an order that nothing else decides. */
export const standInsText = (standIns: Readonly<Record<string, StandIn>>): string =>
  Object.entries(standIns)
    .map(([blob, { exponent }]) => `${blob} ${exponent}`)
    .sort()
    .join('\n');
