// The wavefront path tracer: one wave is half a tile of pixels times one sample; each bounce goes through the stages
// trace → shade (which queues shadow rays and next rays) → trace shadows → add. Order of addition is path order, so it depends on nothing else.
import { evaluate, scatter } from './bsdf';
import { cameraRay, putRay } from './camera';
import { environment, environmentPdf, sampleEnvironment } from './environment';
import { count } from './evidence';
import { addFirstHit, addFogHit, addGuides, addPath, addRadiance, addSkyGuides, isQuiet } from './film';
import { along, clear, fogAlbedo, hasFog, readFog, scattersAt } from './fog';
import {
  ENV_BYTES,
  ENV_CAMERA,
  ENV_DATA,
  ENV_LIGHTING,
  ENV_REFLECTION,
  ENV_REFRACTION,
  EVIDENCE_BOUNCED,
  EVIDENCE_LIT,
  EVIDENCE_REFLECTED,
  EVIDENCE_REFRACTED,
  EVIDENCE_SEEN,
  EVIDENCE_SHADOWED,
  HIT_BLOCK,
  HIT_BYTES,
  HIT_INST,
  INST_BYTES,
  INST_INDEX,
  INST_LIGHT,
  JOB_BOUNCES,
  JOB_CAMERA,
  JOB_CANCEL,
  JOB_ENVS,
  JOB_ENV_GROUP,
  JOB_EVIDENCE,
  JOB_FRAME_WIDTH,
  JOB_HEIGHT,
  JOB_INSTANCES,
  JOB_LEFT,
  JOB_LIGHT_COUNT,
  JOB_NEXT_TILE,
  JOB_PANES,
  JOB_PATHS,
  JOB_RAYS,
  JOB_ROOT,
  JOB_SAMPLE_COUNT,
  JOB_SAMPLE_START,
  JOB_SEED,
  JOB_SPLIT,
  JOB_TILES_DONE,
  JOB_TILE_STATE,
  JOB_TOP,
  JOB_WIDTH,
  MASK_DIFFUSE,
  MASK_SHADOW,
  MASK_SPECULAR,
  MAT_ATTENUATION,
  MAT_FLAGS,
  MAT_SOLID,
  MAT_UNLIT,
  MAX_PANES,
  PATH_BOUNCE,
  PATH_BYTES,
  PATH_COVERED,
  PATH_FLAGS,
  PATH_FROM,
  PATH_GUIDE,
  PATH_KIND,
  PATH_MEETS,
  PATH_NORMAL,
  PATH_PANES,
  PATH_PDF,
  PATH_PIXEL,
  PATH_RADIANCE,
  PATH_SAMPLE,
  PATH_SEED,
  PATH_SPREAD,
  PATH_TRAVELLED,
  PATH_WIDTH,
  RAYS_IN_FLIGHT,
  RAY_BYTES,
  RAY_DIR,
  RAY_PATH,
  SCRATCH_HITS,
  SCRATCH_PATHS,
  SCRATCH_RAYS_A,
  SCRATCH_RAYS_B,
  SCRATCH_SHADE,
  SCRATCH_SHADOW_HITS,
  SCRATCH_SHADOW_RAYS,
  SCRATCH_SLOTS,
  SCRATCH_SURFACE,
  SCRATCH_WEIGHTS,
  SHADE_BYTES,
  SHADE_GROUP,
  SHADE_LIGHT,
  SHADE_PATH,
  SHADE_SCATTERINGS,
  TILE_FINISHED,
  TILE_HEIGHT,
  TILE_WIDTH,
  WAVE_PATHS,
} from './layout';
import {
  L_DISTANCE,
  L_GROUP,
  L_INSTANCE,
  L_PDF,
  L_RADIANCE,
  L_REACH,
  groupOf,
  isShadowless,
  meetLamps,
  meshLightPdf,
  sampleLight,
} from './lights';
import { closestTogether, occludedTogether } from './packets';
import { throughPanes } from './panes';
import {
  CLEAR_PANE,
  KIND_DIFFUSE,
  KIND_NONE,
  KIND_SPECULAR,
  KIND_STRAIGHT,
  KIND_TRANSMITTED,
  S_BASE,
  S_CLEAR,
  S_EMISSION,
  S_FC,
  S_FRONT,
  S_FS,
  S_GEOMETRIC,
  S_KIND,
  S_LIGHT,
  S_MATERIAL,
  S_MEDIUM,
  S_OUT,
  S_PDF,
  S_POSITION,
  S_SHARP,
  S_TRANSMISSION,
  S_WEIGHT,
} from './record';
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
    Mathf.exp(-load<f32>(mat, MAT_ATTENUATION) * t),
    Mathf.exp(-load<f32>(mat, MAT_ATTENUATION + 4) * t),
    Mathf.exp(-load<f32>(mat, MAT_ATTENUATION + 8) * t),
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
    JOB_ENVS +
    (bounce == 0
      ? ENV_CAMERA
      : kind == KIND_SPECULAR
        ? ENV_REFLECTION
        : kind == KIND_TRANSMITTED
          ? ENV_REFRACTION
          : ENV_LIGHTING) *
      ENV_BYTES
  );
}

