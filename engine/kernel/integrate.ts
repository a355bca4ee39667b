// The wavefront path tracer: one wave is half a tile of pixels times one sample; each bounce goes through the stages
// trace → shade (which queues shadow rays and next rays) → trace shadows → add. Order of addition is path order, so it depends on nothing else.
import * as CLEAR from './clear';
import * as ENV from './layout/environment';
import * as EVIDENCE from './layout/evidence';
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as KIND from './kinds';
import * as MASK from './layout/mask';
import * as MAT from './layout/material';
import * as PATH from './layout/path';
import * as RAY from './layout/ray';
import * as SAMPLE from './lightSample';
import * as SCRATCH from './layout/scratch';
import * as SHADE from './layout/shade';
import * as SURFACE from './record';
import * as TILE from './layout/tile';
import { evaluate, scatter } from './bsdf';
import { cameraRay, putRay } from './camera';
import { environment, environmentPdf, sampleEnvironment } from './environment';
import { count } from './evidence';
import { addFirstHit, addFogHit, addGuides, addPath, addRadiance, addSkyGuides, isQuiet } from './film';
import { along, clear, fogAlbedo, hasFog, readFog, scattersAt } from './fog';
import { groupOf, isShadowless, meetLamps, meshLightPdf, sampleLight } from './lights';
import { closestTogether, occludedTogether } from './packets';
import { throughPanes } from './panes';
import { hash, random3 } from './sampling';
import { readSurface } from './surface';
import { closest, occluded } from './traverse';
import { X, Y, Z, dot, load3, maxOf, mul, offset, scale, store3, vec } from './vec';

const DIMS_CAMERA: u32 = 2;
const DIMS_BOUNCE: u32 = 4; // groups of dimensions used: pixel and lens; per bounce light, environment, direction, lobe with roulette and fog
/** Lobes narrower than this let the rays that go on meet suns and lamps, which light samples alone would find too seldom. */
const MEETS_LAMPS: f32 = 0.1;

/** Share of light left after t metres inside a solid (Beer–Lambert). */
function transmittance(mat: usize, t: f32): v128 {
  return vec(
    Mathf.exp(-load<f32>(mat, MAT.ATTENUATION) * t),
    Mathf.exp(-load<f32>(mat, MAT.ATTENUATION + 4) * t),
    Mathf.exp(-load<f32>(mat, MAT.ATTENUATION + 8) * t),
  );
}

/** Power heuristic between two ways of finding the same light; a pdf of 0 means that there is no other way. */
// @ts-ignore
@inline function weigh(a: f32, b: f32): f32 {
  return a > 0 ? (a * a) / (a * a + b * b) : 1;
}

/** Environment that a path of the given kind of last scattering sees. */
// @ts-ignore
@inline function environmentOf(job: usize, bounce: u32, kind: i32): usize {
  return (
    job +
    JOB.ENVS +
    (bounce == 0
      ? ENV.CAMERA
      : kind == KIND.SPECULAR
        ? ENV.REFLECTION
        : kind == KIND.TRANSMITTED
          ? ENV.REFRACTION
          : ENV.LIGHTING) *
      ENV.BYTES
  );
}

/** Places in the queue of shadow rays: a path sends two at most from where it scatters. */
const SHADOWS: i32 = 2 * TILE.WAVE_PATHS;

/** Reads what the paths after path i of n will want, so that it is there by then. The sum only keeps the reads from being removed. */
// @ts-ignore
@inline function touchAhead(rays: usize, hits: usize, paths: usize, instances: usize, i: i32, n: i32): u32 {
  let sum: u32 = 0;
  if (i + 2 < n) {
    const path = paths + <usize>load<u32>(rays + <usize>(i + 2) * RAY.BYTES, RAY.PATH) * PATH.BYTES;
    sum = load<u32>(path) ^ load<u32>(path, PATH.BYTES - 4) ^ load<u32>(hits + <usize>(i + 2) * HIT.BYTES, HIT.INST);
  }
  if (i + 1 < n) {
    const hit = hits + <usize>(i + 1) * HIT.BYTES;
    const number = load<u32>(hit, HIT.INST);
    if (number != 0xffffffff) {
      const block: usize = load<u32>(hit, HIT.BLOCK) & ~3;
      const inst = instances + <usize>number * INST.BYTES;
      sum ^= load<u32>(block) ^ load<u32>(block, 64) ^ load<u32>(block, 128) ^ load<u32>(inst) ^ load<u32>(inst, 64);
    }
  }
  return sum;
}

