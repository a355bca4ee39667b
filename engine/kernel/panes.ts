// Light on its way through panes: sheets of clear glass without a volume, which do not bend it. A pane stands in the way of no shadow ray; what gets through here takes its
// share. Paths that go straight on through one keep what they remember of their last scattering, so that both ways of finding a light stay weighed against each other.
import { straightOn } from './bsdf';
import { putRay } from './camera';
import { count } from './evidence';
import {
  EVIDENCE_SHADOWED,
  HIT_BYTES,
  HIT_INST,
  INST_BYTES,
  JOB_INSTANCES,
  JOB_ROOT,
  MASK_PANE,
  MAX_PANES,
  RAYS_IN_FLIGHT,
  RAY_BYTES,
  RAY_DIR,
  RAY_MASK,
  RAY_PATH,
  RAY_SEED,
  RAY_TMAX,
  SCRATCH_HITS,
  SCRATCH_SHADE,
  SCRATCH_SHADOW_HITS,
  SCRATCH_SHADOW_RAYS,
  SCRATCH_SLOTS,
  SCRATCH_SURFACE,
  SHADE_BYTES,
  WAVE_PATHS,
} from './layout';
import { S_GEOMETRIC, S_POSITION } from './record';
import { readSurface } from './surface';
import { closest } from './traverse';
import { load3, maxOf, mul, offset, scale, store3, sub, vec } from './vec';

/**
 * Weakens the light of the n shadow rays at `first` and following that reached their light by the panes between. rays and the hits of the scratch are free to use.
 * Where nothing gets through, or more than MAX_PANES stand in the way, the result names the pane as what blocked it. Returns the number of rays traced.
 */
export function throughPanes(job: usize, scratch: usize, rays: usize, first: i32, n: i32, evidence: usize): u32 {
  const shadows = scratch + SCRATCH_SHADOW_RAYS;
  const results = scratch + SCRATCH_SHADOW_HITS;
  const end = first + n;
  let waiting: i32 = 0;
  let traced: u32 = 0;
  for (let at = first; at < end; at++) {
    if (load<u32>(results + ((<usize>at) << 2))) continue;
    const ray = rays + usize(waiting++) * RAY_BYTES;
    memory.copy(ray, shadows + <usize>at * RAY_BYTES, RAY_BYTES);
    store<u32>(ray, MASK_PANE, RAY_MASK);
    store<u32>(ray, at, RAY_PATH);
    if (waiting == WAVE_PATHS) {
      traced += cross(job, scratch, rays, waiting, evidence);
      waiting = 0;
    }
  }
  return traced + cross(job, scratch, rays, waiting, evidence);
}
function cross(job: usize, scratch: usize, rays: usize, n: i32, evidence: usize): u32 {
  const S = scratch + SCRATCH_SURFACE;
  const hits = scratch + SCRATCH_HITS;
  const root = load<u32>(job, JOB_ROOT);
  const instances: usize = load<u32>(job, JOB_INSTANCES);
  let traced: u32 = 0;
  for (let passed: i32 = 0; n > 0; passed++) {
    traced += n;
    closest(root, rays, hits, n, scratch + SCRATCH_SLOTS, RAYS_IN_FLIGHT);
    let left: i32 = 0;
    for (let i: i32 = 0; i < n; i++) {
      const ray = rays + <usize>i * RAY_BYTES;
      const hit = hits + <usize>i * HIT_BYTES;
      const number = load<u32>(hit, HIT_INST);
      const at = load<u32>(ray, RAY_PATH);
      if (number == 0xffffffff) continue;
      const d = load3(ray + RAY_DIR);
      const q = scratch + SCRATCH_SHADE + <usize>at * SHADE_BYTES;
      const came = load3(q);
      readSurface(job, hit, instances + <usize>number * INST_BYTES, d, 0, S);
      const goesOn = passed < MAX_PANES ? mul(came, straightOn(S)) : vec(0, 0, 0);
      if (evidence) count(evidence, number, EVIDENCE_SHADOWED, sub(came, goesOn));
      store3(q, goesOn);
      if (!(maxOf(goesOn) > 0)) {
        store<u32>(scratch + SCRATCH_SHADOW_HITS + ((<usize>at) << 2), number + 1);
        continue;
      }
      putRay(
        rays + usize(left++) * RAY_BYTES,
        offset(load3(S + S_POSITION), scale(load3(S + S_GEOMETRIC), -1)),
        0,
        d,
        load<f32>(ray, RAY_TMAX) - load<f32>(hit),
        MASK_PANE,
        at,
        load<u32>(ray, RAY_SEED),
      );
    }
    n = left;
  }
  return traced;
}
