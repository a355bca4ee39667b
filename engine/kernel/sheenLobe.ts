// The lobe of cloth: Charlie's distribution with fitted shadowing.
import { mix } from './energy';
import { PI } from './microfacets';
import { Z } from './vec';

/** Smith-like shadowing of sheen (Estevez & Kulla 2017), a fit over cos θ. */
function sheenFit(x: f32, alpha: f32): f32 {
  const one: f32 = 1;
  const t = (one - alpha) * (one - alpha);
  const a = mix(<f32>21.5473, <f32>25.3245, t);
  const b = mix(<f32>3.82987, <f32>3.32435, t);
  const c = mix(<f32>0.19823, <f32>0.16801, t);
  const d = mix(<f32>-1.9776, <f32>-1.27393, t);
  const e = mix(<f32>-4.32054, <f32>-4.85967, t);
  return a / (one + b * Mathf.pow(x, c)) + d * x + e;
}
function sheenLambda(cos: f32, alpha: f32): f32 {
  const half: f32 = 0.5;
  return cos < half
    ? Mathf.exp(sheenFit(cos, alpha))
    : Mathf.exp(<f32>2 * sheenFit(half, alpha) - sheenFit(<f32>1 - cos, alpha));
}
/** Charlie sheen f · cos θo for colour 1 (Estevez & Kulla 2017). Directions in the tangent frame; roughness 0…1. */
export function sheenLobe(i: v128, o: v128, h: v128, roughness: f32): f32 {
  const alpha = max<f32>(roughness * roughness, <f32>0.01);
  const inv: f32 = <f32>1 / alpha;
  const sin2 = max<f32>(<f32>1 - Z(h) * Z(h), <f32>1e-6);
  const ci = max<f32>(Z(i), <f32>1e-4);
  const co = max<f32>(Z(o), <f32>1e-4);
  const one: f32 = 1;
  const two: f32 = 2;
  const D = ((two + inv) * Mathf.pow(sin2, inv * <f32>0.5)) / (two * PI);
  return D / ((one + sheenLambda(ci, alpha) + sheenLambda(co, alpha)) * <f32>4 * ci);
}
