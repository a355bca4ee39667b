// GGX with separate widths along x and y of the tangent frame (z up): Smith shadowing and visible normals (Heitz, JCGT
// 7(4), 2018).
import { X, Y, Z, add, cross, normalize, scale, vec } from './vec';

export const PI: f32 = 3.14159265;
export const INV_PI: f32 = 0.318309886;

/** Smith's Λ. */
// @ts-ignore
@inline export function lambda2(v: v128, ax: f32, ay: f32): f32 {
  const x = X(v) * ax;
  const y = Y(v) * ay;
  return <f32>0.5 * (sqrt<f32>(<f32>1 + (x * x + y * y) / (Z(v) * Z(v))) - <f32>1);
}
/** Density of normals. */
// @ts-ignore
@inline export function ggx2(h: v128, ax: f32, ay: f32): f32 {
  const x = X(h) / ax;
  const y = Y(h) / ay;
  const k = x * x + y * y + Z(h) * Z(h);
  return <f32>1 / (PI * ax * ay * k * k);
}
/** Normal that v sees, in proportion to how much it sees of it. */
export function visibleNormal2(v: v128, ax: f32, ay: f32, r1: f32, r2: f32): v128 {
  const vh = normalize(vec(X(v) * ax, Y(v) * ay, Z(v)));
  const l = X(vh) * X(vh) + Y(vh) * Y(vh);
  const il: f32 = l > 0 ? <f32>1 / sqrt<f32>(l) : 0;
  const t1 = l > 0 ? vec(-Y(vh) * il, X(vh) * il, 0) : vec(1, 0, 0);
  const t2 = cross(vh, t1);
  const r = sqrt<f32>(r1);
  const phi: f32 = <f32>2 * PI * r2;
  const p1 = r * Mathf.cos(phi);
  const s: f32 = <f32>0.5 * (<f32>1 + Z(vh));
  const one: f32 = 1;
  const p2 = (one - s) * sqrt<f32>(max<f32>(one - p1 * p1, 0)) + s * r * Mathf.sin(phi);
  const nh = add(add(scale(t1, p1), scale(t2, p2)), scale(vh, sqrt<f32>(max<f32>(one - p1 * p1 - p2 * p2, 0))));
  return normalize(vec(ax * X(nh), ay * Y(nh), max<f32>(Z(nh), <f32>1e-6)));
}