/** Traces and shades one wave of n paths whose rays wait in queue A. Returns the number of rays traced. */
function wave(job: usize, scratch: usize, n: i32): u32 {
  const root = load<u32>(job, JOB.ROOT);
  const instances: usize = load<u32>(job, JOB.INSTANCES);
  const bounces = load<u32>(job, JOB.BOUNCES);
  const S = scratch + SCRATCH.SURFACE;
  const L = S + SURFACE.LIGHT;
  const weights = scratch + SCRATCH.WEIGHTS;
  const paths = scratch + SCRATCH.PATHS;
  const hits = scratch + SCRATCH.HITS;
  const shadows = scratch + SCRATCH.SHADOW_RAYS;
  const shades = scratch + SCRATCH.SHADES;
  const results = scratch + SCRATCH.SHADOW_HITS;
  const lighting = job + JOB.ENVS;
  const hasEnv = load<u32>(lighting, ENV.DATA) != 0;
  const hasLights = load<i32>(job, JOB.LIGHT_COUNT) > 0;
  const split = load<u32>(job, JOB.SPLIT) != 0;
  const foggy = hasFog(job);
  const envGroup = load<u32>(job, JOB.ENV_GROUP);
  const forward = load3(job + JOB.CAMERA + 48);
  const one: f32 = 1;
  const evidence: usize = load<u32>(job, JOB.EVIDENCE) ? scratch + <usize>load<u32>(job, JOB.EVIDENCE) : 0;
  let from = scratch + SCRATCH.RAYS_A;
  let into = scratch + SCRATCH.RAYS_B;
  let rays: u32 = 0;
  let turn: u32 = 0;
  while (n > 0) {
    rays += n;
    if (!root) for (let i: i32 = 0; i < n; i++) store<u32>(hits + <usize>i * HIT.BYTES, 0xffffffff, HIT.INST);
    else if (turn == 0) closestTogether(root, from, hits, n, scratch + SCRATCH.SLOTS, RAY.IN_FLIGHT);
    else closest(root, from, hits, n, scratch + SCRATCH.SLOTS, RAY.IN_FLIGHT);
    turn++;
    // shadow rays stand at both ends of their queue: those that leave the first surface towards a sun go together, from the front; all others scattered, from the back
    let next: i32 = 0;
    let suns: i32 = 0;
    let shadow: i32 = 0;
    let ahead: u32 = 0;
    for (let i: i32 = 0; i < n; i++) {
      ahead ^= touchAhead(from, hits, paths, instances, i, n);
      const ray = from + <usize>i * RAY.BYTES;
      const hit = hits + <usize>i * HIT.BYTES;
      const index = load<u32>(ray, RAY.PATH);
      const path = paths + <usize>index * PATH.BYTES;
      const d = load3(ray + RAY.DIR);
      const o = load3(ray);
      const pdf = load<f32>(path, PATH.PDF);
      const through = load3(path);
      const bounce = load<u32>(path, PATH.BOUNCE);
      const flags = load<u32>(path, PATH.FLAGS);
      const kind = <i32>(flags & PATH.KIND);
      const panes = flags >> PATH.PANES;
      const depth = bounce - panes;
      const lastAt = load3(path + PATH.FROM);
      const behind = load<f32>(path, PATH.TRAVELLED);
      const number = load<u32>(hit, HIT.INST);
      const seed = load<u32>(path, PATH.SEED);
      const sample = load<u32>(path, PATH.SAMPLE);
      const dim = DIMS_CAMERA + bounce * DIMS_BOUNCE;
      const missed = number == 0xffffffff;
      const t: f32 = missed ? Infinity : load<f32>(hit);
      const extra = random3(seed, sample, dim + 3); // lobe, fog, roulette
      let carried = through;
      // what the camera sees through fog is seen by the share that gets through, not by chance: less noise, and surfaces behind guide the denoiser
      const scattered = foggy ? scattersAt(job, o, d, t, Y(extra)) : <f32>Infinity;
      const fogged = scattered < Infinity;
      const first = foggy && !bounce;
      const sight = first ? scale(through, clear(job, o, d, t)) : through;
      if (flags & PATH.MEETS && !fogged)
        for (
          let k = meetLamps(job, lastAt, d, behind, behind + t, load3(path + PATH.NORMAL), pdf, 0, L, weights);
          k >= 0;
          k = meetLamps(job, lastAt, d, behind, behind + t, load3(path + PATH.NORMAL), pdf, k + 1, L, weights)
        )
          addRadiance(job, path, mul(through, load3(L + SAMPLE.RADIANCE)), depth, load<u32>(L, SAMPLE.GROUP));
      if (missed) {
        const env = environmentOf(job, bounce, kind);
        if ((first || !fogged) && load<u32>(env, ENV.DATA))
          addRadiance(
            job,
            path,
            scale(
              mul(sight, environment(env, d)),
              pdf > 0 && hasEnv && !(split && kind != KIND.DIFFUSE) ? weigh(pdf, environmentPdf(lighting, d)) : one,
            ),
            depth,
            envGroup,
          );
        if (!fogged) {
          if (bounce) addSkyGuides(job, path);
          continue;
        }
      } else if (first || !fogged) {
        const inst = instances + <usize>number * INST.BYTES;
        readSurface(job, hit, inst, d, load<f32>(path, PATH.WIDTH) + load<f32>(path, PATH.SPREAD) * t, S);
        if (evidence)
          count(
            evidence,
            number,
            !bounce
              ? EVIDENCE.SEEN
              : kind == KIND.SPECULAR
                ? EVIDENCE.REFLECTED
                : kind == KIND.TRANSMITTED
                  ? EVIDENCE.REFRACTED
                  : EVIDENCE.BOUNCED,
            sight,
          );
        if (!bounce) {
          store<f32>(path, 1, PATH.COVERED);
          addFirstHit(job, path, S, hit, inst, t * dot(d, forward));
        }
        const mat: usize = load<u32>(S, SURFACE.MATERIAL);
        const own = load<u32>(mat, MAT.FLAGS);
        if (own & MAT.UNLIT) {
          if (kind != KIND.DIFFUSE) addRadiance(job, path, mul(sight, load3(S + SURFACE.BASE)), depth, 0xffffffff);
          if (!fogged) continue;
        } else {
          addGuides(job, path, S, depth >= bounces || first); // in fog only some paths go on through glass, so it guides itself
          if (!load<i32>(S, SURFACE.FRONT) && own & MAT.SOLID) carried = mul(carried, transmittance(mat, t)); // the ray went through the solid
          const emission = load3(S + SURFACE.EMISSION);
          if (maxOf(emission) > 0) {
            const light = load<i32>(inst, INST.LIGHT);
            const other: f32 =
              pdf > 0 && light >= 0
                ? meshLightPdf(
                    job,
                    light,
                    lastAt,
                    load3(path + PATH.NORMAL),
                    behind + t,
                    -dot(load3(S + SURFACE.GEOMETRIC), d),
                    weights,
                  )
                : 0;
            const c = scale(mul(first ? sight : carried, emission), weigh(pdf, other));
            if (!(pdf > 0 && light >= 0 && isShadowless(job, light))) {
              addRadiance(job, path, c, depth, light >= 0 ? groupOf(job, light) : 0xffffffff);
              if (evidence && bounce) count(evidence, number, EVIDENCE.LIT, c);
            }
          }
        }
      }
      if (fogged) {
        readFog(job, along(o, d, scattered), d, S);
        carried = mul(through, fogAlbedo(job));
        if (!bounce) {
          store<f32>(path, 1, PATH.COVERED);
          if (missed) addFogHit(job, path, S, scattered * dot(d, forward));
        }
      }
      // panes do not count as scatterings: a path that is at its end still gets to the light behind them
      const last = depth >= bounces;
      const pane = load<i32>(S, SURFACE.CLEAR) == CLEAR.PANE && panes < <u32>MAT.MAX_PANES;
      if (last && !pane) continue;
      const medium = load<f32>(S, SURFACE.MEDIUM) > 0;
      const ng = load3(S + SURFACE.GEOMETRIC);
      const position = load3(S + SURFACE.POSITION);
      const origin = medium ? position : offset(position, ng);
      const T = load<f32>(S, SURFACE.TRANSMISSION);
      const bothSides = T > 0 && !load<i32>(S, SURFACE.CLEAR);
      const facing = bothSides ? vec(0, 0, 0) : ng;
      const meets = load<f32>(S, SURFACE.SHARP) < MEETS_LAMPS;
      if (!last && (T < 1 || bothSides)) {
        for (let k: i32 = 0; k < 2; k++) {
          const found = k
            ? hasEnv && sampleEnvironment(job, lighting, random3(seed, sample, dim + 1), L)
            : hasLights && sampleLight(job, origin, facing, random3(seed, sample, dim), meets, L, weights);
          if (!found) continue;
          const w = load3(L);
          evaluate(job, S, w);
          const fc = v128.load(S, SURFACE.FC);
          const fs = v128.load(S, SURFACE.FS);
          const lightPdf = load<f32>(L, SAMPLE.PDF);
          const pc = f32x4.extract_lane(fc, 3);
          const ps = f32x4.extract_lane(fs, 3);
          let f: v128;
          if (!split) f = scale(f32x4.add(fc, fs), weigh(lightPdf, pc + ps));
          else
            f = k
              ? scale(fc, weigh(lightPdf, pc))
              : f32x4.add(scale(fc, weigh(lightPdf, pc)), scale(fs, weigh(lightPdf, ps)));
          let c = mul(mul(carried, f32x4.replace_lane(f, 3, 0)), load3(L + SAMPLE.RADIANCE));
          if (!(maxOf(c) > 0)) continue;
          const below = bothSides && dot(ng, w) < 0;
          const begin = below ? offset(position, scale(ng, -1)) : origin;
          if (foggy) c = scale(c, clear(job, begin, w, load<f32>(L, SAMPLE.DISTANCE)));
          const at = <usize>(!k && turn == 1 && load<f32>(L, SAMPLE.REACH) == Infinity ? suns++ : SHADOWS - ++shadow);
          putRay(
            shadows + at * RAY.BYTES,
            begin,
            0,
            w,
            load<f32>(L, SAMPLE.REACH),
            MASK.SHADOW,
            index,
            hash(seed, sample * 64 + bounce * 2 + <u32>k),
          );
          const q = shades + at * SHADE.BYTES;
          v128.store(q, c);
          store<u32>(q, index, SHADE.PATH);
          store<u32>(q, load<u32>(L, SAMPLE.GROUP), SHADE.GROUP);
          store<u32>(q, load<u32>(L, SAMPLE.INSTANCE), SHADE.LIGHT);
          store<u32>(q, depth + 1, SHADE.SCATTERINGS);
        }
      }
      scatter(job, S, random3(seed, sample, dim + 2), X(extra));
      const way = load<i32>(S, SURFACE.KIND);
      const straight = way == KIND.STRAIGHT;
      if (way == KIND.NONE || (straight ? !pane : last)) continue;
      carried = mul(carried, load3(S + SURFACE.WEIGHT));
      if (bounce >= 1) {
        // Russian roulette, from the second vertex on: most surfaces of a night scene are dark
        const keep = min<f32>(maxOf(carried), <f32>0.95);
        if (!(Z(extra) < keep)) continue;
        carried = scale(carried, one / keep);
      }
      if (!(maxOf(carried) > 0 && maxOf(carried) < Infinity)) continue;
      // behind a pane a path goes on as it was scattered before it; where no light was picked before (camera, clear glass) it is simply one that was transmitted
      const keeps = straight && pdf > 0;
      const scatteredAs = keeps ? kind : straight ? KIND.TRANSMITTED : way;
      const start = straight || way == KIND.TRANSMITTED ? offset(position, scale(ng, -1)) : origin;
      putRay(
        into + <usize>next * RAY.BYTES,
        start,
        0,
        straight ? d : load3(S + SURFACE.OUT),
        Infinity,
        scatteredAs == KIND.DIFFUSE ? MASK.DIFFUSE : MASK.SPECULAR,
        index,
        hash(seed, sample * 64 + bounce * 2 + 32),
      );
      v128.store(path, f32x4.replace_lane(carried, 3, keeps ? pdf : load<f32>(S, SURFACE.PDF)));
      if (keeps) store<f32>(path, behind + t, PATH.TRAVELLED);
      else {
        v128.store(path, f32x4.replace_lane(start, 3, 0), PATH.FROM);
        store3(path + PATH.NORMAL, facing);
      }
      // a wider lobe sees less detail of textures
      store<f32>(
        path,
        load<f32>(path, PATH.WIDTH) + load<f32>(path, PATH.SPREAD) * (medium ? scattered : t),
        PATH.WIDTH,
      );
      store<f32>(
        path,
        max<f32>(
          load<f32>(path, PATH.SPREAD),
          scatteredAs == KIND.DIFFUSE ? <f32>0.2 : <f32>0.25 * load<f32>(S, SURFACE.SHARP),
        ),
        PATH.SPREAD,
      );
      store<u32>(path, bounce + 1, PATH.BOUNCE);
      const now = load<u32>(path, PATH.FLAGS);
      store<u32>(
        path,
        straight
          ? ((now & ~PATH.KIND) | (<u32>scatteredAs)) + (1 << PATH.PANES)
          : (now & ~(PATH.KIND | PATH.MEETS)) | (<u32>scatteredAs) | (meets ? PATH.MEETS : 0),
        PATH.FLAGS,
      );
      next++;
    }
    store<u32>(scratch + SCRATCH.SLOTS, ahead);
    if (suns + shadow) {
      rays += suns + shadow;
      const back = <usize>(SHADOWS - shadow);
      if (root && suns) occludedTogether(root, shadows, results, suns, scratch + SCRATCH.SLOTS, RAY.IN_FLIGHT);
      if (root && shadow)
        occluded(
          root,
          shadows + back * RAY.BYTES,
          results + (back << 2),
          shadow,
          scratch + SCRATCH.SLOTS,
          RAY.IN_FLIGHT,
        );
      if (root && load<u32>(job, JOB.PANES))
        rays +=
          throughPanes(job, scratch, from, 0, suns, evidence) +
          throughPanes(job, scratch, from, <i32>back, shadow, evidence);
      for (let i: i32 = 0; i < suns + shadow; i++) {
        // a path's light in the order in which it was found
        const at = <usize>(i < suns ? i : SHADOWS - 1 - (i - suns));
        const q = shades + at * SHADE.BYTES;
        const blocker: u32 = root ? load<u32>(results + (at << 2)) : 0;
        if (blocker) {
          if (evidence) count(evidence, blocker - 1, EVIDENCE.SHADOWED, load3(q));
          continue;
        }
        const path = paths + <usize>load<u32>(q, SHADE.PATH) * PATH.BYTES;
        const light: usize = load<u32>(q, SHADE.LIGHT);
        addRadiance(job, path, load3(q), load<u32>(q, SHADE.SCATTERINGS), load<u32>(q, SHADE.GROUP));
        if (evidence && light) count(evidence, load<u32>(light, INST.INDEX), EVIDENCE.LIT, load3(q));
      }
    }
    n = next;
    const swap = from;
    from = into;
    into = swap;
  }
  return rays;
}

