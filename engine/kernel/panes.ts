// Light on its way through panes: sheets of clear glass without a volume, which do not bend it. A pane stands in the
// way of no shadow ray; what gets through here takes its share. Paths that go straight on through one keep what they
// remember of their last scattering, so that both ways of finding a light stay weighed against each other.
import * as EVIDENCE from './layout/evidence';
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as MASK from './layout/mask';
import * as MAT from './layout/material';
import * as RAY from './layout/ray';
import * as SCRATCH from './layout/scratch';
import * as SHADE from './layout/shade';
import * as SURFACE from './record';
import { straightOn } from './layers';
import { putRay } from './camera';
import { countLight } from './evidence';
import { settleNearest } from './loaded';
import { readSurface } from './surface';
import { closest } from './traverse';
import { load3, maxOf, mul, offset, scale, store3, sub, vec } from './vec';
import { capacity, hits, shades, shadowHits, shadowRays } from './waveSpace';

/**
 * Weakens the light of the n shadow rays at `first` and following that reached their light by the panes between. rays
 * and the hits of the scratch are free to use.
 * Where nothing gets through, or more than MAT.MAX_PANES stand in the way, the result names the pane as what blocked
 * it. Returns the number of rays traced.
 */
export function throughPanes(job: usize, scratch: usize, rays: usize, first: i32, n: i32, evidence: usize): u32 {
  const end = first + n;
  let waiting: i32 = 0;
  let traced: u32 = 0;
  for (let at = first; at < end; at++) {
    if (load<u32>(shadowHits + ((<usize>at) << 2))) continue;
    const ray = rays + usize(waiting++) * RAY.BYTES;
    memory.copy(ray, shadowRays + <usize>at * RAY.BYTES, RAY.BYTES);
    store<u32>(ray, MASK.PANE, RAY.MASK);
    store<u32>(ray, at, RAY.PATH);
    store<u32>(ray, 0, RAY.MARKED);
    if (waiting == capacity) {
      traced += cross(job, scratch, rays, waiting, evidence);
      waiting = 0;
    }
  }
  return traced + cross(job, scratch, rays, waiting, evidence);
}
function cross(job: usize, scratch: usize, rays: usize, n: i32, evidence: usize): u32 {
  const S = scratch + SCRATCH.SURFACE;
  const instances: usize = load<u32>(job, JOB.INSTANCES);
  let traced: u32 = 0;
  for (let passed: i32 = 0; n > 0; passed++) {
    traced += n;
    let left: i32 = 0;
    let met: i32 = 0;
    for (let i: i32 = 0; i < n; i++) {
      if (i == met) met += meet(job, scratch, rays + <usize>i * RAY.BYTES, hits + <usize>i * HIT.BYTES, n - i);
      const ray = rays + <usize>i * RAY.BYTES;
      const hit = hits + <usize>i * HIT.BYTES;
      const number = load<u32>(hit, HIT.INST);
      const at = load<u32>(ray, RAY.PATH);
      if (number == 0xffffffff) continue;
      const d = load3(ray + RAY.DIR);
      const q = shades + <usize>at * SHADE.BYTES;
      const came = load3(q);
      readSurface(job, hit, instances + <usize>number * INST.BYTES, d, 0, S);
      const goesOn = passed < MAT.MAX_PANES ? mul(came, straightOn(S)) : vec(0, 0, 0);
      if (evidence) countLight(evidence, number, EVIDENCE.SHADOWED, sub(came, goesOn));
      store3(q, goesOn);
      if (!(maxOf(goesOn) > 0)) {
        store<u32>(shadowHits + ((<usize>at) << 2), number + 1);
        store<u32>(shadowRays + <usize>at * RAY.BYTES, load<u32>(hit, HIT.PRIM), RAY.MARKED);
        continue;
      }
      putRay(
        rays + usize(left++) * RAY.BYTES,
        offset(load3(S + SURFACE.POSITION), scale(load3(S + SURFACE.GEOMETRIC), -1)),
        0,
        d,
        load<f32>(ray, RAY.TMAX) - load<f32>(hit),
        MASK.PANE,
        at,
        load<u32>(ray, RAY.SEED),
      );
    }
    n = left;
  }
  return traced;
}

/** What the n rays meet. Returns how many have met it, from the first. */
function meet(job: usize, scratch: usize, rays: usize, met: usize, n: i32): i32 {
  const count = min<i32>(n, atomic.load<i32>(job + JOB.GROUP));
  closest(load<u32>(job, JOB.ROOT), rays, met, count, scratch + SCRATCH.SLOTS, RAY.IN_FLIGHT);
  return settleNearest(rays, met, count, false);
}
