// One vertex of a path: what its ray met is shaded, light is looked for, and the path is scattered on.
//   1 read the path and the surface   2 lamps that the ray met   3 the sky, or   4 what the surface shows
//   5 fog before it   6 light samples   7 scatter   8 roulette   9 the ray that goes on
// The vertex under way stands in globals, which all stages share: a thread has an instance of the module of its own,
// and shades one vertex after another.
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
import { evaluate } from './bsdf';
import { scatter } from './scatter';
import { putRay } from './camera';
import { environment, environmentPdf, sampleEnvironment } from './environment';
import { countLight, countPiece, countThroughput, countWay, countWidth, leaveTrail } from './evidence';
import { addBehind, addFirstHit, addFogHit, addFree, addGuides, addRadiance, addSkyGuides } from './film';
import { widening } from './blockers';
import { beginGuide, endGuide, mixGuide } from './guide';
import { along, clear, fogAlbedo, hasFog, readFog, scattersAt } from './fog';
import { pieceOf } from './geometry';
import { passWith } from './leftOut';
import { groupOf, isShadowless, meetLamps, meshLightPdf, sampleLight, weighLights } from './lights';
import { hash, random3 } from './sampling';
import { queueShadowRay } from './shadows';
import { HIDDEN, aroundSolid, crossSolid, immerse, solidBefore, solidIn, transmittance } from './solids';
import { readSurface } from './surface';
import { takeMissing } from './texture';
import { Y, X, Z, add, dot, load3, maxOf, mul, offset, scale, store3, vec } from './vec';
import { paths } from './waveSpace';

/**
 * Groups of dimensions used: pixel and lens; then for each bounce light, environment, direction, lobe with roulette and
 * fog.
 */
const DIMS_CAMERA: u32 = 2;
const DIMS_BOUNCE: u32 = 4;
/**
 * Lobes narrower than this let the rays that go on meet suns and lamps, which light samples alone would find too
 * seldom.
 */
const MEETS_LAMPS: f32 = 0.1;
const NO_HIT: u32 = 0xffffffff;
const NO_GROUP: u32 = 0xffffffff;
const ONE: f32 = 1;
/**
 * Off only in a build that the benchmark of equal times makes: light samples of the sky and of lights at every vertex.
 */
const ONE_SAMPLE: bool = true;
/** Of the sky and of lights one is little that gives less than this share. */
const LITTLE: f32 = 0.1;
/** It is sampled that often at least: estimates know nothing of what stands in the way. */
const LEAST: f32 = 0.05;
const BELOW_ONE: f32 = 0.99999994;

// ---- of the wave: set by beginWave
let job: usize = 0;
let S: usize = 0; // the surface record
let L: usize = 0; // the light sample
let weights: usize = 0;
let instances: usize = 0;
let lighting: usize = 0; // the environment that surfaces are lit by
let evidence: usize = 0; // 0: nothing is counted
let bounces: u32 = 0;
let envGroup: u32 = 0;
let hasEnv: bool = false;
let hasLights: bool = false;
let split: bool = false;
let foggy: bool = false;
let catching: bool = false; // some instances are shadow catchers
let forward: v128 = i32x4(0, 0, 0, 0);