/** Places in the queue of shadow rays: a path sends two at most from where it scatters. */
const SHADOWS: i32 = 2 * WAVE_PATHS;

/** Reads what the paths after path i of n will want, so that it is there by then. The sum only keeps the reads from being removed. */
// @ts-ignore
@inline function touchAhead(rays: usize, hits: usize, paths: usize, instances: usize, i: i32, n: i32): u32 {
  let sum: u32 = 0;
  if (i + 2 < n) {
    const path = paths + <usize>load<u32>(rays + <usize>(i + 2) * RAY_BYTES, RAY_PATH) * PATH_BYTES;
    sum = load<u32>(path) ^ load<u32>(path, PATH_BYTES - 4) ^ load<u32>(hits + <usize>(i + 2) * HIT_BYTES, HIT_INST);
  }
  if (i + 1 < n) {
    const hit = hits + <usize>(i + 1) * HIT_BYTES;
    const number = load<u32>(hit, HIT_INST);
    if (number != 0xffffffff) {
      const block: usize = load<u32>(hit, HIT_BLOCK) & ~3;
      const inst = instances + <usize>number * INST_BYTES;
      sum ^= load<u32>(block) ^ load<u32>(block, 64) ^ load<u32>(block, 128) ^ load<u32>(inst) ^ load<u32>(inst, 64);
    }
  }
  return sum;
}

