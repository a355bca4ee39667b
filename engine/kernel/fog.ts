// Even fog below a height (world Y): light is taken away by Beer–Lambert and scattered by Henyey–Greenstein. Grey
// extinction; the albedo may be coloured.
import * as JOB from './layout/job';
import * as SURFACE from './record';
import { Y, add, load3, scale, store3, vec } from './vec';

export function hasFog(job: usize): bool {
  return load<f32>(job, JOB.FOG) > 0;
}
/**
 * Metres from the ray's origin at which it enters (side 0) or leaves (1) the fog, within t; equal where it does not
 * meet it.
 */
function edge(job: usize, o: v128, d: v128, t: f32, side: i32): f32 {
  const top = load<f32>(job, JOB.FOG + 8);
  const y = Y(o);
  const dy = Y(d);
  if (y < top) {
    if (!side) return 0;
    return dy > 0 ? min<f32>((top - y) / dy, t) : t;
  }
  if (!(dy < 0)) return 0;
  const enter = (top - y) / dy;
  if (enter >= t) return 0;
  return side ? t : enter;
}
/** Share of light left after t metres. */
export function clear(job: usize, o: v128, d: v128, t: f32): f32 {
  return Mathf.exp(-load<f32>(job, JOB.FOG) * (edge(job, o, d, t, 1) - edge(job, o, d, t, 0)));
}
/** Distance at which the fog scatters the ray, drawn by u, or Infinity where it gets through t metres. */
export function scattersAt(job: usize, o: v128, d: v128, t: f32, u: f32): f32 {
  const a = edge(job, o, d, t, 0);
  const s = -Mathf.log(<f32>1 - u) / load<f32>(job, JOB.FOG);
  return a + s < edge(job, o, d, t, 1) ? a + s : Infinity;
}
/** Makes the surface record stand for a point of the fog on a ray of direction d. */
export function readFog(job: usize, p: v128, d: v128, S: usize): void {
  store3(S + SURFACE.POSITION, p);
  store3(S + SURFACE.IN, d);
  store3(S + SURFACE.GEOMETRIC, vec(0, 0, 0));
  store3(S + SURFACE.SMOOTH, vec(0, 0, 0));
  store<f32>(S, 0, SURFACE.RISE);
  store3(S + SURFACE.EMISSION, vec(0, 0, 0));
  store<f32>(S, 1, SURFACE.MEDIUM);
  store<f32>(S, load<f32>(job, JOB.FOG + 4), SURFACE.METALLIC);
  store<f32>(S, 0, SURFACE.TRANSMISSION);
  store<f32>(S, 1, SURFACE.SHARP);
  store<i32>(S, 0, SURFACE.CLEAR);
}
export function fogAlbedo(job: usize): v128 {
  return load3(job + JOB.FOG_ALBEDO);
}
export function along(o: v128, d: v128, t: f32): v128 {
  return add(o, scale(d, t));
}
