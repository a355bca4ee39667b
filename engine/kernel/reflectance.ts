// What the base of a surface reflects, loses and finds again, and what is left to what lies below.
import * as MAT from './layout/material';
import * as SURFACE from './record';
import { albedo, stretchedAlbedo } from './energy';
import { schlick, thinFilm } from './thinFilm';
import { add, load3, scale, X, Y, Z } from './vec';

/** Fresnel reflectance of the base at cos. */
export function reflectance(S: usize, cos: f32): v128 {
  const F = schlick(load3(S + SURFACE.F0), load<f32>(S, SURFACE.F90), cos);
  const k = load<f32>(S, SURFACE.IRIDESCENCE);
  if (!(k > 0)) return F;
  return add(
    scale(F, <f32>1 - k),
    scale(
      thinFilm(
        cos,
        load<f32>(load<u32>(S, SURFACE.MATERIAL), MAT.IRIDESCENCE_IOR),
        load<f32>(S, SURFACE.IRIDESCENCE_NM),
        load3(S + SURFACE.F0),
      ),
      k,
    ),
  );
}

// @ts-ignore
@inline export function albedoAt(tables: usize, S: usize, v: v128): v128 {
  const roughness = load<f32>(S, SURFACE.ROUGHNESS);
  const strength = load<f32>(S, SURFACE.ANISOTROPY);
  return strength > 0 ? stretchedAlbedo(tables, v, roughness, strength) : albedo(tables, Z(v), roughness);
}
/**
 * Share of light that the base's dielectric reflection leaves to what is below it, for albedo A, B of the direction.
 */
// @ts-ignore
@inline export function left(S: usize, ab: v128): f32 {
  const E = X(ab) + Y(ab);
  return max<f32>(
    <f32>1 -
      (load<f32>(S, SURFACE.F0_DIELECTRIC) * X(ab) +
        load<f32>(S, SURFACE.SPECULAR) * Y(ab) +
        load<f32>(S, SURFACE.MULTI_DIELECTRIC) * (<f32>1 - E)),
    0,
  );
}
/** Energy that single scattering loses and finds again: tint for mean albedo E of the lobe. */
// @ts-ignore
@inline export function found(F0: f32, F90: f32, mean: f32): f32 {
  const F = F0 + (F90 - F0) * <f32>(1.0 / 21);
  return (F * F * mean) / (<f32>1 - F * (<f32>1 - mean));
}
/**
 * How much a layer of albedo Ei, Eo towards both directions, and mean M, lets through to a diffuse lobe below and out
 * again.
 */
// @ts-ignore
@inline export function through(Ei: f32, Eo: f32, M: f32): f32 {
  return ((<f32>1 - Ei) * (<f32>1 - Eo)) / max<f32>(<f32>1 - M, <f32>1e-4);
}
