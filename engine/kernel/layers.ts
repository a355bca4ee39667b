// Glass, and the layers over the base: what they let through of light in a direction.
import * as CLEAR from './clear';
import * as MAT from './layout/material';
import * as SURFACE from './record';
import { BETWEEN, SHEET, albedo, fresnel, glassFactor, layerFactor, layerMean, sheenAlbedo } from './energy';
import { COAT_F0, OVER_COAT, OVER_SHEEN } from './energyLayout';
import { through } from './reflectance';
import { dot, load3, maxOf, scale, vec, X, Y, Z } from './vec';

// @ts-ignore
@inline export function isSolid(S: usize): bool {
  return (load<u32>(load<u32>(S, SURFACE.MATERIAL), MAT.FLAGS) & MAT.SOLID) != 0;
}
/** Side of glassFactor on which the ray arrives. */
// @ts-ignore
@inline export function glassSide(S: usize): i32 {
  if (!isSolid(S)) return SHEET;
  if (load<i32>(S, SURFACE.IMMERSED)) return BETWEEN;
  return load<f32>(S, SURFACE.ETA) > 1 ? 1 : 0;
}
/** And to which it goes where it gets through. */
export function glassFarSide(S: usize): i32 {
  const side = glassSide(S);
  return side < SHEET ? 1 - side : side;
}
// @ts-ignore
@inline export function glassEta(S: usize): f32 {
  return isSolid(S) ? load<f32>(S, SURFACE.ETA) : <f32>1 / load<f32>(load<u32>(S, SURFACE.MATERIAL), MAT.IOR);
}
// @ts-ignore
@inline export function glassReflects(S: usize, cos: f32, eta: f32): f32 {
  // KHR_materials_specular also weakens the reflection of glass
  const F = fresnel(cos, eta);
  return F < 1 ? F * load<f32>(S, SURFACE.SPECULAR) : 1;
}
// @ts-ignore
@inline export function coatAlbedo(tables: usize, S: usize, cos: f32): f32 {
  const ab = albedo(tables, cos, load<f32>(S, SURFACE.COAT_ROUGHNESS));
  return load<f32>(S, SURFACE.COAT) * (COAT_F0 * X(ab) + Y(ab));
}
// @ts-ignore
@inline export function coatCosine(S: usize, w: v128): f32 {
  return abs<f32>(dot(load3(S + SURFACE.COAT_NORMAL), w));
}
/**
 * What the layers above let through of a diffuse lobe towards direction w (z: its cosine); lost: of what GGX loses and
 * finds again.
 */
export function layersWide(tables: usize, S: usize, w: v128, z: f32, lost: bool): f32 {
  const coat = load<f32>(S, SURFACE.COAT);
  const sheen = maxOf(load3(S + SURFACE.SHEEN));
  const below = load<f32>(S, SURFACE.ROUGHNESS);
  let g: f32 = 1;
  if (coat > 0)
    g = through(
      load<f32>(S, SURFACE.COAT_E),
      coatAlbedo(tables, S, coatCosine(S, w)),
      lost
        ? coat * layerMean(tables, OVER_COAT, load<f32>(S, SURFACE.COAT_ROUGHNESS), below)
        : load<f32>(S, SURFACE.COAT_MEAN),
    );
  if (sheen > 0)
    g *= through(
      load<f32>(S, SURFACE.SHEEN_E),
      sheen * sheenAlbedo(tables, z, load<f32>(S, SURFACE.SHEEN_ROUGHNESS)),
      lost
        ? sheen * layerMean(tables, OVER_SHEEN, load<f32>(S, SURFACE.SHEEN_ROUGHNESS), below)
        : load<f32>(S, SURFACE.SHEEN_MEAN),
    );
  return g;
}
/** The layers' factor of one direction for a GGX lobe below. */
export function layersSharp(tables: usize, S: usize, coatCos: f32, z: f32): f32 {
  const coat = load<f32>(S, SURFACE.COAT);
  const sheen = maxOf(load3(S + SURFACE.SHEEN));
  const below = load<f32>(S, SURFACE.ROUGHNESS);
  let g: f32 = 1;
  if (coat > 0) g = layerFactor(tables, OVER_COAT, coat, load<f32>(S, SURFACE.COAT_ROUGHNESS), below, coatCos);
  if (sheen > 0) g *= layerFactor(tables, OVER_SHEEN, sheen, load<f32>(S, SURFACE.SHEEN_ROUGHNESS), below, z);
  return g;
}
/** What the layers let through of light that crosses the surface to w. */
export function layersAcross(tables: usize, S: usize, w: v128, z: f32): f32 {
  const sheen = maxOf(load3(S + SURFACE.SHEEN));
  const one: f32 = 1;
  let share: f32 = 1;
  if (load<f32>(S, SURFACE.COAT) > 0) share = one - coatAlbedo(tables, S, coatCosine(S, w));
  if (sheen > 0) share *= one - sheen * sheenAlbedo(tables, z, load<f32>(S, SURFACE.SHEEN_ROUGHNESS));
  return min<f32>(share, load<f32>(S, SURFACE.LAYERS_SHARE));
}

/** What a pane's colour and the layers on it leave of light that goes straight on. */
// @ts-ignore
@inline export function tinted(S: usize): v128 {
  return scale(
    load3(S + SURFACE.BASE),
    load<f32>(S, SURFACE.TRANSMISSION) * (load<i32>(S, SURFACE.LAYERED) ? load<f32>(S, SURFACE.LAYERS_SHARE) : <f32>1),
  );
}
/**
 * What a pane lets through, straight on, of light along the direction of arrival. Nothing where the surface is none.
 */
export function straightOn(S: usize): v128 {
  return load<i32>(S, SURFACE.CLEAR) == CLEAR.PANE
    ? scale(tinted(S), <f32>1 - glassReflects(S, Z(load3(S + SURFACE.IN)), glassEta(S)))
    : vec(0, 0, 0);
}