// ---- of the vertex: read by readPath, changed by the stages
let path: usize = 0;
let index: u32 = 0;
let hit: usize = 0;
let o: v128 = i32x4(0, 0, 0, 0);
let d: v128 = i32x4(0, 0, 0, 0);
let pdf: f32 = 0; // of the last direction; 0: no light was picked there
let bounce: u32 = 0;
let panes: u32 = 0;
let depth: u32 = 0; // scatterings: bounces without panes
let kind: i32 = 0; // of the last scattering
let flags: u32 = 0;
let lastAt: v128 = i32x4(0, 0, 0, 0);
let behind: f32 = 0; // m from there to the ray's origin
let ofSky: f32 = 0; // how likely the light samples there were of the sky, and of lights
let ofLights: f32 = 0;
let number: u32 = 0; // of the instance that was hit
let seed: u32 = 0;
let sample: u32 = 0;
let dim: u32 = 0;
let missed: bool = false;
let t: f32 = 0;
let extra: v128 = i32x4(0, 0, 0, 0); // for lobe, fog, roulette
let scattered: f32 = 0; // m to where fog scatters the path
let fogged: bool = false;
let first: bool = false; // what the camera sees through fog
let through: v128 = i32x4(0, 0, 0, 0); // throughput of the ray
let sight: v128 = i32x4(0, 0, 0, 0); // and what of it gets through fog to the camera
let carried: v128 = i32x4(0, 0, 0, 0); // throughput from here on
let around: usize = 0; // on the outer side of the solid that it is on: a material, or HIDDEN; 0: nothing
let caught: bool = false; // it is on a shadow catcher
let ofPlace: bool = false; // what is found here is light of the place on a shadow catcher (catcher.ts)
// of its scattering: set by stage 6
let origin: v128 = i32x4(0, 0, 0, 0);
let facing: v128 = i32x4(0, 0, 0, 0); // the side that light is picked for; 0: both
let bothSides: bool = false;
let meets: bool = false;
let sampledSky: f32 = 0; // how likely its light samples are of the sky, and of lights
let sampledLights: f32 = 0;

export function beginWave(aJob: usize, scratch: usize): void {
  job = aJob;
  S = scratch + SCRATCH.SURFACE;
  L = S + SURFACE.LIGHT;
  weights = scratch + SCRATCH.WEIGHTS;
  instances = load<u32>(job, JOB.INSTANCES);
  lighting = job + JOB.ENVS;
  evidence = load<u32>(job, JOB.EVIDENCE) ? scratch + <usize>load<u32>(job, JOB.EVIDENCE) : 0;
  bounces = load<u32>(job, JOB.BOUNCES);
  envGroup = load<u32>(job, JOB.ENV_GROUP);
  hasEnv = load<u32>(lighting, ENV.DATA) != 0;
  hasLights = load<i32>(job, JOB.LIGHT_COUNT) > 0;
  split = load<u32>(job, JOB.SPLIT) != 0;
  foggy = hasFog(job);
  catching = load<u32>(job, JOB.CATCHERS) != 0;
  forward = load3(job + JOB.CAMERA + 48);
}

// ---- what comes of a path at a vertex
export const ENDS: i32 = 0;
export const GOES_ON: i32 = 1; // by a ray put at next
export const WAITS: i32 = 2; // for textures that its surface looks up: nothing was done, it has to be shaded again

/** Shades what a ray met. */
export function shadeVertex(ray: usize, aHit: usize, next: usize): i32 {
  readPath(ray, aHit);
  const shows = !missed && (first || !fogged);
  if (shows) {
    readSurface(job, hit, instances + <usize>number * INST.BYTES, d, widthAt(t), S);
    if (takeMissing()) return WAITS;
    lookAround();
  }
  const passed = load<u32>(ray, RAY.MARKED) & RAY.PASSED;
  if (passed) passWith(job, path, passed, through);
  if (flags & PATH.MEETS && !fogged) addLampsMet();
  if (catching && !missed && !fogged) meetCatcherOrThing();
  if (missed) {
    if (first || !fogged) addSky();
    if (!fogged) {
      if (bounce) addSkyGuides(job, path);
      return ENDS;
    }
  } else if (shows) {
    if (around == HIDDEN) {
      passHidden(next);
      return GOES_ON;
    }
    if (!addHit()) return ENDS;
  }
  if (fogged) enterFog();
  else if (load<u32>(load<u32>(S, SURFACE.MATERIAL), MAT.FLAGS) & MAT.LIGHT_ALONE) {
    goThrough(next);
    return GOES_ON;
  }
  // panes do not count as scatterings: a path that is at its end still gets to the light behind them
  const last = depth >= bounces;
  const pane = load<i32>(S, SURFACE.CLEAR) == CLEAR.PANE && panes < <u32>MAT.MAX_PANES;
  if (last && !pane) return ENDS;
  prepareScattering();
  sampledSky = 0;
  sampledLights = 0;
  endGuide();
  if (!last && takesLightSamples()) sampleLights();
  scatter(job, S, random3(seed, sample, dim + 2), X(extra));
  const way = load<i32>(S, SURFACE.KIND);
  if (way == KIND.NONE || (way == KIND.STRAIGHT ? !pane : last)) return ENDS;
  carried = mul(carried, load3(S + SURFACE.WEIGHT));
  if (bounce >= 1 && !survivesRoulette()) return ENDS;
  if (!(maxOf(carried) > 0 && maxOf(carried) < Infinity)) return ENDS;
  goOn(way, next);
  return GOES_ON;
}

