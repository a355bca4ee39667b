// The wavefront path tracer: one wave is half a tile of pixels, or many tiles, times one sample; each bounce goes
// through the stages trace → shade (which queues shadow rays and next rays) → trace shadows → add. No pixel has two
// paths in a wave, and order of addition is path order: what is added to a pixel, and when, depends on nothing else.
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as PATH from './layout/path';
import * as RAY from './layout/ray';
import * as SCRATCH from './layout/scratch';
import * as TILE from './layout/tile';
import { cameraRay } from './camera';
import { addPath, isQuiet } from './film';
import { followTrail, placeEvidence } from './evidence';
import { beginRendering, endRendering, settleNearest, standWhilePaused } from './loaded';
import { closestTogether } from './packets';
import { hash } from './sampling';
import { beginShadows, settleShadows } from './shadows';
import { enterNone } from './solids';
import { closest } from './traverse';
import { vec } from './vec';
import { capacity, hits, paths, placeWave, raysA, raysB } from './waveSpace';
import { GOES_ON, WAITS, beginWave, shadeVertex } from './vertex';

const NO_HIT: u32 = 0xffffffff;

/**
 * Renders tiles until none is left, the job is cancelled or this thread may not work any more. Called by every thread,
 * each with its number and scratch of its own.
 */
export function renderTiles(job: usize, scratch: usize, thread: i32): void {
  placeWave(job, scratch);
  placeEvidence(scratch + <usize>load<u32>(job, JOB.TRAIL), scratch + <usize>load<u32>(job, JOB.PIECES));
  beginRendering(job, scratch);
  renderNextTiles(job, scratch, thread);
  endRendering();
}
function renderNextTiles(job: usize, scratch: usize, thread: i32): void {
  const end = load<i32>(job, JOB.END_TILE);
  const together = load<i32>(job, JOB.TOGETHER);
  while (thread < atomic.load<i32>(job + JOB.ACTIVE)) {
    const first = atomic.add<i32>(job + JOB.NEXT_TILE, together);
    if (first >= end) return;
    const count = min<i32>(together, end - first);
    if (!renderTogether(job, scratch, first, count)) return;
    atomic.add<i32>(job + JOB.TILES_DONE, count);
  }
}

/** Tiles lie on the whole frame: those at the film's edges may be cut by it. */
function tilesAcross(job: usize): i32 {
  const cut = load<i32>(job, JOB.LEFT) % TILE.WIDTH;
  return (cut + load<i32>(job, JOB.WIDTH) + TILE.WIDTH - 1) / TILE.WIDTH;
}
// the tile that was looked up last: its pixels on the film
let x0: i32 = 0;
let y0: i32 = 0;
let tileWidth: i32 = 0;
let tileHeight: i32 = 0;
function lookUp(job: usize, tile: i32): void {
  const across = tilesAcross(job);
  const left = (tile % across) * TILE.WIDTH - (load<i32>(job, JOB.LEFT) % TILE.WIDTH);
  const top = (tile / across) * TILE.HEIGHT - (load<i32>(job, JOB.TOP) % TILE.HEIGHT);
  x0 = max<i32>(left, 0);
  y0 = max<i32>(top, 0);
  tileWidth = min<i32>(left + TILE.WIDTH, load<i32>(job, JOB.WIDTH)) - x0;
  tileHeight = min<i32>(top + TILE.HEIGHT, load<i32>(job, JOB.HEIGHT)) - y0;
}

/**
 * The job's samples for some tiles, or fewer for those that are quiet before, sample by sample. Returns false where the
 * job was cancelled meanwhile.
 */
