// One trace for several lightings: what is selected for a look that has all their sources, with every source as bright
// as is best for all of them together, and what each lighting has of each part of that light.
import {
  type PartedLight,
  type ResolvedState,
  type SourceLight,
  isConstant,
  lightTarget,
  materialTarget,
  partsOf,
  sourceLight,
} from '@variscen/core/looks';
import { luminanceAt } from '@variscen/core/image';
import { emits } from './count.ts';
import type { EngineLight, Vec3 } from './scene.ts';
import type { LightParts } from './renderSettings.ts';
import type { SelectedSky, Selection } from './selection.ts';

export interface Relit {
  readonly selection: Selection;
  readonly parts: LightParts;
  /** Lightings in which nothing gives light. */
  readonly unlit: readonly number[];
}

/**
 * @param s selected in the look that has all sources (core/looks/lightings.ts), without anything left out
 * @param states of the lightings
 * @param keepsGroups the light groups of its sources stay apart
 */
export function relit(s: Selection, states: readonly ResolvedState[], keepsGroups: boolean): Relit {
  const glowing = new Set(s.materials.filter(emits).map((m) => m.name!));
  const looks = states.map((state) => within(s, sourceLight(state, glowing)));
  const groups = keepsGroups ? groupsOf(s) : undefined;
  const parted = partsOf(looks, groups && ((target) => String(groups.get(target) ?? -1)));
  const { parts, most } = parted;
  const scales = scalesOf(parted, powersOf(s));
  // what no lighting changes goes with what is lit by nothing, where groups need not be told apart
  const constant = keepsGroups ? -1 : parts.findIndex(isConstant);
  const own = parts.flatMap((_, k) => (k === constant ? [] : [k]));
  const partOf = new Map<string, number>();
  const brightness = new Map<string, Vec3>();
  parts.forEach(({ targets }, k) => {
    const place = k === constant ? own.length : own.indexOf(k);
    for (const target of targets) {
      partOf.set(target, place);
      brightness.set(target, most.get(target)!.map((x) => x * scales[k]!) as unknown as Vec3);
    }
  });
  const mixes = looks.map((_, look) => [
    ...own.flatMap((k) => parts[k]!.shares[look]!.map((share) => share / scales[k]!)),
    ...[1, 1, 1],
  ]);
  const groupOf = (k: number) => (keepsGroups && Number(parts[k]!.group) >= 0 ? Number(parts[k]!.group) : null);
  return {
    selection: lit(s, partOf, brightness),
    parts: { of: [...own.map(groupOf), null], mixes },
    unlit: looks.flatMap((look, k) => (look.size === 0 ? [k] : [])),
  };
}
/** Of what is selected: hidden lamps give nothing. */
function within(s: Selection, light: SourceLight): SourceLight {
  const lamps = new Set(s.lights.map((l) => lightTarget(l.path!)));
  const hasSky = s.environment !== undefined || Object.values(s.environmentInputs).some((e) => e !== 'none');
  const isThere = (target: string) => {
    if (target.startsWith(LAMP)) return lamps.has(target);
    return target !== 'environment' || hasSky;
  };
  return new Map([...light].filter(([target]) => isThere(target)));
}
const LAMP = lightTarget('');

const luminance = (c: Vec3): number => luminanceAt(c, 0);

/** By target the place of its light group. */
function groupsOf(s: Selection): Map<string, number> {
  const out = new Map<string, number>();
  for (const l of s.lights) if (l.path !== undefined) out.set(lightTarget(l.path), l.lightGroup ?? -1);
  for (const i of s.instances)
    if (i.lightGroup !== undefined) out.set(materialTarget(s.materials[i.material]!.name!), i.lightGroup);
  return out.set('environment', s.environmentGroup);
}

/** The selection with every source as bright as that, in its part. */
function lit(s: Selection, partOf: ReadonlyMap<string, number>, brightness: ReadonlyMap<string, Vec3>): Selection {
  const sky = brightness.get('environment');
  const skyAs = (e: SelectedSky): SelectedSky => ({ ...e, scale: sky ?? e.scale });
  const nameOf = (material: number) => materialTarget(s.materials[material]!.name ?? '');
  return {
    ...s,
    lights: s.lights.map((l) => {
      const target = lightTarget(l.path!);
      return { ...withPower(l, brightness.get(target) ?? NONE), lightGroup: partOf.get(target) ?? 0 };
    }),
    materials: s.materials.map((m) => ({
      ...m,
      ...(emits(m) && { emission: brightness.get(materialTarget(m.name!)) ?? m.emission }),
    })),
    instances: s.instances.map((i) => {
      const part = partOf.get(nameOf(i.material));
      return part === undefined ? i : { ...i, lightGroup: part };
    }),
    environment: s.environment && skyAs(s.environment),
    environmentInputs: Object.fromEntries(
      Object.entries(s.environmentInputs).map(([input, e]) => [input, e === 'none' ? e : skyAs(e)]),
    ),
    environmentGroup: partOf.get('environment') ?? 0,
  };
}