// ---- 1
// @ts-ignore
@inline function readPath(ray: usize, aHit: usize): void {
  hit = aHit;
  index = load<u32>(ray, RAY.PATH);
  path = paths + <usize>index * PATH.BYTES;
  d = load3(ray + RAY.DIR);
  o = load3(ray);
  pdf = load<f32>(path, PATH.PDF);
  through = load3(path);
  bounce = load<u32>(path, PATH.BOUNCE);
  flags = load<u32>(path, PATH.FLAGS);
  kind = <i32>(flags & PATH.KIND);
  panes = flags >> PATH.PANES;
  depth = bounce - panes;
  lastAt = load3(path + PATH.FROM);
  behind = load<f32>(path, PATH.TRAVELLED);
  ofSky = load<f32>(path, PATH.OF_SKY);
  ofLights = load<f32>(path, PATH.OF_LIGHTS);
  number = load<u32>(hit, HIT.INST);
  seed = load<u32>(path, PATH.SEED);
  sample = load<u32>(path, PATH.SAMPLE);
  dim = DIMS_CAMERA + bounce * DIMS_BOUNCE;
  missed = number == NO_HIT;
  t = missed ? Infinity : load<f32>(hit);
  extra = random3(seed, sample, dim + 3);
  carried = through;
  // what the camera sees through fog is seen by the share that gets through, not by chance: less noise, and surfaces
  // behind guide the denoiser
  scattered = foggy ? scattersAt(job, o, d, t, Y(extra)) : <f32>Infinity;
  fogged = scattered < Infinity;
  around = 0;
  caught = false;
  ofPlace = (flags & PATH.OF_PLACE) != 0;
  first = foggy && !bounce;
  sight = first ? scale(through, clear(job, o, d, t)) : through;
}

/** How wide the ray is, metres from its origin. */
// @ts-ignore
@inline function widthAt(metres: f32): f32 {
  return load<f32>(path, PATH.WIDTH) + load<f32>(path, PATH.SPREAD) * metres;
}

// ---- 2
/** Suns and lamps whose light is met by rays of narrow lobes, and not by light samples alone. */
function addLampsMet(): void {
  const normal = load3(path + PATH.NORMAL);
  for (
    let k = meetLamps(job, lastAt, d, behind, behind + t, normal, pdf, 0, L, weights, ofLights);
    k >= 0;
    k = meetLamps(job, lastAt, d, behind, behind + t, normal, pdf, k + 1, L, weights, ofLights)
  )
    addFound(mul(through, load3(L + SAMPLE.RADIANCE)), load<u32>(L, SAMPLE.GROUP));
}
/** Light that the path met itself. */
function addFound(c: v128, group: u32): void {
  addRadiance(job, path, c, depth, group, 0, ofPlace);
  if (ofPlace && !(flags & PATH.FREED)) addFree(job, path, c, depth);
}

