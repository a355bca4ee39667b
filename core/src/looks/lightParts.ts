// How bright each source of a look is, and which of them brighten and darken together from look to look: those are one
// part of the light that a shared trace keeps apart.
import type { Rgb } from '../scene/index.ts';
import { withAddedLights } from './addedLights.ts';
import { isOn, lightShape } from './lightOf.ts';
import { materialOf } from './materialOf.ts';
import type { ResolvedState } from './resolve.ts';
import { skyOf } from './skyOf.ts';
import { lightTarget, materialTarget } from './targets.ts';

/** By target what it gives, in its own unit, r, g, b; without those that give nothing. */
export type SourceLight = ReadonlyMap<string, Rgb>;

const SKIES = ['kind', 'seen', 'reflected', 'refracted'];
const times = (c: Rgb, by: number): Rgb => [c[0] * by, c[1] * by, c[2] * by];

/** @param materials names of those that may glow; absent: all of the scene */
export function sourceLight(state: ResolvedState, materials?: Iterable<string>): SourceLight {
  const document = withAddedLights(state.scene.document, state);
  const out = new Map<string, Rgb>();
  const put = (target: string, c: Rgb) => {
    if (Math.max(...c) > 0) out.set(target, c);
  };
  document.nodes.forEach(({ path, light }, node) => {
    if (light === undefined || !isOn(state, path)) return;
    const { color, intensity } = lightShape(document, state, node);
    put(lightTarget(path), times(color, intensity));
  });
  const sky = (property: string) => state.get('environment', `environment.${property}`);
  if (SKIES.some((p) => skyOf(state, sky(p)) !== undefined))
    put('environment', times(sky('tint') as Rgb, Number(sky('strength'))));
  for (const name of materials ?? glowingMaterials(state)) {
    const { emissionColor, emissionStrength } = materialOf(state, name);
    put(materialTarget(name), times(emissionColor, emissionStrength));
  }
  return out;
}
/** Those that glow in the scene itself, or of which the look says that they do. */
export function glowingMaterials(state: ResolvedState): Set<string> {
  const names = new Set(state.scene.document.materials.filter((m) => m.emissionStrength > 0).map((m) => m.name));
  for (const v of state.values.values())
    if (v.property.id === 'material.emissionStrength') names.add(v.target.slice('material:'.length));
  return names;
}

export interface LightPart {
  readonly targets: readonly string[];
  /** The light group that all of them are in; null: it was not asked for. */
  readonly group: string | null;
  /** How much each look has of it, r, g, b, 0…1 of the most that any has. */
  readonly shares: readonly Rgb[];
}
export interface PartedLight {
  readonly parts: readonly LightPart[];
  /** The most that any look has of each source, channel by channel. */
  readonly most: SourceLight;
}

/** @param groupOf light group of a source, where groups are to stay apart */
export function partsOf(looks: readonly SourceLight[], groupOf?: (target: string) => string): PartedLight {
  const most = new Map<string, Rgb>();
  for (const look of looks)
    for (const [target, c] of look) {
      const known = most.get(target);
      most.set(target, known ? (c.map((x, k) => Math.max(x, known[k]!)) as unknown as Rgb) : c);
    }
  const parts = new Map<string, { targets: string[]; group: string | null; shares: readonly Rgb[] }>();
  for (const [target, top] of most) {
    const shares = looks.map((look) => shareOf(look.get(target), top));
    const group = groupOf ? groupOf(target) : null;
    const key = `${group} ${shares.map((s) => s.map((x) => x.toFixed(SAME_DIGITS)).join()).join(' ')}`;
    const known = parts.get(key);
    if (known) known.targets.push(target);
    else parts.set(key, { targets: [target], group, shares });
  }
  return { parts: [...parts.values()], most };
}
/** Shares that differ by less are the same. */
const SAME_DIGITS = 6;

function shareOf(c: Rgb | undefined, most: Rgb): Rgb {
  if (!c) return [0, 0, 0];
  // a channel that no look has goes with the strongest
  const strongest = most.indexOf(Math.max(...most));
  return most.map((top, k) => (top > 0 ? c[k]! / top : c[strongest]! / most[strongest]!)) as unknown as Rgb;
}
/** Whether every look has all of it. */
export const isConstant = ({ shares }: LightPart): boolean => shares.every((s) => s.every((x) => x === 1));
