// What passes through what is left out is added up, a pixel: by it what leaving out has cost is at most known.
//
// A path that goes through an object which is left out would have met something else there: instead of all light that
// it brings from then on it would have brought light from that object. And light that reaches a point through one would
// perhaps not have arrived. So a pixel differs from that of the whole scene by no more than
//   light that came through, in nits  +  throughput × how bright the object is,
// the first measured here, of the second the throughput.
//
// Pixel (16 B): light in nits | throughput that met what may be as bright as the picture's mean | number, from 1 on, of
// what most of it went through, among all that is left out | by how much (majority vote of Boyer and Moore 1981,
// weighted)
import * as JOB from './layout/job';
import * as PATH from './layout/path';
import * as PLANE from './layout/plane';
import * as STUB from './layout/stub';
import { luminance } from './vec';

const BYTES: usize = 16;
const LIGHT: usize = 0;
const THROUGHPUT: usize = 4;
const MOST: usize = 8;
const BY: usize = 12;

// @ts-ignore
@inline function add(p: usize, offset: usize, x: f32): void {
  store<f32>(p + offset, load<f32>(p + offset) + x);
}

function vote(p: usize, number: u32, weight: f32): void {
  const rest = load<f32>(p, BY) - weight;
  if (load<u32>(p, MOST) == number) store<f32>(p, load<f32>(p, BY) + weight, BY);
  else if (rest >= 0) store<f32>(p, rest, BY);
  else {
    store<u32>(p, number, MOST);
    store<f32>(p, -rest, BY);
  }
}

/** A path passes what is left out, and has a stub, with a throughput. */
export function passWith(job: usize, path: usize, stub: u32, through: v128): void {
  const leftOut = <usize>load<u32>(job + (PLANE.LEFT_OUT << 2), JOB.PLANES);
  if (!leftOut) return;
  if (!load<u32>(path, PATH.PASSED)) store<u32>(path, stub, PATH.PASSED);
  const brightness = load<f32>(stub, STUB.BRIGHTNESS);
  const share = luminance(through);
  const p = leftOut + <usize>load<u32>(path, PATH.PIXEL) * BYTES;
  if (brightness >= 0) add(p, LIGHT, share * brightness);
  else add(p, THROUGHPUT, share);
  vote(p, load<u32>(stub, STUB.LEFT_OUT), share * abs<f32>(brightness));
}

/** Light that came through one reaches the picture. */
export function addDoubtful(job: usize, path: usize, stub: u32, c: v128): void {
  const leftOut = <usize>load<u32>(job + (PLANE.LEFT_OUT << 2), JOB.PLANES);
  if (!leftOut) return;
  const light = luminance(c);
  const p = leftOut + <usize>load<u32>(path, PATH.PIXEL) * BYTES;
  add(p, LIGHT, light);
  vote(p, load<u32>(stub, STUB.LEFT_OUT), light);
}