// ---- shadow catchers (catcher.ts)
/** The path met something: a catcher, which the camera may be the first to see, or a thing that is not of the place. */
function meetCatcherOrThing(): void {
  const mask = load<u32>(instances + <usize>number * INST.BYTES, INST.MASK);
  caught = (mask & MASK.CATCHER) != 0;
  if (caught) {
    if (depth == 0) beginOnCatcher();
  } else if (ofPlace && !(mask & INST.PANEL)) standInTheWay();
}
function beginOnCatcher(): void {
  const seen = job + JOB.ENVS + ENV.CAMERA * ENV.BYTES;
  const behindIt = load<u32>(seen, ENV.DATA) ? mul(through, environment(seen, d)) : vec(0, 0, 0);
  addBehind(job, path, behindIt, (X(through) + Y(through) + Z(through)) / <f32>3);
  flags |= PATH.CAUGHT | PATH.OF_PLACE;
  store<u32>(path, flags, PATH.FLAGS);
  ofPlace = true;
}
/**
 * A thing stands between a catcher and what lights it: without it there would be the sky (whatever of the place lies
 * further behind is not looked for). What the path finds here is the thing's; straight on through a pane it finds light
 * of the place again, which is counted as free already.
 */
function standInTheWay(): void {
  if (!(flags & PATH.FREED)) {
    addFree(job, path, skyLight(through), depth);
    if (flags & PATH.MEETS) addLampsBeyond();
    flags |= PATH.FREED;
    store<u32>(path, flags, PATH.FLAGS);
  }
  ofPlace = false;
}
function addLampsBeyond(): void {
  const normal = load3(path + PATH.NORMAL);
  for (
    let k = meetLamps(job, lastAt, d, behind + t, Infinity, normal, pdf, 0, L, weights, ofLights);
    k >= 0;
    k = meetLamps(job, lastAt, d, behind + t, Infinity, normal, pdf, k + 1, L, weights, ofLights)
  )
    addFree(job, path, mul(through, load3(L + SAMPLE.RADIANCE)), depth);
}

// ---- 3
/** What is on the outer side of the solid whose surface was met. No light goes into one where it is opaque or unlit. */
// @ts-ignore
@inline function lookAround(): void {
  const mat: usize = load<u32>(S, SURFACE.MATERIAL);
  const own = load<u32>(mat, MAT.FLAGS);
  if (!(own & MAT.SOLID) || own & MAT.UNLIT || !(load<f32>(S, SURFACE.TRANSMISSION) > 0)) return;
  around = aroundSolid(path, mat, load<i32>(S, SURFACE.FRONT) != 0);
  if (around > HIDDEN) immerse(job, S, around, d);
}
/** Environment that a path of the last scattering's kind sees. */
// @ts-ignore
@inline function environmentSeen(): usize {
  let seen: usize = ENV.LIGHTING;
  if (bounce == 0) seen = ENV.CAMERA;
  else if (kind == KIND.SPECULAR) seen = ENV.REFLECTION;
  else if (kind == KIND.TRANSMITTED) seen = ENV.REFRACTION;
  return job + JOB.ENVS + seen * ENV.BYTES;
}

function addSky(): void {
  if (load<u32>(environmentSeen(), ENV.DATA)) addFound(skyLight(sight), envGroup);
}
/** Of the sky in the path's direction, where nothing is in its way. */
function skyLight(weight: v128): v128 {
  const env = environmentSeen();
  if (!load<u32>(env, ENV.DATA)) return vec(0, 0, 0);
  const wasSampled = pdf > 0 && hasEnv && !(split && kind != KIND.DIFFUSE);
  const share = wasSampled ? weigh(pdf, ofSky * environmentPdf(lighting, d)) : ONE;
  return scale(mul(weight, environment(env, d)), share);
}

/** Power heuristic between two ways of finding the same light; a pdf of 0 means that there is no other way. */
// @ts-ignore
@inline function weigh(a: f32, b: f32): f32 {
  return a > 0 ? (a * a) / (a * a + b * b) : 1;
}

