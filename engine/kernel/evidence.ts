// Counts what mattered, per instance and kind of event, and per piece of the meshes that come in pieces. Each thread has
// counters of its own, behind its scratch; the host adds them up. Off: the address is 0 and nothing is done.
import * as EVIDENCE from './layout/evidence';
import * as PATH from './layout/path';
import * as PIECE from './layout/pieceEvidence';
import * as TRAIL from './layout/trail';
import { load3, luminance } from './vec';

/** Where the trails of the wave's paths stand, and the evidence of pieces. */
let trails: usize = 0;
let pieces: usize = 0;
export function placeEvidence(trailsAt: usize, piecesAt: usize): void {
  trails = trailsAt;
  pieces = piecesAt;
}

// @ts-ignore
@inline function once(p: usize, kind: usize): void {
  store<u64>(p + (kind << 3), load<u64>(p + (kind << 3), EVIDENCE.COUNTS) + 1, EVIDENCE.COUNTS);
}
/**
 * Adds the luminance of a throughput, at most 4, for instance number index, and one to how often: what was met is told
 * apart from what was not, however little came of it.
 */
// @ts-ignore
@inline export function countThroughput(evidence: usize, index: u32, kind: usize, through: v128): void {
  const p = evidence + <usize>index * EVIDENCE.BYTES;
  const l = min<f32>(luminance(through), 4);
  store<u64>(p + (kind << 3), load<u64>(p + (kind << 3)) + <u64>(<u32>(l * <f32>EVIDENCE.UNIT)));
  once(p, kind);
}
/** Adds light in nits for instance number index, and one to how often. */
// @ts-ignore
@inline export function countLight(evidence: usize, index: u32, kind: usize, light: v128): void {
  const p = evidence + <usize>index * EVIDENCE.BYTES;
  store<f64>(p + (kind << 3), load<f64>(p + (kind << 3)) + <f64>luminance(light));
  once(p, kind);
}

/**
 * A ray from elsewhere than the camera met instance number index, or was stopped by it, and was so wide there, metres.
 */
export function countWidth(evidence: usize, index: u32, width: f32): void {
  const exponent = <i32>((reinterpret<u32>(width) >> 23) & 255) - 127;
  const place = min<i32>(max<i32>(exponent - EVIDENCE.NARROWEST, 0), EVIDENCE.WIDTH_COUNTS - 1);
  const p = evidence + <usize>index * EVIDENCE.BYTES + ((<usize>place) << 2);
  store<u32>(p, load<u32>(p, EVIDENCE.WIDTHS) + 1, EVIDENCE.WIDTHS);
}

// @ts-ignore
@inline function pieceAt(piece: u32): usize {
  return pieces + <usize>(piece - 1) * PIECE.BYTES;
}
/** @param piece its number, from 1 on; 0: none @param kind of event */
export function countPiece(piece: u32, kind: usize): void {
  if (!piece) return;
  const p = pieceAt(piece) + (kind << 2);
  store<u32>(p, load<u32>(p, PIECE.COUNTS) + 1, PIECE.COUNTS);
}
/** A piece stopped light on its way. */
export function countShadowOfPiece(piece: u32, light: v128): void {
  if (!piece) return;
  countPiece(piece, EVIDENCE.SHADOWED);
  const p = pieceAt(piece);
  store<f64>(p, load<f64>(p, PIECE.SHADOWED) + <f64>luminance(light), PIECE.SHADOWED);
}

/**
 * Path number k has met instance number index by way of the one that it met before: which brought most of what is met
 * in reflections, or through glass, is voted for (Boyer and Moore 1981, weighted).
 */
export function countWay(evidence: usize, path: usize, k: u32, index: u32, kind: usize, through: v128): void {
  const steps = load<u32>(path, PATH.STEPS);
  if (!steps || steps >= <u32>TRAIL.STEPS) return;
  const by = load<u32>(trails + <usize>k * TRAIL.BYTES + <usize>(steps - 1) * TRAIL.STEP_BYTES) + 1;
  const to = kind == EVIDENCE.REFLECTED ? EVIDENCE.BY_MIRROR : EVIDENCE.BY_GLASS;
  const p = evidence + <usize>index * EVIDENCE.BYTES + to;
  const weight = min<f32>(luminance(through), 4);
  const rest = load<f32>(p, 4) - weight;
  if (load<u32>(p) == by) store<f32>(p, load<f32>(p, 4) + weight, 4);
  else if (rest >= 0) store<f32>(p, rest, 4);
  else {
    store<u32>(p, by);
    store<f32>(p, -rest, 4);
  }
}

/**
 * Path number k has met an instance, and a piece of its mesh: what light it brings from here on comes from there.
 */
export function leaveTrail(path: usize, k: u32, index: u32, piece: u32): void {
  const steps = load<u32>(path, PATH.STEPS);
  if (steps >= <u32>TRAIL.STEPS) return;
  const step = trails + <usize>k * TRAIL.BYTES + <usize>steps * TRAIL.STEP_BYTES;
  store<u32>(step, index);
  store<f32>(step, luminance(load3(path + PATH.RADIANCE)), 4);
  store<u32>(step, piece, 8);
  store<u32>(path, steps + 1, PATH.STEPS);
}
/** Path number k is at its end. */
export function followTrail(evidence: usize, path: usize, k: u32): void {
  const light = luminance(load3(path + PATH.RADIANCE));
  const steps = <usize>load<u32>(path, PATH.STEPS);
  for (let i: usize = 0; i < steps; i++) {
    const step = trails + <usize>k * TRAIL.BYTES + i * TRAIL.STEP_BYTES;
    const p = evidence + <usize>load<u32>(step) * EVIDENCE.BYTES;
    const brought = <f64>(light - load<f32>(step, 4));
    store<f64>(p, load<f64>(p, EVIDENCE.BROUGHT) + brought, EVIDENCE.BROUGHT);
    const piece = load<u32>(step, 8);
    if (!piece) continue;
    const q = pieceAt(piece);
    store<f64>(q, load<f64>(q, PIECE.BROUGHT) + brought, PIECE.BROUGHT);
  }
}
