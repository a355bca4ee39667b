// Reflection of a surface at an angle, under a thin film or without.
import { PI } from './microfacets';
import { reflectance } from './reflectance';
import { add, mul, scale, sub, vec, X, Y, Z } from './vec';

// @ts-ignore
@inline export function schlick(F0: v128, F90: f32, cos: f32): v128 {
  const m = <f32>1 - cos;
  const m2 = m * m;
  const k = m2 * m2 * m;
  return add(F0, scale(sub(scale(vec(1, 1, 1), F90), F0), k));
}
// @ts-ignore
@inline export function square(x: f32): f32 {
  return x * x;
}

/**
 * Sensitivity of the colour matching functions in Fourier space, to linear Rec.709 (Belcour & Barla 2017, as in
 * KHR_materials_iridescence).
 */
export function sensitivity(opdM: f32, shift: v128): v128 {
  const phase: f32 = <f32>2 * PI * opdM;
  const p2 = phase * phase;
  const x =
    <f32>5.4856e-13 *
      sqrt<f32>(<f32>2 * PI * <f32>4.3278e9) *
      Mathf.cos(<f32>1.681e6 * phase + X(shift)) *
      Mathf.exp(-p2 * <f32>4.3278e9) +
    <f32>9.747e-14 *
      sqrt<f32>(<f32>2 * PI * <f32>4.5282e9) *
      Mathf.cos(<f32>2.2399e6 * phase + X(shift)) *
      Mathf.exp(<f32>-4.5282e9 * p2);
  const y =
    <f32>4.4201e-13 *
    sqrt<f32>(<f32>2 * PI * <f32>9.3046e9) *
    Mathf.cos(<f32>1.7953e6 * phase + Y(shift)) *
    Mathf.exp(-p2 * <f32>9.3046e9);
  const z =
    <f32>5.2481e-13 *
    sqrt<f32>(<f32>2 * PI * <f32>6.6121e9) *
    Mathf.cos(<f32>2.2084e6 * phase + Z(shift)) *
    Mathf.exp(-p2 * <f32>6.6121e9);
  const k: f32 = 1.0 / 1.0685e-7;
  return scale(
    vec(
      <f32>3.2404542 * x - <f32>1.5371385 * y - <f32>0.4985314 * z,
      <f32>-0.969266 * x + <f32>1.8760108 * y + <f32>0.041556 * z,
      <f32>0.0556434 * x - <f32>0.2040259 * y + <f32>1.0572252 * z,
    ),
    k,
  );
}
/** Reflectance of a thin film over a base of reflectance F0. */
export function thinFilm(cos: f32, filmIor: f32, nm: f32, F0: v128): v128 {
  const one: f32 = 1;
  const e = nm < 30 ? nm / 30 : one;
  const smooth = e * e * (<f32>3 - <f32>2 * e);
  const ior = one + (filmIor - one) * smooth; // a film of no thickness is none
  const s2 = square(one / ior) * (one - cos * cos);
  if (s2 >= 1) return vec(1, 1, 1);
  const c2 = sqrt<f32>(one - s2);
  const R0 = square((ior - one) / (ior + one));
  const R12 = X(schlick(vec(R0, 0, 0), one, cos));
  const T121 = one - R12;
  const phi12: f32 = ior < 1 ? PI : 0;
  const phi21 = PI - phi12;
  const cap = f32x4.pmin(F0, vec(<f32>0.9999, <f32>0.9999, <f32>0.9999));
  const root = f32x4.replace_lane(f32x4.sqrt(cap), 3, 0);
  const b = vec(
    (one + X(root)) / (one - X(root)),
    (one + Y(root)) / (one - Y(root)),
    (one + Z(root)) / (one - Z(root)),
  );
  const r = vec((X(b) - ior) / (X(b) + ior), (Y(b) - ior) / (Y(b) + ior), (Z(b) - ior) / (Z(b) + ior));
  const R23 = schlick(mul(r, r), one, c2);
  const phi23 = vec(X(b) < ior ? PI : 0, Y(b) < ior ? PI : 0, Z(b) < ior ? PI : 0);
  const opd: f32 = <f32>2 * ior * nm * <f32>1e-9 * c2;
  const phi = add(vec(phi21, phi21, phi21), phi23);
  const R123 = scale(R23, R12);
  const r123 = f32x4.replace_lane(f32x4.sqrt(R123), 3, 0);
  const T2 = T121 * T121;
  const Rs = vec((T2 * X(R23)) / (one - X(R123)), (T2 * Y(R23)) / (one - Y(R123)), (T2 * Z(R23)) / (one - Z(R123)));
  let I = add(vec(R12, R12, R12), Rs);
  let C = sub(Rs, vec(T121, T121, T121));
  for (let m: f32 = 1; m <= 2; m += 1) {
    C = mul(C, r123);
    I = add(I, mul(C, scale(sensitivity(m * opd, scale(phi, m)), 2)));
  }
  return f32x4.replace_lane(f32x4.pmin(f32x4.pmax(I, f32x4.splat(0)), f32x4.splat(1)), 3, 0);
}