// ---- 4
/** Adds what the surface that was hit shows and emits. Returns false where the path ends at it. */
// @ts-ignore
@inline function addHit(): bool {
  const inst = instances + <usize>number * INST.BYTES;
  if (evidence) countMet();
  if (!bounce) {
    store<f32>(path, 1, PATH.COVERED);
    addFirstHit(job, path, S, hit, inst, t * dot(d, forward));
  }
  const mat: usize = load<u32>(S, SURFACE.MATERIAL);
  const own = load<u32>(mat, MAT.FLAGS);
  absorb();
  if (own & MAT.UNLIT && !caught) {
    if (kind != KIND.DIFFUSE) addRadiance(job, path, mul(sight, load3(S + SURFACE.BASE)), depth, NO_GROUP);
    return fogged;
  }
  // in fog only some paths go on through glass, so it guides itself
  if (!(own & MAT.LIGHT_ALONE)) addGuides(job, path, S, depth >= bounces || first);
  if (caught && depth == 0) return true; // what a catcher shows itself is in the plate
  let emission = load3(S + SURFACE.EMISSION);
  const focus = load<f32>(mat, MAT.FOCUS);
  if (focus > 0) emission = scale(emission, Mathf.pow(max<f32>(-dot(load3(S + SURFACE.GEOMETRIC), d), 0), focus));
  if (maxOf(emission) > 0) addEmission(inst, emission);
  return true;
}

function countMet(): void {
  const how = evidenceKind();
  const piece = pieceOf(instances + <usize>number * INST.BYTES, load<u32>(hit, HIT.PRIM));
  countThroughput(evidence, number, how, sight);
  countPiece(piece, how);
  if (how == EVIDENCE.REFLECTED || how == EVIDENCE.REFRACTED) countWay(evidence, path, index, number, how, sight);
  if (bounce) countWidth(evidence, number, widthMet(how));
  leaveTrail(path, index, number, piece);
}
function evidenceKind(): usize {
  if (!bounce) return EVIDENCE.SEEN;
  if (kind == KIND.SPECULAR) return EVIDENCE.REFLECTED;
  return kind == KIND.TRANSMITTED ? EVIDENCE.REFRACTED : EVIDENCE.BOUNCED;
}

/** What the solid that the ray came through takes of its light. */
function absorb(): void {
  const solid = solidBefore(path, load<u32>(S, SURFACE.MATERIAL), load<i32>(S, SURFACE.FRONT) != 0);
  if (!solid) return;
  const left = transmittance(solid, t);
  carried = mul(carried, left);
  sight = mul(sight, left);
}
/** The surface of a solid within another one that is there alone: the path goes straight on. */
function passHidden(next: usize): void {
  if (evidence) countMet();
  absorb();
  crossSolid(path, load<u32>(S, SURFACE.MATERIAL), load<i32>(S, SURFACE.FRONT) != 0);
  goThrough(next);
}

/** The solid on a side of the surface, 0 for none. @param below on the other side than the path comes from */
function solidOn(below: bool): usize {
  const mat: usize = load<u32>(S, SURFACE.MATERIAL);
  if (!below || !(load<u32>(mat, MAT.FLAGS) & MAT.SOLID)) return solidIn(path);
  return load<i32>(S, SURFACE.FRONT) ? mat : around;
}

function addEmission(inst: usize, emission: v128): void {
  const light = load<i32>(inst, INST.LIGHT);
  const wasPicked = pdf > 0 && light >= 0;
  let other: f32 = 0;
  if (wasPicked) {
    const cosine = -dot(load3(S + SURFACE.GEOMETRIC), d);
    other = ofLights * meshLightPdf(job, light, lastAt, load3(path + PATH.NORMAL), behind + t, cosine, weights);
  }
  const c = scale(mul(first ? sight : carried, emission), weigh(pdf, other));
  if (wasPicked && isShadowless(job, light)) return;
  addFound(c, light >= 0 ? groupOf(job, light) : NO_GROUP);
  if (evidence && bounce) countLight(evidence, number, EVIDENCE.LIT, c);
}