const NONE: Vec3 = [0, 0, 0];

function withPower(l: EngineLight, power: Vec3): EngineLight {
  if (l.type === 'sun') return { ...l, illuminanceLux: power };
  return l.type === 'point' || l.type === 'spot' ? { ...l, intensityCd: power } : { ...l, radianceNits: power };
}

/** By target about how much light of a source of brightness 1 arrives at the scene's middle. */
function powersOf(s: Selection): Map<string, number> {
  const out = new Map<string, number>();
  const add = (target: string, power: number) => out.set(target, (out.get(target) ?? 0) + power);
  const [x, y, z] = s.middle;
  const fallOff = (at: ArrayLike<number>) => 1 / (1 + (at[0]! - x) ** 2 + (at[1]! - y) ** 2 + (at[2]! - z) ** 2);
  for (const l of s.lights) {
    const target = lightTarget(l.path!);
    if (l.type === 'sun') add(target, SUN_POWER);
    else if (l.type === 'point' || l.type === 'spot') add(target, fallOff(l.position));
    else add(target, areaOf(l) * fallOff([l.matrix[12]!, l.matrix[13]!, l.matrix[14]!]));
  }
  for (const i of s.instances) {
    const m = s.materials[i.material]!;
    if (emits(m)) add(materialTarget(m.name!), fallOff([i.matrix[12]!, i.matrix[13]!, i.matrix[14]!]) * GLOW_M2);
  }
  return out;
}
/**
 * A sun is as strong everywhere, so that its light is the least noisy: taken for stronger than it is, it is picked
 * less. Of 0.3 to 10 this gave the least error over all pictures, measured as bench -- relight does.
 */
const SUN_POWER = 3;
/** Of something that glows, whose surface is not known here. */
const GLOW_M2 = 0.05;
function areaOf(l: EngineLight): number {
  if (l.type === 'rectangle') return l.widthM * l.heightM;
  return 'radiusM' in l ? Math.PI * l.radiusM ** 2 : 0;
}

/**
 * How much brighter than the most that any lighting has of it each part is traced. Lights are picked by their strength:
 * a lamp that lights one picture alone would hardly be picked beside another picture's sun, so each is as strong as its
 * largest share of the light of any picture. The sky is not picked, and what is constant stays as it is.
 */
function scalesOf({ parts, most }: PartedLight, powers: ReadonlyMap<string, number>): number[] {
  const strengths = parts.map(({ targets }) =>
    targets.reduce((sum, target) => sum + luminance(most.get(target)!) * (powers.get(target) ?? 0), 0),
  );
  const needs = parts.map(() => 0);
  for (const look of parts[0]?.shares.keys() ?? []) {
    const lights = parts.map(({ shares }, k) => luminance(shares[look]!) * strengths[k]!);
    const all = lights.reduce((a, b) => a + b, 0);
    lights.forEach((light, k) => {
      if (all > 0) needs[k] = Math.max(needs[k]!, light / all);
    });
  }
  const wanted = parts.map((_, k) => (strengths[k]! > 0 && needs[k]! > 0 ? needs[k]! / strengths[k]! : 0));
  const constant = parts.findIndex((part, k) => isConstant(part) && wanted[k]! > 0);
  const anchor = constant < 0 ? geometricMean(wanted.filter((x) => x > 0)) : wanted[constant]!;
  return wanted.map((x, k) =>
    x > 0 && k !== constant ? Math.min(MOST_SCALE, Math.max(1 / MOST_SCALE, x / anchor)) : 1,
  );
}
/** Beyond that floats would lose what is added to them. */
const MOST_SCALE = 1e4;
const geometricMean = (list: readonly number[]): number =>
  list.length ? Math.exp(list.reduce((sum, x) => sum + Math.log(x), 0) / list.length) : 1;
