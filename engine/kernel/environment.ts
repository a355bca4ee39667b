// The environment as light. Four inputs: what lights surfaces (picked in proportion to its light), and what the camera,
// reflections and refractions see.
// Latitude-longitude: u = 0.5 looks along −Z and grows towards +X, v = 0 is straight up. The turn is about +Y.
import * as ENV from './layout/environment';
import * as JOB from './layout/job';
import * as SAMPLE from './lightSample';
import { search } from './lights';
import { PI } from './microfacets';
import { X, Y, Z, add, load3, scale, vec } from './vec';

// @ts-ignore
@inline function envU(env: usize, w: v128): f32 {
  const c = load<f32>(env, ENV.TURN_COS);
  const s = load<f32>(env, ENV.TURN_SIN);
  const x = c * X(w) - s * Z(w);
  const z = s * X(w) + c * Z(w);
  return <f32>0.5 + Mathf.atan2(x, -z) / (<f32>2 * PI);
}
/** Bilinear lookup at a place in the map, in texels. */
function environmentAt(env: usize, x: f32, y: f32): v128 {
  const data: usize = load<u32>(env, ENV.DATA);
  const W = load<i32>(env, ENV.WIDTH);
  const H = load<i32>(env, ENV.HEIGHT);
  const half: f32 = 0.5;
  const one: f32 = 1;
  const sx = x - half;
  const sy = y - half;
  const fx = floor<f32>(sx);
  const fy = floor<f32>(sy);
  const a = sx - fx;
  const b = sy - fy;
  const x0 = (<i32>fx + W) % W;
  const x1 = (<i32>fx + 1 + W) % W;
  const y0 = max<i32>(<i32>fy, 0);
  const y1 = min<i32>(<i32>fy + 1, H - 1);
  const p = data + ((<usize>(y0 * W)) << 4);
  const q = data + ((<usize>(y1 * W)) << 4);
  const top = add(scale(load3(p + ((<usize>x0) << 4)), one - a), scale(load3(p + ((<usize>x1) << 4)), a));
  const bottom = add(scale(load3(q + ((<usize>x0) << 4)), one - a), scale(load3(q + ((<usize>x1) << 4)), a));
  return f32x4.mul(add(scale(top, one - b), scale(bottom, b)), load3(env + ENV.SCALE));
}
export function environment(env: usize, w: v128): v128 {
  return environmentAt(
    env,
    envU(env, w) * <f32>load<i32>(env, ENV.WIDTH),
    (Mathf.acos(min<f32>(max<f32>(Y(w), -1), 1)) / PI) * <f32>load<i32>(env, ENV.HEIGHT),
  );
}
export function environmentPdf(env: usize, w: v128): f32 {
  const W = load<i32>(env, ENV.WIDTH);
  const H = load<i32>(env, ENV.HEIGHT);
  const y = min<f32>(max<f32>(Y(w), -1), 1);
  const sin = sqrt<f32>(max<f32>(<f32>1 - y * y, 0));
  const i = min<i32>(max<i32>(<i32>(envU(env, w) * <f32>W), 0), W - 1);
  const j = min<i32>(<i32>((Mathf.acos(y) / PI) * <f32>H), H - 1);
  return sin > <f32>1e-5
    ? load<f32>(<usize>load<u32>(env, ENV.PDF) + ((<usize>(j * W + i)) << 2)) / (<f32>2 * PI * PI * sin)
    : 0;
}
/** Same record as sampleLight, for the lighting input. */
export function sampleEnvironment(job: usize, env: usize, r: v128, out: usize): bool {
  store<u32>(out, load<u32>(job, JOB.ENV_GROUP), SAMPLE.GROUP);
  store<u32>(out, 0, SAMPLE.INSTANCE);
  const W = load<i32>(env, ENV.WIDTH);
  const H = load<i32>(env, ENV.HEIGHT);
  const rows: usize = load<u32>(env, ENV.MARGINAL);
  const one: f32 = 1;
  const j = search(rows, H, Y(r));
  const below: f32 = j ? load<f32>(rows + ((<usize>(j - 1)) << 2)) : 0;
  const fy = (Y(r) - below) / (load<f32>(rows + ((<usize>j) << 2)) - below);
  const cols = <usize>load<u32>(env, ENV.CONDITIONAL) + ((<usize>(j * W)) << 2);
  const i = search(cols, W, X(r));
  const left: f32 = i ? load<f32>(cols + ((<usize>(i - 1)) << 2)) : 0;
  const fx = (X(r) - left) / (load<f32>(cols + ((<usize>i) << 2)) - left);
  const x = <f32>i + min<f32>(max<f32>(fx, 0), 1);
  const y = <f32>j + min<f32>(max<f32>(fy, 0), 1);
  const theta = (PI * y) / <f32>H;
  const phi: f32 = <f32>2 * PI * (x / <f32>W - <f32>0.5);
  const sin = Mathf.sin(theta);
  if (!(sin > <f32>1e-5)) return false;
  const mx = sin * Mathf.sin(phi);
  const mz = -sin * Mathf.cos(phi);
  const c = load<f32>(env, ENV.TURN_COS);
  const s = load<f32>(env, ENV.TURN_SIN);
  const pdf = load<f32>(<usize>load<u32>(env, ENV.PDF) + ((<usize>(j * W + i)) << 2)) / (<f32>2 * PI * PI * sin);
  store<f32>(out, Infinity, SAMPLE.REACH);
  store<f32>(out, min<f32>(sqrt<f32>(one / pdf), 1), SAMPLE.ANGLE);
  v128.store(out, f32x4.replace_lane(vec(c * mx + s * mz, Mathf.cos(theta), -s * mx + c * mz), 3, Infinity));
  v128.store(out, f32x4.replace_lane(scale(environmentAt(env, x, y), one / pdf), 3, pdf), 16);
  return true;
}