// ---- 5
function enterFog(): void {
  readFog(job, along(o, d, scattered), d, S);
  carried = mul(through, fogAlbedo(job));
  if (bounce) return;
  store<f32>(path, 1, PATH.COVERED);
  if (missed) addFogHit(job, path, S, scattered * dot(d, forward));
}

// ---- 6
// @ts-ignore
@inline function prepareScattering(): void {
  const medium = load<f32>(S, SURFACE.MEDIUM) > 0;
  const ng = load3(S + SURFACE.GEOMETRIC);
  const position = load3(S + SURFACE.POSITION);
  // from the smooth surface that a mesh stands for: its own facets cast no shadow on it
  origin = medium ? position : offset(add(position, scale(ng, load<f32>(S, SURFACE.RISE))), ng);
  bothSides = load<f32>(S, SURFACE.TRANSMISSION) > 0 && !load<i32>(S, SURFACE.CLEAR);
  facing = bothSides ? vec(0, 0, 0) : load3(S + SURFACE.SMOOTH);
  meets = load<f32>(S, SURFACE.SHARP) < MEETS_LAMPS;
}

/** Clear glass is met by no light sample, but for the layers over it. */
// @ts-ignore
@inline function takesLightSamples(): bool {
  return load<f32>(S, SURFACE.TRANSMISSION) < 1 || bothSides || load<i32>(S, SURFACE.LAYERED) != 0;
}

/**
 * A sample of the lights and one of the environment, each with its shadow ray; of one of them alone where the other
 * gives little there: a night's sky is hardly worth a ray at every vertex.
 */
function sampleLights(): void {
  const r = random3(seed, sample, dim);
  let sum: f32 = 0;
  if (hasLights) sum = weighLights(job, origin, facing, weights);
  chooseSampled(sum);
  if (depth == 0 && load<f32>(S, SURFACE.P_COSINE) > 0 && !(load<f32>(S, SURFACE.MEDIUM) > 0))
    beginGuide(job, origin, weights, sum, sum + skyHere(), L);
  const u = Z(r);
  const isBoth = sampledSky + sampledLights > ONE;
  if (sampledLights > 0 && (isBoth || u >= sampledSky)) {
    const left = isBoth ? u : min<f32>((u - sampledSky) / sampledLights, BELOW_ONE);
    const chosen = f32x4.replace_lane(r, 2, left);
    if (sampleLight(job, origin, facing, chosen, meets, L, weights, sum)) {
      scaleSample(sampledLights);
      lightBySample(0);
    }
  }
  if (sampledSky > 0 && (isBoth || u < sampledSky))
    if (sampleEnvironment(job, lighting, random3(seed, sample, dim + 1), L)) {
      scaleSample(sampledSky);
      lightBySample(1);
    }
}
/**
 * How likely the environment is sampled, and lights, where lights give about so many lux. Both are where these say
 * little: where light from all sides matters; and on a catcher, which shows a share of their light.
 */
// @ts-ignore
@inline function chooseSampled(lights: f32): void {
  sampledSky = hasEnv ? 1 : 0;
  sampledLights = lights > 0 ? 1 : 0;
  if (!(hasEnv && lights > 0 && lights < Infinity) || caught || bothSides || load<f32>(S, SURFACE.MEDIUM) > 0) return;
  const sky = skyHere();
  const share = sky / (sky + lights);
  if (!ONE_SAMPLE || (share > LITTLE && share < ONE - LITTLE)) return;
  sampledSky = min<f32>(max<f32>(share, LEAST), ONE - LEAST);
  sampledLights = ONE - sampledSky;
}
/** About how much light the environment gives there, lux. */
// @ts-ignore
@inline function skyHere(): f32 {
  const half: f32 = 0.5;
  const up = half + half * Y(facing);
  return load<f32>(job, JOB.SKY_UP) * up + load<f32>(job, JOB.SKY_DOWN) * (ONE - up);
}
/** The light sample in L was drawn with this probability. */
// @ts-ignore
@inline function scaleSample(probability: f32): void {
  const radiance = load3(L + SAMPLE.RADIANCE);
  const lightPdf = load<f32>(L, SAMPLE.PDF);
  v128.store(L, f32x4.replace_lane(scale(radiance, ONE / probability), 3, lightPdf * probability), SAMPLE.RADIANCE);
}