function renderTogether(job: usize, scratch: usize, first: i32, count: i32): bool {
  const firstSample = load<i32>(job, JOB.SAMPLE_START);
  const samples = load<i32>(job, JOB.SAMPLE_COUNT);
  const states = <usize>load<u32>(job, JOB.TILE_STATE) + ((<usize>first) << 2);
  let rays: u64 = 0;
  let started: u64 = 0;
  for (let s: i32 = 0; s < samples; s++) {
    if (atomic.load<i32>(job + JOB.CANCEL)) return false;
    let n: i32 = 0;
    for (let t: i32 = 0; t < count; t++) {
      if (load<i32>(states + ((<usize>t) << 2)) & TILE.FINISHED) continue;
      lookUp(job, first + t);
      const pixels = tileWidth * tileHeight;
      started += pixels;
      for (let i: i32 = 0; i < pixels; i++) {
        startPath(job, n++, i, <u32>(firstSample + s));
        if (n < capacity) continue;
        rays += addWave(job, scratch, n);
        n = 0;
      }
    }
    if (n) rays += addWave(job, scratch, n);
    judge(job, first, count, states);
  }
  atomic.add<u64>(job + JOB.RAYS, rays);
  atomic.add<u64>(job + JOB.PATHS, started);
  return true;
}
/** Counts the sample of the tiles that are not finished, and finishes those that are quiet now. */
function judge(job: usize, first: i32, count: i32, states: usize): void {
  for (let t: i32 = 0; t < count; t++) {
    const state = states + ((<usize>t) << 2);
    const before = load<i32>(state);
    if (before & TILE.FINISHED) continue;
    lookUp(job, first + t);
    const isDone = isQuiet(job, x0, y0, tileWidth, tileHeight, before + 1);
    store<i32>(state, before + 1 + (isDone ? TILE.FINISHED : 0));
  }
}
/** The wave of n paths, added to the film. Returns the number of rays traced. */
function addWave(job: usize, scratch: usize, n: i32): u32 {
  const rays = wave(job, scratch, n);
  const evidence: usize = load<u32>(job, JOB.EVIDENCE) ? scratch + <usize>load<u32>(job, JOB.EVIDENCE) : 0;
  for (let k: i32 = 0; k < n; k++) {
    const path = paths + <usize>k * PATH.BYTES;
    addPath(job, path);
    if (evidence) followTrail(evidence, path, k);
  }
  return rays;
}

/** Path k of the wave begins at the camera, through pixel number i of the tile that was looked up last. */
function startPath(job: usize, k: i32, i: i32, sample: u32): void {
  // a packet of sixteen camera rays is a square of pixels, made of squares of four
  const square = ((tileWidth | tileHeight) & 3) == 0;
  const block = i >> 4;
  const across4 = tileWidth >> 2;
  const x = x0 + (square ? ((block % across4) << 2) + ((i >> 1) & 2) + (i & 1) : i % tileWidth);
  const y = y0 + (square ? ((block / across4) << 2) + ((i >> 2) & 2) + ((i >> 1) & 1) : i / tileWidth);
  const frameX = x + load<i32>(job, JOB.LEFT);
  const frameY = y + load<i32>(job, JOB.TOP);
  const seed = hash(<u32>(frameY * load<i32>(job, JOB.FRAME_WIDTH) + frameX), load<u32>(job, JOB.SEED));
  const path = paths + <usize>k * PATH.BYTES;
  v128.store(path, vec(1, 1, 1));
  v128.store(path, f32x4.splat(0), PATH.RADIANCE);
  store<u32>(path, seed, PATH.SEED);
  store<u32>(path, <u32>(y * load<i32>(job, JOB.WIDTH) + x), PATH.PIXEL);
  store<u32>(path, sample, PATH.SAMPLE);
  store<u32>(path, 0, PATH.BOUNCE);
  store<u32>(path, 0, PATH.FLAGS);
  store<u32>(path, 0, PATH.PASSED);
  store<u32>(path, 0, PATH.STEPS);
  enterNone(path);
  store<f32>(path, 0, PATH.COVERED);
  v128.store(path, vec(1, 1, 1), PATH.GUIDE);
  const ray = raysA + <usize>k * RAY.BYTES;
  cameraRay(job, <u32>frameX, <u32>frameY, seed, sample, ray, <u32>k, path);
}

