// Small vector helpers on v128 (x y z in lanes 0…2; lane 3 is kept at 0 so that no denormal slows arithmetic).
// @ts-ignore
@inline export function vec(x: f32, y: f32, z: f32): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, x), 1, y), 2, z);
}
// @ts-ignore
@inline export function X(v: v128): f32 {
  return f32x4.extract_lane(v, 0);
}
// @ts-ignore
@inline export function Y(v: v128): f32 {
  return f32x4.extract_lane(v, 1);
}
// @ts-ignore
@inline export function Z(v: v128): f32 {
  return f32x4.extract_lane(v, 2);
}
// @ts-ignore
@inline export function load3(p: usize): v128 {
  return f32x4.replace_lane(v128.load(p), 3, 0);
}
// @ts-ignore
@inline export function store3(p: usize, v: v128): void {
  v128.store64_lane(p, v, 0);
  v128.store32_lane(p, v, 2, 8);
}
// @ts-ignore
@inline export function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b);
}
// @ts-ignore
@inline export function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b);
}
// @ts-ignore
@inline export function mul(a: v128, b: v128): v128 {
  return f32x4.mul(a, b);
}
// @ts-ignore
@inline export function scale(a: v128, s: f32): v128 {
  return f32x4.mul(a, f32x4.splat(s));
}
// @ts-ignore
@inline export function neg(a: v128): v128 {
  return f32x4.neg(a);
}
// @ts-ignore
@inline export function dot(a: v128, b: v128): f32 {
  const m = f32x4.mul(a, b);
  return f32x4.extract_lane(m, 0) + f32x4.extract_lane(m, 1) + f32x4.extract_lane(m, 2);
}
// @ts-ignore
@inline export function cross(a: v128, b: v128): v128 {
  const a1 = v128.shuffle<u32>(a, a, 1, 2, 0, 3);
  const b1 = v128.shuffle<u32>(b, b, 1, 2, 0, 3);
  const c = f32x4.sub(f32x4.mul(a, b1), f32x4.mul(a1, b));
  return v128.shuffle<u32>(c, c, 1, 2, 0, 3);
}
// @ts-ignore
@inline export function normalize(a: v128): v128 {
  const l = dot(a, a);
  return l > 0 ? scale(a, <f32>1 / sqrt<f32>(l)) : a;
}
// @ts-ignore
@inline export function luminance(c: v128): f32 {
  return <f32>0.2126 * X(c) + <f32>0.7152 * Y(c) + <f32>0.0722 * Z(c);
}
// @ts-ignore
@inline export function maxOf(c: v128): f32 {
  return max<f32>(X(c), max<f32>(Y(c), Z(c)));
}
/**
 * Origin moved off the surface along normal n, by an amount that fits the size of the coordinates (Wächter & Binder,
 * Ray Tracing Gems, 2019).
 */
// @ts-ignore
@inline function offset1(p: f32, n: f32): f32 {
  const i = <i32>(<f32>256 * n);
  return abs<f32>(p) < <f32>(1.0 / 32)
    ? p + <f32>(1.0 / 65536) * n
    : reinterpret<f32>(reinterpret<i32>(p) + (p < 0 ? -i : i));
}
// @ts-ignore
@inline export function offset(p: v128, n: v128): v128 {
  return vec(offset1(X(p), X(n)), offset1(Y(p), Y(n)), offset1(Z(p), Z(n)));
}