/** @param which 0: the sample in L is of a light, 1: of the environment */
function lightBySample(which: u32): void {
  const w = load3(L);
  evaluate(job, S, w);
  mixGuide(S, w);
  const fc = v128.load(S, SURFACE.FC);
  const fs = v128.load(S, SURFACE.FS);
  const lightPdf = load<f32>(L, SAMPLE.PDF);
  const pc = f32x4.extract_lane(fc, 3);
  const ps = f32x4.extract_lane(fs, 3);
  let f: v128;
  if (!split) f = scale(f32x4.add(fc, fs), weigh(lightPdf, pc + ps));
  else {
    // what rays of one kind do not meet lights only the lobes of the other
    const mask: u32 = which ? MASK.DIFFUSE : maskOfSample();
    f = mask & MASK.DIFFUSE ? scale(fc, weigh(lightPdf, pc)) : f32x4.splat(0);
    if (mask & MASK.SPECULAR) f = f32x4.add(f, scale(fs, weigh(lightPdf, ps)));
  }
  let c = mul(mul(carried, f32x4.replace_lane(f, 3, 0)), load3(L + SAMPLE.RADIANCE));
  if (!(maxOf(c) > 0)) return;
  const ng = load3(S + SURFACE.GEOMETRIC);
  const below = bothSides && dot(ng, w) < 0;
  const begin = below ? offset(load3(S + SURFACE.POSITION), scale(ng, -1)) : origin;
  const distance = load<f32>(L, SAMPLE.DISTANCE);
  if (foggy) c = scale(c, clear(job, begin, w, distance));
  const inside = solidOn(below);
  // light from without does not get through a solid's surface by a shadow ray
  if (inside && distance < Infinity) c = mul(c, transmittance(inside, distance));
  const towardsSun = !which && load<f32>(L, SAMPLE.REACH) == Infinity;
  const width = evidence ? widening(widthOfShadow(), load<f32>(L, SAMPLE.ANGLE)) : 0;
  const scatterings = (depth + 1) | (isOfPlace() ? SHADE.OF_PLACE : 0);
  queueShadowRay(L, begin, w, c, index, scatterings, towardsSun, hash(seed, sample * 64 + bounce * 2 + which), width);
}

/** Whether the light sample in L is of the place, on a catcher: not where it is of a thing that glows. */
// @ts-ignore
@inline function isOfPlace(): bool {
  if (!ofPlace || flags & PATH.FREED) return false;
  const inst: usize = load<u32>(L, SAMPLE.INSTANCE);
  return !inst || (load<u32>(inst, INST.MASK) & (INST.PANEL | MASK.CATCHER)) != 0;
}

/** Which rays may meet what the light sample in L is of; lamps and suns all. */
// @ts-ignore
@inline function maskOfSample(): u32 {
  const inst: usize = load<u32>(L, SAMPLE.INSTANCE);
  return inst ? load<u32>(inst, INST.MASK) : MASK.DIFFUSE | MASK.SPECULAR;
}

