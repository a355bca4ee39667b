// The surface record in a thread's scratch: what shading needs, once per hit. Offsets in bytes; vectors take 16.
import { X, Y, Z, dot, load3, max3, store3, vec } from './vec';

export const S_POSITION: usize = 0;
export const S_GEOMETRIC: usize = 16;
export const S_NORMAL: usize = 32;
export const S_TANGENT: usize = 48;
export const S_BITANGENT: usize = 64;
export const S_BASE: usize = 80;
export const S_EMISSION: usize = 96;
export const S_IN: usize = 112;
export const S_SPECULAR_F0: usize = 128;
export const S_SHEEN: usize = 144;
export const S_COAT_NORMAL: usize = 160;
export const S_MATERIAL: usize = 176;
export const S_FRONT: usize = 180;
export const S_METALLIC: usize = 184;
export const S_ROUGHNESS: usize = 188;
export const S_TRANSMISSION: usize = 192;
export const S_ETA: usize = 196;
export const S_SPECULAR: usize = 200;
export const S_COAT: usize = 204;
export const S_COAT_ROUGHNESS: usize = 208;
export const S_SHEEN_ROUGHNESS: usize = 212;
export const S_IRIDESCENCE: usize = 216;
export const S_IRIDESCENCE_NM: usize = 220;
export const S_ANISOTROPY: usize = 224;
// Made by prepare(): widths, Fresnel, energy terms, and with what probability each lobe is drawn
export const S_AX: usize = 228;
export const S_AY: usize = 232;
export const S_F90: usize = 236;
export const S_F0: usize = 240;
export const S_DIFFUSE: usize = 256;
export const S_MULTI: usize = 272;
export const S_DIELECTRIC_I: usize = 296;
export const S_P_SPEC: usize = 300;
export const S_P_COSINE: usize = 304;
export const S_P_COAT: usize = 308;
export const S_P_GLASS: usize = 312;
export const S_COAT_E: usize = 316;
export const S_SHEEN_E: usize = 320;
export const S_F0_DIELECTRIC: usize = 324;
export const S_MULTI_DIELECTRIC: usize = 328;
export const S_LAYERED: usize = 332;
export const S_COAT_MEAN: usize = 336;
export const S_SHEEN_MEAN: usize = 340;
export const S_COAT_IN: usize = 352;
export const S_COAT_TANGENT: usize = 368;
export const S_COAT_BITANGENT: usize = 384;
export const S_GLASS_I: usize = 400;
export const S_CLEAR: usize = 404;
export const S_MEDIUM: usize = 408;
export const S_SHARP: usize = 412;
/** What the layers above let through of the direction of arrival: to a GGX lobe below (factor), to what crosses over (share). */
export const S_LAYERS_I: usize = 484;
export const S_LAYERS_SHARE: usize = 488;
// What evaluate() leaves: f · cos and pdf (lane 3) of the lobes spread by the cosine, and of the others
export const S_FC: usize = 416;
export const S_FS: usize = 432;
// What scatter() leaves: direction | weight f · cos / pdf, pdf | kind
export const S_OUT: usize = 448;
export const S_WEIGHT: usize = 464;
export const S_PDF: usize = 476;
export const S_KIND: usize = 480;
/** Where light samples are written. */
export const S_LIGHT: usize = 512;
export const KIND_NONE: i32 = 0;
export const KIND_DIFFUSE: i32 = 1;
export const KIND_SPECULAR: i32 = 2;
export const KIND_TRANSMITTED: i32 = 3;
export const KIND_STRAIGHT: i32 = 4; // straight: through a pane, as if it had not been scattered
/** Values of S_CLEAR besides 0: glass that is only ever sampled; and such that does not bend light. */
export const CLEAR_GLASS: i32 = 1;
export const CLEAR_PANE: i32 = 2;

/** Any frame about unit n (Duff et al., JCGT 6(1), 2017). */
export function setFrame(S: usize, n: v128): void {
  setFrameAt(S + S_TANGENT, S + S_BITANGENT, n);
}
export function setFrameAt(t: usize, b: usize, n: v128): void {
  const sgn: f32 = Z(n) >= 0 ? 1 : -1;
  const a: f32 = <f32>-1 / (sgn + Z(n));
  const k = X(n) * Y(n) * a;
  store3(t, vec(<f32>1 + sgn * X(n) * X(n) * a, sgn * k, -sgn * X(n)));
  store3(b, vec(k, sgn + Y(n) * Y(n) * a, -Y(n)));
}
/** World direction in the surface's frame; z at least zMin. */
export function frame(S: usize, w: v128, zMin: f32): v128 {
  return vec(dot(load3(S + S_TANGENT), w), dot(load3(S + S_BITANGENT), w), max3(dot(load3(S + S_NORMAL), w), zMin));
}
