// The surface record in a thread's scratch: what shading needs, once per hit. Offsets in bytes; vectors take 16.
import { X, Y, Z, dot, load3, store3, vec } from './vec';

export const POSITION: usize = 0;
export const GEOMETRIC: usize = 16;
export const NORMAL: usize = 32;
export const TANGENT: usize = 48;
export const BITANGENT: usize = 64;
export const BASE: usize = 80;
export const EMISSION: usize = 96;
export const IN: usize = 112;
export const SPECULAR_F0: usize = 128;
export const SHEEN: usize = 144;
export const COAT_NORMAL: usize = 160;
export const MATERIAL: usize = 176;
export const FRONT: usize = 180;
export const METALLIC: usize = 184;
export const ROUGHNESS: usize = 188;
export const TRANSMISSION: usize = 192;
export const ETA: usize = 196;
export const SPECULAR: usize = 200;
export const COAT: usize = 204;
export const COAT_ROUGHNESS: usize = 208;
export const SHEEN_ROUGHNESS: usize = 212;
export const IRIDESCENCE: usize = 216;
export const IRIDESCENCE_NM: usize = 220;
export const ANISOTROPY: usize = 224;
// Made by prepare(): widths, Fresnel, energy terms, and with what probability each lobe is drawn
export const AX: usize = 228;
export const AY: usize = 232;
export const F90: usize = 236;
export const F0: usize = 240;
export const DIFFUSE: usize = 256;
export const MULTI: usize = 272;
/** 1: a solid's, with another solid around it. */
export const IMMERSED: usize = 288;
export const DIELECTRIC_I: usize = 296;
export const P_SPEC: usize = 300;
export const P_COSINE: usize = 304;
export const P_COAT: usize = 308;
export const P_GLASS: usize = 312;
export const COAT_E: usize = 316;
export const SHEEN_E: usize = 320;
export const F0_DIELECTRIC: usize = 324;
export const MULTI_DIELECTRIC: usize = 328;
export const LAYERED: usize = 332;
export const COAT_MEAN: usize = 336;
export const SHEEN_MEAN: usize = 340;
export const COAT_IN: usize = 352;
export const COAT_TANGENT: usize = 368;
export const COAT_BITANGENT: usize = 384;
export const GLASS_I: usize = 400;
export const CLEAR: usize = 404;
export const MEDIUM: usize = 408;
export const SHARP: usize = 412;
/**
 * What the layers above let through of the direction of arrival: to a GGX lobe below (factor), to what crosses over
 * (share).
 */
export const LAYERS_I: usize = 484;
export const LAYERS_SHARE: usize = 488;
// What evaluate() leaves: f · cos and pdf (lane 3) of the lobes spread by the cosine, and of the others
export const FC: usize = 416;
export const FS: usize = 432;
// What scatter() leaves: direction | weight f · cos / pdf, pdf | kind
export const OUT: usize = 448;
export const WEIGHT: usize = 464;
export const PDF: usize = 476;
export const KIND: usize = 480;
/** The side that light may come from: of the smooth surface that an opaque mesh stands for, otherwise GEOMETRIC. */
export const SMOOTH: usize = 496;
/** Metres by which the smooth surface stands above the mesh at POSITION, along GEOMETRIC. */
export const RISE: usize = 508;
/** Where light samples are written. */
export const LIGHT: usize = 512;

/** Any frame about unit n (Duff et al., JCGT 6(1), 2017). */
export function setFrame(S: usize, n: v128): void {
  setFrameAt(S + TANGENT, S + BITANGENT, n);
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
  return vec(dot(load3(S + TANGENT), w), dot(load3(S + BITANGENT), w), max<f32>(dot(load3(S + NORMAL), w), zMin));
}