/** As wide as in the picture that evidence is for: rays that met mirrors are as narrow as the camera's. */
function widthMet(how: usize): f32 {
  return how == EVIDENCE.BOUNCED ? widthAt(t) : widthAt(t) * load<f32>(job, JOB.FINER);
}
/** Of what the camera sees itself, as wide as in the picture that evidence is for. */
function widthOfShadow(): f32 {
  const width = widthAt(travelled());
  return bounce ? width : width * load<f32>(job, JOB.FINER);
}

// ---- 8
/** Russian roulette, from the second vertex on: most surfaces of a night scene are dark. */
// @ts-ignore
@inline function survivesRoulette(): bool {
  const keep = min<f32>(maxOf(carried), <f32>0.95);
  if (!(Z(extra) < keep)) return false;
  carried = scale(carried, ONE / keep);
  return true;
}

// ---- 9
function goOn(way: i32, next: usize): void {
  const straight = way == KIND.STRAIGHT;
  // behind a pane a path goes on as it was scattered before it; where no light was picked before (camera, clear glass)
  // it is simply one that was transmitted
  const keeps = straight && pdf > 0;
  let scatteredAs = way;
  if (straight) scatteredAs = keeps ? kind : KIND.TRANSMITTED;
  let start = origin;
  if (straight || way == KIND.TRANSMITTED) {
    start = offset(load3(S + SURFACE.POSITION), scale(load3(S + SURFACE.GEOMETRIC), -1));
    const mat: usize = load<u32>(S, SURFACE.MATERIAL);
    if (!straight && load<u32>(mat, MAT.FLAGS) & MAT.SOLID) crossSolid(path, mat, load<i32>(S, SURFACE.FRONT) != 0);
  }
  putRay(
    next,
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
    store<f32>(path, sampledSky, PATH.OF_SKY);
    store<f32>(path, sampledLights, PATH.OF_LIGHTS);
  }
  widen(scatteredAs);
  store<u32>(path, bounce + 1, PATH.BOUNCE);
  const now = load<u32>(path, PATH.FLAGS);
  if (straight) store<u32>(path, ((now & ~PATH.KIND) | (<u32>scatteredAs)) + (1 << PATH.PANES), PATH.FLAGS);
  else {
    const left: u32 = caught || fogged ? 0 : PATH.OF_PLACE;
    const others = now & ~(PATH.KIND | PATH.MEETS | left);
    store<u32>(path, others | (<u32>scatteredAs) | (meets ? PATH.MEETS : 0), PATH.FLAGS);
  }
}

/** Past what is light alone: the path goes on as it was scattered before. */
function goThrough(next: usize): void {
  const start = offset(load3(S + SURFACE.POSITION), scale(load3(S + SURFACE.GEOMETRIC), -1));
  const mask = kind == KIND.DIFFUSE ? MASK.DIFFUSE : MASK.SPECULAR;
  putRay(next, start, 0, d, Infinity, mask, index, hash(seed, sample * 64 + bounce * 2 + 32));
  v128.store(path, f32x4.replace_lane(carried, 3, pdf));
  store<f32>(path, behind + t, PATH.TRAVELLED);
  store<f32>(path, widthAt(t), PATH.WIDTH);
  store<u32>(path, bounce + 1, PATH.BOUNCE);
  store<u32>(path, load<u32>(path, PATH.FLAGS) + (1 << PATH.PANES), PATH.FLAGS);
}

/** Metres to where the path is scattered. */
// @ts-ignore
@inline function travelled(): f32 {
  return load<f32>(S, SURFACE.MEDIUM) > 0 ? scattered : t;
}

/** A wider lobe sees less detail of textures. */
function widen(scatteredAs: i32): void {
  const spread = load<f32>(path, PATH.SPREAD);
  const ofLobe: f32 = scatteredAs == KIND.DIFFUSE ? <f32>0.2 : <f32>0.25 * load<f32>(S, SURFACE.SHARP);
  store<f32>(path, widthAt(travelled()), PATH.WIDTH);
  store<f32>(path, max<f32>(spread, ofLobe), PATH.SPREAD);
}