/** Renders tiles until none is left or the job is cancelled. Called by every thread, each with scratch of its own. */
export function renderTiles(job: usize, scratch: usize): void {
  const w = load<i32>(job, JOB.WIDTH);
  const h = load<i32>(job, JOB.HEIGHT);
  const left = load<i32>(job, JOB.LEFT);
  const above = load<i32>(job, JOB.TOP);
  const frameWidth = load<i32>(job, JOB.FRAME_WIDTH);
  const across = (w + TILE.WIDTH - 1) / TILE.WIDTH;
  const tiles = across * ((h + TILE.HEIGHT - 1) / TILE.HEIGHT);
  const states: usize = load<u32>(job, JOB.TILE_STATE);
  const first = load<i32>(job, JOB.SAMPLE_START);
  const samples = load<i32>(job, JOB.SAMPLE_COUNT);
  const jobSeed = load<u32>(job, JOB.SEED);
  const paths = scratch + SCRATCH.PATHS;
  while (true) {
    const tile = atomic.add<i32>(job + JOB.NEXT_TILE, 1);
    if (tile >= tiles) return;
    const state = states + ((<usize>tile) << 2);
    const x0 = (tile % across) * TILE.WIDTH;
    const y0 = (tile / across) * TILE.HEIGHT;
    const tw = min<i32>(TILE.WIDTH, w - x0);
    const th = min<i32>(TILE.HEIGHT, h - y0);
    const n = tw * th;
    if (!(load<i32>(state) & TILE.FINISHED)) {
      let rays: u64 = 0;
      for (let s: i32 = 0; s < samples; s++) {
        if (atomic.load<i32>(job + JOB.CANCEL)) return;
        for (let from: i32 = 0; from < n; from += TILE.WAVE_PATHS) {
          const count = min<i32>(TILE.WAVE_PATHS, n - from);
          for (let k: i32 = 0; k < count; k++) {
            const i = from + k;
            // a packet of sixteen camera rays is a square of pixels, made of squares of four
            const block = i >> 4;
            const across4 = tw >> 2;
            const square = ((tw | th) & 3) == 0;
            const x = x0 + (square ? ((block % across4) << 2) + ((i >> 1) & 2) + (i & 1) : i % tw);
            const y = y0 + (square ? ((block / across4) << 2) + ((i >> 2) & 2) + ((i >> 1) & 1) : i / tw);
            const path = paths + <usize>k * PATH.BYTES;
            const seed = hash(<u32>((y + above) * frameWidth + x + left), jobSeed);
            const sample = <u32>(first + s);
            v128.store(path, vec(1, 1, 1));
            v128.store(path, f32x4.splat(0), PATH.RADIANCE);
            store<u32>(path, seed, PATH.SEED);
            store<u32>(path, <u32>(y * w + x), PATH.PIXEL);
            store<u32>(path, sample, PATH.SAMPLE);
            store<u32>(path, 0, PATH.BOUNCE);
            store<u32>(path, 0, PATH.FLAGS);
            store<f32>(path, 0, PATH.COVERED);
            v128.store(path, vec(1, 1, 1), PATH.GUIDE);
            cameraRay(
              job,
              <u32>(x + left),
              <u32>(y + above),
              seed,
              sample,
              scratch + SCRATCH.RAYS_A + <usize>k * RAY.BYTES,
              <u32>k,
              path,
            );
          }
          rays += wave(job, scratch, count);
          for (let i: i32 = 0; i < count; i++) addPath(job, paths + <usize>i * PATH.BYTES);
        }
      }
      atomic.add<u64>(job + JOB.RAYS, rays);
      atomic.add<u64>(job + JOB.PATHS, <u64>n * <u64>samples);
      const done = load<i32>(state) + samples;
      store<i32>(state, done + (isQuiet(job, x0, y0, tw, th, done) ? TILE.FINISHED : 0));
    }
    atomic.add<i32>(job + JOB.TILES_DONE, 1);
  }
}
