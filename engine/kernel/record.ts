// The surface record in a thread's scratch: what shading needs, once per hit. Offsets in bytes; vectors take 16.
import { X, Y, Z, dot, load3, max3, store3, vec } from './vec';

export const S_POSITION: usize = 0,
  S_GEOMETRIC: usize = 16,
  S_NORMAL: usize = 32,
  S_TANGENT: usize = 48,
  S_BITANGENT: usize = 64,
  S_BASE: usize = 80,
  S_EMISSION: usize = 96,
  S_IN: usize = 112,
  S_SPECULAR_F0: usize = 128,
  S_SHEEN: usize = 144,
  S_COAT_NORMAL: usize = 160,
  S_MATERIAL: usize = 176,
  S_FRONT: usize = 180,
  S_METALLIC: usize = 184,
  S_ROUGHNESS: usize = 188,
  S_TRANSMISSION: usize = 192,
  S_ETA: usize = 196,
  S_SPECULAR: usize = 200,
  S_COAT: usize = 204,
  S_COAT_ROUGHNESS: usize = 208,
  S_SHEEN_ROUGHNESS: usize = 212,
  S_IRIDESCENCE: usize = 216,
  S_IRIDESCENCE_NM: usize = 220,
  S_ANISOTROPY: usize = 224;
// Made by prepare(): widths, Fresnel, energy terms, and with what probability each lobe is drawn
export const S_AX: usize = 228,
  S_AY: usize = 232,
  S_F90: usize = 236,
  S_F0: usize = 240,
  S_DIFFUSE: usize = 256,
  S_MULTI: usize = 272,
  S_DIELECTRIC_I: usize = 296,
  S_P_SPEC: usize = 300,
  S_P_COSINE: usize = 304,
  S_P_COAT: usize = 308,
  S_P_GLASS: usize = 312,
  S_COAT_E: usize = 316,
  S_SHEEN_E: usize = 320,
  S_F0_DIELECTRIC: usize = 324,
  S_MULTI_DIELECTRIC: usize = 328,
  S_LAYERED: usize = 332,
  S_COAT_MEAN: usize = 336,
  S_SHEEN_MEAN: usize = 340,
  S_COAT_IN: usize = 352,
  S_COAT_TANGENT: usize = 368,
  S_COAT_BITANGENT: usize = 384,
  S_GLASS_I: usize = 400,
  S_CLEAR: usize = 404,
  S_MEDIUM: usize = 408,
  S_SHARP: usize = 412;
/** What the layers above let through of the direction of arrival: to a GGX lobe below (factor), to what crosses over (share). */
export const S_LAYERS_I: usize = 484,
  S_LAYERS_SHARE: usize = 488;
// What evaluate() leaves: f · cos and pdf (lane 3) of the lobes spread by the cosine, and of the others
export const S_FC: usize = 416,
  S_FS: usize = 432;
// What scatter() leaves: direction | weight f · cos / pdf, pdf | kind
export const S_OUT: usize = 448,
  S_WEIGHT: usize = 464,
  S_PDF: usize = 476,
  S_KIND: usize = 480;
/** Where light samples are written. */
export const S_LIGHT: usize = 512;
export const KIND_NONE: i32 = 0,
  KIND_DIFFUSE: i32 = 1,
  KIND_SPECULAR: i32 = 2,
  KIND_TRANSMITTED: i32 = 3,
  KIND_STRAIGHT: i32 = 4; // straight: through a pane, as if it had not been scattered
/** Values of S_CLEAR besides 0: glass that is only ever sampled; and such that does not bend light. */
export const CLEAR_GLASS: i32 = 1,
  CLEAR_PANE: i32 = 2;

/** Any frame about unit n (Duff et al., JCGT 6(1), 2017). */
export function setFrame(S: usize, n: v128): void {
  setFrameAt(S + S_TANGENT, S + S_BITANGENT, n);
}
export function setFrameAt(t: usize, b: usize, n: v128): void {
  const sgn: f32 = Z(n) >= 0 ? 1 : -1,
    a: f32 = <f32>-1 / (sgn + Z(n)),
    k = X(n) * Y(n) * a;
  store3(t, vec(<f32>1 + sgn * X(n) * X(n) * a, sgn * k, -sgn * X(n)));
  store3(b, vec(k, sgn + Y(n) * Y(n) * a, -Y(n)));
}
/** World direction in the surface's frame; z at least zMin. */
export function frame(S: usize, w: v128, zMin: f32): v128 {
  return vec(dot(load3(S + S_TANGENT), w), dot(load3(S + S_BITANGENT), w), max3(dot(load3(S + S_NORMAL), w), zMin));
}