/** Traces and shades one wave of n paths whose rays wait in queue A. Returns the number of rays traced. */
function wave(job: usize, scratch: usize, n: i32): u32 {
  const root = load<u32>(job, JOB_ROOT);
  const instances: usize = load<u32>(job, JOB_INSTANCES);
  const bounces = load<u32>(job, JOB_BOUNCES);
  const S = scratch + SCRATCH_SURFACE;
  const L = S + S_LIGHT;
  const weights = scratch + SCRATCH_WEIGHTS;
  const paths = scratch + SCRATCH_PATHS;
  const hits = scratch + SCRATCH_HITS;
  const shadows = scratch + SCRATCH_SHADOW_RAYS;
  const shades = scratch + SCRATCH_SHADE;
  const results = scratch + SCRATCH_SHADOW_HITS;
  const lighting = job + JOB_ENVS;
  const hasEnv = load<u32>(lighting, ENV_DATA) != 0;
  const hasLights = load<i32>(job, JOB_LIGHT_COUNT) > 0;
  const split = load<u32>(job, JOB_SPLIT) != 0;
  const foggy = hasFog(job);
  const envGroup = load<u32>(job, JOB_ENV_GROUP);
  const forward = load3(job + JOB_CAMERA + 48);
  const one: f32 = 1;
  const evidence: usize = load<u32>(job, JOB_EVIDENCE) ? scratch + <usize>load<u32>(job, JOB_EVIDENCE) : 0;
  let from = scratch + SCRATCH_RAYS_A;
  let into = scratch + SCRATCH_RAYS_B;
  let rays: u32 = 0;
  let turn: u32 = 0;
  while (n > 0) {
    rays += n;
    if (!root) for (let i: i32 = 0; i < n; i++) store<u32>(hits + <usize>i * HIT_BYTES, 0xffffffff, HIT_INST);
    else if (turn == 0) closestTogether(root, from, hits, n, scratch + SCRATCH_SLOTS, RAYS_IN_FLIGHT);
    else closest(root, from, hits, n, scratch + SCRATCH_SLOTS, RAYS_IN_FLIGHT);
    turn++;
    // shadow rays stand at both ends of their queue: those that leave the first surface towards a sun go together, from the front; all others scattered, from the back
    let next: i32 = 0;
    let suns: i32 = 0;
    let shadow: i32 = 0;
    let ahead: u32 = 0;
    for (let i: i32 = 0; i < n; i++) {
      ahead ^= touchAhead(from, hits, paths, instances, i, n);
      const ray = from + <usize>i * RAY_BYTES;
      const hit = hits + <usize>i * HIT_BYTES;
      const index = load<u32>(ray, RAY_PATH);
      const path = paths + <usize>index * PATH_BYTES;
      const d = load3(ray + RAY_DIR);
      const o = load3(ray);
      const pdf = load<f32>(path, PATH_PDF);
      const through = load3(path);
      const bounce = load<u32>(path, PATH_BOUNCE);
      const flags = load<u32>(path, PATH_FLAGS);
      const kind = <i32>(flags & PATH_KIND);
      const panes = flags >> PATH_PANES;
      const depth = bounce - panes;
      const lastAt = load3(path + PATH_FROM);
      const behind = load<f32>(path, PATH_TRAVELLED);
      const number = load<u32>(hit, HIT_INST);
      const seed = load<u32>(path, PATH_SEED);
      const sample = load<u32>(path, PATH_SAMPLE);
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
      if (flags & PATH_MEETS && !fogged)
        for (
          let k = meetLamps(job, lastAt, d, behind, behind + t, load3(path + PATH_NORMAL), pdf, 0, L, weights);
          k >= 0;
          k = meetLamps(job, lastAt, d, behind, behind + t, load3(path + PATH_NORMAL), pdf, k + 1, L, weights)
        )
          addRadiance(job, path, mul(through, load3(L + L_RADIANCE)), depth, load<u32>(L, L_GROUP));
      if (missed) {
        const env = environmentOf(job, bounce, kind);
        if ((first || !fogged) && load<u32>(env, ENV_DATA))
          addRadiance(
            job,
            path,
            scale(
              mul(sight, environment(env, d)),
              pdf > 0 && hasEnv && !(split && kind != KIND_DIFFUSE) ? weigh(pdf, environmentPdf(lighting, d)) : one,
            ),
            depth,
            envGroup,
          );
        if (!fogged) {
          if (bounce) addSkyGuides(job, path);
          continue;
        }
      } else if (first || !fogged) {
        const inst = instances + <usize>number * INST_BYTES;
        readSurface(job, hit, inst, d, load<f32>(path, PATH_WIDTH) + load<f32>(path, PATH_SPREAD) * t, S);
        if (evidence)
          count(
            evidence,
            number,
            !bounce
              ? EVIDENCE_SEEN
              : kind == KIND_SPECULAR
                ? EVIDENCE_REFLECTED
                : kind == KIND_TRANSMITTED
                  ? EVIDENCE_REFRACTED
                  : EVIDENCE_BOUNCED,
            sight,
          );
        if (!bounce) {
          store<f32>(path, 1, PATH_COVERED);
          addFirstHit(job, path, S, hit, inst, t * dot(d, forward));
        }
        const mat: usize = load<u32>(S, S_MATERIAL);
        const own = load<u32>(mat, MAT_FLAGS);
        if (own & MAT_UNLIT) {
          if (kind != KIND_DIFFUSE) addRadiance(job, path, mul(sight, load3(S + S_BASE)), depth, 0xffffffff);
          if (!fogged) continue;
        } else {
          addGuides(job, path, S, depth >= bounces || first); // in fog only some paths go on through glass, so it guides itself
          if (!load<i32>(S, S_FRONT) && own & MAT_SOLID) carried = mul(carried, transmittance(mat, t)); // the ray went through the solid
          const emission = load3(S + S_EMISSION);
          if (maxOf(emission) > 0) {
            const light = load<i32>(inst, INST_LIGHT);
            const other: f32 =
              pdf > 0 && light >= 0
                ? meshLightPdf(
                    job,
                    light,
                    lastAt,
                    load3(path + PATH_NORMAL),
                    behind + t,
                    -dot(load3(S + S_GEOMETRIC), d),
                    weights,
                  )
                : 0;
            const c = scale(mul(first ? sight : carried, emission), weigh(pdf, other));
            if (!(pdf > 0 && light >= 0 && isShadowless(job, light))) {
              addRadiance(job, path, c, depth, light >= 0 ? groupOf(job, light) : 0xffffffff);
              if (evidence && bounce) count(evidence, number, EVIDENCE_LIT, c);
            }
          }
        }
      }
      if (fogged) {
        readFog(job, along(o, d, scattered), d, S);
        carried = mul(through, fogAlbedo(job));
        if (!bounce) {
          store<f32>(path, 1, PATH_COVERED);
          if (missed) addFogHit(job, path, S, scattered * dot(d, forward));
        }
      }
      // panes do not count as scatterings: a path that is at its end still gets to the light behind them
      const last = depth >= bounces;
      const pane = load<i32>(S, S_CLEAR) == CLEAR_PANE && panes < <u32>MAX_PANES;
      if (last && !pane) continue;
      const medium = load<f32>(S, S_MEDIUM) > 0;
      const ng = load3(S + S_GEOMETRIC);
      const position = load3(S + S_POSITION);
      const origin = medium ? position : offset(position, ng);
      const T = load<f32>(S, S_TRANSMISSION);
      const bothSides = T > 0 && !load<i32>(S, S_CLEAR);
      const facing = bothSides ? vec(0, 0, 0) : ng;
      const meets = load<f32>(S, S_SHARP) < MEETS_LAMPS;
      if (!last && (T < 1 || bothSides)) {
        for (let k: i32 = 0; k < 2; k++) {
          const found = k
            ? hasEnv && sampleEnvironment(job, lighting, random3(seed, sample, dim + 1), L)
            : hasLights && sampleLight(job, origin, facing, random3(seed, sample, dim), meets, L, weights);
          if (!found) continue;
          const w = load3(L);
          evaluate(job, S, w);
          const fc = v128.load(S, S_FC);
          const fs = v128.load(S, S_FS);
          const lightPdf = load<f32>(L, L_PDF);
          const pc = f32x4.extract_lane(fc, 3);
          const ps = f32x4.extract_lane(fs, 3);
          let f: v128;
          if (!split) f = scale(f32x4.add(fc, fs), weigh(lightPdf, pc + ps));
          else
            f = k
              ? scale(fc, weigh(lightPdf, pc))
              : f32x4.add(scale(fc, weigh(lightPdf, pc)), scale(fs, weigh(lightPdf, ps)));
          let c = mul(mul(carried, f32x4.replace_lane(f, 3, 0)), load3(L + L_RADIANCE));
          if (!(maxOf(c) > 0)) continue;
          const below = bothSides && dot(ng, w) < 0;
          const begin = below ? offset(position, scale(ng, -1)) : origin;
          if (foggy) c = scale(c, clear(job, begin, w, load<f32>(L, L_DISTANCE)));
          const at = <usize>(!k && turn == 1 && load<f32>(L, L_REACH) == Infinity ? suns++ : SHADOWS - ++shadow);
          putRay(
            shadows + at * RAY_BYTES,
            begin,
            0,
            w,
            load<f32>(L, L_REACH),
            MASK_SHADOW,
            index,
            hash(seed, sample * 64 + bounce * 2 + <u32>k),
          );
          const q = shades + at * SHADE_BYTES;
          v128.store(q, c);
          store<u32>(q, index, SHADE_PATH);
          store<u32>(q, load<u32>(L, L_GROUP), SHADE_GROUP);
          store<u32>(q, load<u32>(L, L_INSTANCE), SHADE_LIGHT);
          store<u32>(q, depth + 1, SHADE_SCATTERINGS);
        }
      }
      scatter(job, S, random3(seed, sample, dim + 2), X(extra));
      const way = load<i32>(S, S_KIND);
      const straight = way == KIND_STRAIGHT;
      if (way == KIND_NONE || (straight ? !pane : last)) continue;
      carried = mul(carried, load3(S + S_WEIGHT));
      if (bounce >= 1) {
        // Russian roulette, from the second vertex on: most surfaces of a night scene are dark
        const keep = min<f32>(maxOf(carried), <f32>0.95);
        if (!(Z(extra) < keep)) continue;
        carried = scale(carried, one / keep);
      }
      if (!(maxOf(carried) > 0 && maxOf(carried) < Infinity)) continue;
      // behind a pane a path goes on as it was scattered before it; where no light was picked before (camera, clear glass) it is simply one that was transmitted
      const keeps = straight && pdf > 0;
      const scatteredAs = keeps ? kind : straight ? KIND_TRANSMITTED : way;
      const start = straight || way == KIND_TRANSMITTED ? offset(position, scale(ng, -1)) : origin;
      putRay(
        into + <usize>next * RAY_BYTES,
        start,
        0,
        straight ? d : load3(S + S_OUT),
        Infinity,
        scatteredAs == KIND_DIFFUSE ? MASK_DIFFUSE : MASK_SPECULAR,
        index,
        hash(seed, sample * 64 + bounce * 2 + 32),
      );
      v128.store(path, f32x4.replace_lane(carried, 3, keeps ? pdf : load<f32>(S, S_PDF)));
      if (keeps) store<f32>(path, behind + t, PATH_TRAVELLED);
      else {
        v128.store(path, f32x4.replace_lane(start, 3, 0), PATH_FROM);
        store3(path + PATH_NORMAL, facing);
      }
      // a wider lobe sees less detail of textures
      store<f32>(
        path,
        load<f32>(path, PATH_WIDTH) + load<f32>(path, PATH_SPREAD) * (medium ? scattered : t),
        PATH_WIDTH,
      );
      store<f32>(
        path,
        max<f32>(
          load<f32>(path, PATH_SPREAD),
          scatteredAs == KIND_DIFFUSE ? <f32>0.2 : <f32>0.25 * load<f32>(S, S_SHARP),
        ),
        PATH_SPREAD,
      );
      store<u32>(path, bounce + 1, PATH_BOUNCE);
      const now = load<u32>(path, PATH_FLAGS);
      store<u32>(
        path,
        straight
          ? ((now & ~PATH_KIND) | (<u32>scatteredAs)) + (1 << PATH_PANES)
          : (now & ~(PATH_KIND | PATH_MEETS)) | (<u32>scatteredAs) | (meets ? PATH_MEETS : 0),
        PATH_FLAGS,
      );
      next++;
    }
    store<u32>(scratch + SCRATCH_SLOTS, ahead);
    if (suns + shadow) {
      rays += suns + shadow;
      const back = <usize>(SHADOWS - shadow);
      if (root && suns) occludedTogether(root, shadows, results, suns, scratch + SCRATCH_SLOTS, RAYS_IN_FLIGHT);
      if (root && shadow)
        occluded(
          root,
          shadows + back * RAY_BYTES,
          results + (back << 2),
          shadow,
          scratch + SCRATCH_SLOTS,
          RAYS_IN_FLIGHT,
        );
      if (root && load<u32>(job, JOB_PANES))
        rays +=
          throughPanes(job, scratch, from, 0, suns, evidence) +
          throughPanes(job, scratch, from, <i32>back, shadow, evidence);
      for (let i: i32 = 0; i < suns + shadow; i++) {
        // a path's light in the order in which it was found
        const at = <usize>(i < suns ? i : SHADOWS - 1 - (i - suns));
        const q = shades + at * SHADE_BYTES;
        const blocker: u32 = root ? load<u32>(results + (at << 2)) : 0;
        if (blocker) {
          if (evidence) count(evidence, blocker - 1, EVIDENCE_SHADOWED, load3(q));
          continue;
        }
        const path = paths + <usize>load<u32>(q, SHADE_PATH) * PATH_BYTES;
        const light: usize = load<u32>(q, SHADE_LIGHT);
        addRadiance(job, path, load3(q), load<u32>(q, SHADE_SCATTERINGS), load<u32>(q, SHADE_GROUP));
        if (evidence && light) count(evidence, load<u32>(light, INST_INDEX), EVIDENCE_LIT, load3(q));
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
  const w = load<i32>(job, JOB_WIDTH);
  const h = load<i32>(job, JOB_HEIGHT);
  const left = load<i32>(job, JOB_LEFT);
  const above = load<i32>(job, JOB_TOP);
  const frameWidth = load<i32>(job, JOB_FRAME_WIDTH);
  const across = (w + TILE_WIDTH - 1) / TILE_WIDTH;
  const tiles = across * ((h + TILE_HEIGHT - 1) / TILE_HEIGHT);
  const states: usize = load<u32>(job, JOB_TILE_STATE);
  const first = load<i32>(job, JOB_SAMPLE_START);
  const samples = load<i32>(job, JOB_SAMPLE_COUNT);
  const jobSeed = load<u32>(job, JOB_SEED);
  const paths = scratch + SCRATCH_PATHS;
  while (true) {
    const tile = atomic.add<i32>(job + JOB_NEXT_TILE, 1);
    if (tile >= tiles) return;
    const state = states + ((<usize>tile) << 2);
    const x0 = (tile % across) * TILE_WIDTH;
    const y0 = (tile / across) * TILE_HEIGHT;
    const tw = min<i32>(TILE_WIDTH, w - x0);
    const th = min<i32>(TILE_HEIGHT, h - y0);
    const n = tw * th;
    if (!(load<i32>(state) & TILE_FINISHED)) {
      let rays: u64 = 0;
      for (let s: i32 = 0; s < samples; s++) {
        if (atomic.load<i32>(job + JOB_CANCEL)) return;
        for (let from: i32 = 0; from < n; from += WAVE_PATHS) {
          const count = min<i32>(WAVE_PATHS, n - from);
          for (let k: i32 = 0; k < count; k++) {
            const i = from + k;
            // a packet of sixteen camera rays is a square of pixels, made of squares of four
            const block = i >> 4;
            const across4 = tw >> 2;
            const square = ((tw | th) & 3) == 0;
            const x = x0 + (square ? ((block % across4) << 2) + ((i >> 1) & 2) + (i & 1) : i % tw);
            const y = y0 + (square ? ((block / across4) << 2) + ((i >> 2) & 2) + ((i >> 1) & 1) : i / tw);
            const path = paths + <usize>k * PATH_BYTES;
            const seed = hash(<u32>((y + above) * frameWidth + x + left), jobSeed);
            const sample = <u32>(first + s);
            v128.store(path, vec(1, 1, 1));
            v128.store(path, f32x4.splat(0), PATH_RADIANCE);
            store<u32>(path, seed, PATH_SEED);
            store<u32>(path, <u32>(y * w + x), PATH_PIXEL);
            store<u32>(path, sample, PATH_SAMPLE);
            store<u32>(path, 0, PATH_BOUNCE);
            store<u32>(path, 0, PATH_FLAGS);
            store<f32>(path, 0, PATH_COVERED);
            v128.store(path, vec(1, 1, 1), PATH_GUIDE);
            cameraRay(
              job,
              <u32>(x + left),
              <u32>(y + above),
              seed,
              sample,
              scratch + SCRATCH_RAYS_A + <usize>k * RAY_BYTES,
              <u32>k,
              path,
            );
          }
          rays += wave(job, scratch, count);
          for (let i: i32 = 0; i < count; i++) addPath(job, paths + <usize>i * PATH_BYTES);
        }
      }
      atomic.add<u64>(job + JOB_RAYS, rays);
      atomic.add<u64>(job + JOB_PATHS, <u64>n * <u64>samples);
      const done = load<i32>(state) + samples;
      store<i32>(state, done + (isQuiet(job, x0, y0, tw, th, done) ? TILE_FINISHED : 0));
    }
    atomic.add<i32>(job + JOB_TILES_DONE, 1);
  }
}
