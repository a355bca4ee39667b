// Light adds up: looks that differ only in how bright and of what colour their sources are, or in which are on, are
// sums of the same light. One trace serves all of them (docs/lighting.md). Here it is told which looks those are, and
// what the trace is made from: all of their sources.
import { isPanel } from '../scene/index.ts';
import { hashOf, isGrade } from './fingerprint.ts';
import type { Inputs } from './fingerprint.ts';
import { catchesShadow } from './catchers.ts';
import { type SceneIndex, type Value, propertyOf } from './properties.ts';
import { keyOf } from './resolve.ts';
import { ADDED, isAddedPath, parseTarget } from './targets.ts';

type Values = Inputs['values'];
type Said = ReadonlyMap<string, Value>;

/** A look, as far as it matters for which others it may share a trace with. */
export interface LightShare {
  /** Told of all that light does not scale with, but for where its sources are and what they are like. */
  readonly rest: string;
  /** By target of what it says something of: what the source is like; null where it gives no light. */
  readonly sources: ReadonlyMap<string, string | null>;
}

const SKY = 'environment';
/** What the sky is like; all else of the environment stands in the scene. */
const SKY_SHAPE = [
  'kind',
  'sunElevation',
  'sunAzimuth',
  'haze',
  'turn',
  'saturation',
  'seen',
  'reflected',
  'refracted',
  'group',
];
const OF_SKY: ReadonlySet<string> = new Set([...SKY_SHAPE, 'strength', 'tint'].map((p) => `environment.${p}`));
const OTHER_SKIES = ['seen', 'reflected', 'refracted'];
const EMISSION: ReadonlySet<string> = new Set(['material.emissionStrength', 'material.emissionColor']);
const isBlack = (v: Value | undefined): boolean => v === 0 || (Array.isArray(v) && Math.max(...(v as number[])) <= 0);

/** What a look's values say of each light and of the sky, by target. */
function saidOfSources(values: Values): Map<string, Map<string, Value>> {
  const out = new Map<string, Map<string, Value>>();
  for (const [target, property, value] of values) {
    if (!property.startsWith('light.') && !OF_SKY.has(property)) continue;
    const said = out.get(target) ?? new Map<string, Value>();
    out.set(target, said.set(property, value));
  }
  return out;
}
/** Without what light scales with, in an order that nothing changes. */
const shapeOf = (said: Said): string =>
  JSON.stringify([...said].filter(([p]) => !propertyOf(p)?.linearInLight).sort(([a], [b]) => (a < b ? -1 : 1)));

/** A source is on where nothing says otherwise; a light that looks add stands only where they say so. */
function givesLight(target: string, said: Said): boolean {
  if (target === SKY) return !isBlack(said.get(`${SKY}.strength`)) && !isBlack(said.get(`${SKY}.tint`)) && hasSky(said);
  const { name } = parseTarget(target)!;
  if (isAddedPath(name) && said.get(ADDED) !== true) return false;
  return said.get('light.on') !== false && !isBlack(said.get('light.intensity')) && !isBlack(said.get('light.color'));
}
const hasSky = (said: Said): boolean =>
  said.get(`${SKY}.kind`) !== 'none' ||
  OTHER_SKIES.some((p) => !['same', 'none', undefined].includes(said.get(`${SKY}.${p}`) as string | undefined));

/** Of what it says nothing of. */
const otherwise = (target: string): string | null => {
  const isOfLook = target !== SKY && isAddedPath(parseTarget(target)!.name);
  return isOfLook ? null : shapeOf(new Map());
};