/** Traces and shades one wave of n paths whose rays wait in queue A. Returns the number of rays traced. */
function wave(job: usize, scratch: usize, n: i32): u32 {
  let from = raysA;
  let into = raysB;
  let rays: u32 = 0;
  beginWave(job, scratch);
  for (let isFirst: bool = true; n > 0; isFirst = false) {
    beginShadows(scratch, isFirst);
    rays += n;
    let next: i32 = 0;
    let ahead: u32 = 0;
    for (let met: i32 = 0; met < n;) {
      // 1. What the rays meet: all of them at once, or fewer where memory does not hold that much
      const first = met;
      met += traceWave(
        job,
        scratch,
        from + <usize>first * RAY.BYTES,
        hits + <usize>first * HIT.BYTES,
        n - first,
        isFirst,
      );

      // 2. What is there: shaded in path order, with shadow rays and the rays that go on queued
      for (let i: i32 = first; i < met; i++) {
        ahead ^= touchAhead(job, from, i, met);
        const ray = from + <usize>i * RAY.BYTES;
        const hit = hits + <usize>i * HIT.BYTES;
        const fate = shadeVertex(ray, hit, into + <usize>next * RAY.BYTES);
        if (fate == WAITS) {
          met = i + settleNearest(ray, hit, met - i, true);
          i--; // again
        } else if (fate == GOES_ON) next++;
      }
    }
    store<u32>(scratch + SCRATCH.SLOTS, ahead);

    // 3. Light that arrives is added
    rays += settleShadows(job, from);

    // 4. The rays that go on
    n = next;
    const swap = from;
    from = into;
    into = swap;
  }
  return rays;
}

/**
 * Rays of the camera are met together, all others one by one with many in flight. Returns how many of the n were met.
 */
function traceWave(job: usize, scratch: usize, rays: usize, met: usize, n: i32, areOfCamera: bool): i32 {
  const root = load<u32>(job, JOB.ROOT);
  const slots = scratch + SCRATCH.SLOTS;
  standWhilePaused();
  if (!root) {
    for (let i: i32 = 0; i < n; i++) store<u32>(met + <usize>i * HIT.BYTES, NO_HIT, HIT.INST);
    return n;
  }
  const count = min<i32>(n, atomic.load<i32>(job + JOB.GROUP));
  if (areOfCamera) closestTogether(root, rays, met, count, slots, RAY.IN_FLIGHT);
  else closest(root, rays, met, count, slots, RAY.IN_FLIGHT);
  return settleNearest(rays, met, count, false);
}

/**
 * Reads what the paths after path i of n will want, so that it is there by then. The sum only keeps the reads from
 * being removed.
 */
// @ts-ignore
@inline function touchAhead(job: usize, rays: usize, i: i32, n: i32): u32 {
  let sum: u32 = 0;
  if (i + 2 < n) {
    const path = paths + <usize>load<u32>(rays + <usize>(i + 2) * RAY.BYTES, RAY.PATH) * PATH.BYTES;
    sum = load<u32>(path) ^ load<u32>(path, PATH.BYTES - 4) ^ load<u32>(hits + <usize>(i + 2) * HIT.BYTES, HIT.INST);
  }
  if (i + 1 < n) {
    const hit = hits + <usize>(i + 1) * HIT.BYTES;
    const number = load<u32>(hit, HIT.INST);
    if (number != NO_HIT) {
      const block: usize = load<u32>(hit, HIT.BLOCK) & ~3;
      const inst = <usize>load<u32>(job, JOB.INSTANCES) + <usize>number * INST.BYTES;
      sum ^= load<u32>(block) ^ load<u32>(block, 64) ^ load<u32>(block, 128) ^ load<u32>(inst) ^ load<u32>(inst, 64);
    }
  }
  return sum;
}
