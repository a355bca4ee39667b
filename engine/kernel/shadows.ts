// Shadow rays of a wave's bounce, with the light that they bring where nothing is in their way.
// They stand at both ends of their queue: those that leave the first surface towards a sun go together, from the front;
// all others scattered, from the back.
import * as EVIDENCE from './layout/evidence';
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as MASK from './layout/mask';
import * as PATH from './layout/path';
import * as RAY from './layout/ray';
import * as SAMPLE from './lightSample';
import * as SCRATCH from './layout/scratch';
import * as SHADE from './layout/shade';
import { putRay } from './camera';
import { widthAtBlocker } from './blockers';
import { countLight, countShadowOfPiece, countWidth } from './evidence';
import { addFreeLight, isOfPlace, meetCatchersBeyond } from './catcher';
import { addRadiance } from './film';
import { pieceOf } from './geometry';
import { settleAny, standWhilePaused } from './loaded';
import { occludedTogether } from './packets';
import { throughPanes } from './panes';
import { occluded } from './traverse';
import { load3 } from './vec';
import { capacity, paths, placeInQueue, shades, shadowHits, shadowRays } from './waveSpace';

let scratch: usize = 0;
let isFirstBounce: bool = false;
let together: i32 = 0;
let apart: i32 = 0;

export function beginShadows(aScratch: usize, first: bool): void {
  scratch = aScratch;
  isFirstBounce = first;
  together = 0;
  apart = 0;
}

/**
 * @param L the light sample @param c the light it brings @param scatterings of that light when it arrives at the camera
 * @param width of widening()
 */
// @ts-ignore
@inline export function queueShadowRay(
  L: usize,
  begin: v128,
  w: v128,
  c: v128,
  path: u32,
  scatterings: u32,
  towardsSun: bool,
  seed: u32,
  width: u32,
): void {
  let at: usize;
  if (isFirstBounce && towardsSun) at = together++;
  else {
    apart++;
    at = 2 * capacity - apart;
  }
  const ray = shadowRays + at * RAY.BYTES;
  putRay(ray, begin, 0, w, load<f32>(L, SAMPLE.REACH), MASK.SHADOW, path, seed);
  const q = shades + at * SHADE.BYTES;
  v128.store(q, c);
  store<u32>(q, path, SHADE.PATH);
  store<u32>(q, load<u32>(L, SAMPLE.GROUP), SHADE.GROUP);
  store<u32>(q, load<u32>(L, SAMPLE.INSTANCE), SHADE.LIGHT);
  store<u32>(q, scatterings, SHADE.SCATTERINGS);
  store<u32>(q, width, SHADE.WIDTH);
}

/**
 * Traces the queued rays and adds what arrives. rays is a queue that is free to use. Returns the number of rays traced.
 */
export function settleShadows(job: usize, rays: usize): u32 {
  if (!(together + apart)) return 0;
  const root = load<u32>(job, JOB.ROOT);
  const evidence: usize = load<u32>(job, JOB.EVIDENCE) ? scratch + <usize>load<u32>(job, JOB.EVIDENCE) : 0;
  let traced: u32 = together + apart;
  if (root) {
    trace(root);
    if (load<u32>(job, JOB.CATCHERS)) {
      traced += meetCatchersBeyond(job, scratch, rays, together, apart);
      addFreeLight(job, together, apart);
    }
    if (load<u32>(job, JOB.PANES)) {
      traced += throughPanes(job, scratch, rays, 0, together, evidence);
      traced += throughPanes(job, scratch, rays, 2 * capacity - apart, apart, evidence);
    }
  }
  addWhatArrives(job, root, evidence);
  return traced;
}

function trace(root: u32): void {
  const slots = scratch + SCRATCH.SLOTS;
  const back = <usize>(2 * capacity - apart);
  standWhilePaused();
  if (together) {
    occludedTogether(root, shadowRays, shadowHits, together, slots, RAY.IN_FLIGHT);
    settleAny(shadowRays, shadowHits, together);
  }
  if (apart) {
    occluded(root, shadowRays + back * RAY.BYTES, shadowHits + (back << 2), apart, slots, RAY.IN_FLIGHT);
    settleAny(shadowRays + back * RAY.BYTES, shadowHits + (back << 2), apart);
  }
}

function countBlocker(job: usize, evidence: usize, number: u32, at: usize): void {
  const q = shades + at * SHADE.BYTES;
  const inst = <usize>load<u32>(job, JOB.INSTANCES) + <usize>number * INST.BYTES;
  const ray = shadowRays + at * RAY.BYTES;
  countLight(evidence, number, EVIDENCE.SHADOWED, load3(q));
  countShadowOfPiece(pieceOf(inst, load<u32>(ray, RAY.MARKED)), load3(q));
  countWidth(evidence, number, widthAtBlocker(load<u32>(q, SHADE.WIDTH), ray, inst));
}

/** A path's light is added in the order in which it was found. */
function addWhatArrives(job: usize, root: u32, evidence: usize): void {
  for (let i: i32 = 0; i < together + apart; i++) {
    const at = placeInQueue(i, together);
    const q = shades + at * SHADE.BYTES;
    const blocker: u32 = root ? load<u32>(shadowHits + (at << 2)) : 0;
    if (blocker) {
      if (evidence) countBlocker(job, evidence, blocker - 1, at);
      continue;
    }
    const path = paths + <usize>load<u32>(q, SHADE.PATH) * PATH.BYTES;
    const light: usize = load<u32>(q, SHADE.LIGHT);
    const passed = load<u32>(shadowRays + at * RAY.BYTES, RAY.MARKED) & RAY.PASSED;
    const scatterings = load<u32>(q, SHADE.SCATTERINGS) & ~SHADE.OF_PLACE;
    addRadiance(job, path, load3(q), scatterings, load<u32>(q, SHADE.GROUP), passed, isOfPlace(at));
    if (evidence && light) countLight(evidence, load<u32>(light, INST.INDEX), EVIDENCE.LIT, load3(q));
  }
}