/** @param values of a look, as inputsOf() has them */
export function lightShare(scene: SceneIndex, values: Values): LightShare {
  const said = saidOfSources(values);
  const sources = new Map<string, string | null>();
  const solid: string[] = [];
  for (const [target, own] of said) {
    const isOn = givesLight(target, own);
    sources.set(target, isOn ? shapeOf(own) : null);
    // a panel that the camera sees is a thing: where it is off it is not there
    if (isOn && own.get('light.seenByCamera') === true && isPanelOf(scene, target))
      solid.push(`${target} ${shapeOf(own)}`);
  }
  // copies are as their originals, whose lights they have, and a catcher's shadow does not come apart by lights: looks
  // with some share with what is the same but for the grade
  const hasCopies = values.some(([target, property]) => target.includes('#') || property === 'object.copyLayout');
  if (hasCopies || catchesShadow(values))
    return { rest: hashOf(values.filter(([, property]) => !isGrade(property))), sources: new Map() };
  const rest = values.filter(
    ([target, property]) => !said.get(target)?.has(property) && !isGrade(property) && !EMISSION.has(property),
  );
  return { rest: hashOf([rest, solid.sort()]), sources };
}
function isPanelOf(scene: SceneIndex, target: string): boolean {
  const light = scene.light(parseTarget(target)!.name);
  return light !== undefined && isPanel(light.type);
}

/** Looks that share a trace: their sources, each as all that have it on have it. */
export class SharedLight {
  private readonly sources = new Map<string, string | null>();
  private rest: string | undefined;

  /** Whether a look was taken in. */
  take({ rest, sources }: LightShare): boolean {
    const targets = new Set([...this.sources.keys(), ...sources.keys()]);
    const of = (map: LightShare['sources'], target: string) => {
      const known = map.get(target);
      return known === undefined ? otherwise(target) : known;
    };
    if (this.rest !== undefined) {
      if (this.rest !== rest) return false;
      for (const target of targets) {
        const mine = of(this.sources, target);
        const theirs = of(sources, target);
        if (mine !== null && theirs !== null && mine !== theirs) return false;
      }
    }
    for (const target of targets) {
      const mine = this.rest === undefined ? null : of(this.sources, target);
      this.sources.set(target, mine ?? of(sources, target));
    }
    this.rest = rest;
    return true;
  }
}

/**
 * What one trace of looks that share it is made from: the first's values, and every source as the first has it in which
 * it gives light.
 */
export function sharedValues(scene: SceneIndex, all: readonly Values[]): Values {
  const [first] = all as [Values];
  const said = all.map(saidOfSources);
  const targets = new Set(said.flatMap((s) => [...s.keys()]));
  const out = first.filter(([target, property]) => !targets.has(target) || !isOfSource(property));
  const isOn = (target: string, k: number) => {
    const own = said[k]!.get(target);
    return own ? givesLight(target, own) : otherwise(target) !== null;
  };
  for (const target of targets) {
    const from = Math.max(
      0,
      said.findIndex((_, k) => isOn(target, k)),
    );
    for (const [property, value] of said[from]!.get(target) ?? []) out.push([target, property, value]);
  }
  const glowing = withGlow(scene, all, out);
  return [...glowing].sort((a, b) => (keyOf(a[0], a[1]) < keyOf(b[0], b[1]) ? -1 : 1));
}
const isOfSource = (property: string): boolean => property.startsWith('light.') || OF_SKY.has(property);

/** With the emission of every material as the first look has it in which it glows. */
function withGlow(scene: SceneIndex, all: readonly Values[], values: Values): Values {
  const of = (list: Values): Map<string, Map<string, Value>> => {
    const said = new Map<string, Map<string, Value>>();
    for (const [target, property, value] of list)
      if (EMISSION.has(property)) said.set(target, (said.get(target) ?? new Map<string, Value>()).set(property, value));
    return said;
  };
  const said = all.map(of);
  const targets = new Set(said.flatMap((s) => [...s.keys()]));
  const out = values.filter(([target, property]) => !(EMISSION.has(property) && targets.has(target)));
  for (const target of targets) {
    const m = scene.material(parseTarget(target)!.name);
    const glows = (own: Said | undefined) =>
      !isBlack(own?.get('material.emissionStrength') ?? m?.emissionStrength ?? 0) &&
      !isBlack(own?.get('material.emissionColor') ?? m?.emissionColor ?? 0);
    const from = Math.max(
      0,
      said.findIndex((s) => glows(s.get(target))),
    );
    for (const [property, value] of said[from]!.get(target) ?? []) out.push([target, property, value]);
  }
  return out;
}
