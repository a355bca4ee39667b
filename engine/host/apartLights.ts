// The strongest sources of a look as groups of their own, whatever light groups they are in: each light, the sky and
// each material that glows.
import { lightTarget, materialTarget } from '@variscen/core/looks';
import { MOST_LIGHTS_APART, type Profile, keepsEachLight } from '@variscen/core/plan';
import type { EngineLight } from './scene.ts';
import type { Selection } from './selection.ts';

/** Of them materials that glow, at most. */
const MOST_GLOWS = 6;
const SKY = 'environment';

/** A selection whose strongest sources are groups of their own, by the targets of `sources`. */
export interface ApartLights {
  readonly selection: Selection;
  readonly sources: readonly string[];
}

export function lightsApart(s: Selection): ApartLights {
  const glowOf = (i: Selection['instances'][number]) => s.materials[i.material]!;
  const glowing = new Set(s.instances.filter((i) => i.lightGroup !== undefined).map(glowOf));
  const glows = [...glowing].sort((a, b) => Math.max(...b.emission) - Math.max(...a.emission)).slice(0, MOST_GLOWS);
  const few = [...(s.environment ? [SKY] : []), ...glows.map((m) => materialTarget(m.name!))];
  const strongest = [...s.lights]
    .sort((a, b) => strengthOf(b) - strengthOf(a))
    .slice(0, MOST_LIGHTS_APART - few.length);
  const sources = [...few, ...strongest.map((l) => lightTarget(l.path!))];
  const places = new Map(sources.map((source, at) => [source, at]));
  const rest = sources.length; // a group that is not kept
  const groupOf = (source: string) => places.get(source) ?? rest;
  return {
    sources,
    selection: {
      ...s,
      lights: s.lights.map((l) => ({ ...l, lightGroup: groupOf(lightTarget(l.path!)) })),
      instances: s.instances.map((i) =>
        i.lightGroup === undefined ? i : { ...i, lightGroup: groupOf(materialTarget(glowOf(i).name!)) },
      ),
      environmentGroup: groupOf(SKY),
      lightGroups: sources,
    },
  };
}
/** For telling strong from weak alone: lamps, panels and suns are not of one unit. */
function strengthOf(l: EngineLight): number {
  switch (l.type) {
    case 'sun':
      return Infinity;
    case 'point':
    case 'spot':
      return Math.max(...l.intensityCd);
    case 'rectangle':
      return Math.max(...l.radianceNits) * l.widthM * l.heightM;
    case 'disc':
    case 'ball':
      return Math.max(...l.radianceNits) * l.radiusM ** 2;
  }
}

/** As a profile has its light kept apart: by the groups of the look, or each source by itself. */
export const keptApart = (s: Selection, profile: Pick<Profile, 'aovs' | 'lightGroups'>): Selection =>
  keepsEachLight(profile) ? lightsApart(s).selection : s;

/** Longer names of channels are no version 2.0 of OpenEXR: “light.”, this, “.R”. */
const LONGEST_NAME = 20;
/**
 * Names for layers of sources, each once: the last part of its name, of plain characters alone.
 * @param targets as `sources` above
 */
export function lightLayerNames(targets: readonly string[]): string[] {
  const taken = new Set<string>();
  return targets.map((target) => {
    const plain =
      target === SKY
        ? 'sky'
        : target
            .slice(target.indexOf(':') + 1)
            .split('/')
            .at(-1)!;
    const ascii = plain.replaceAll(/[^A-Za-z0-9_-]+/g, '_').replaceAll(/^_+|_+$/g, '');
    const short = ascii.slice(0, LONGEST_NAME) || 'light';
    let name = short;
    for (let n = 2; taken.has(name); n++) name = `${short.slice(0, LONGEST_NAME - String(n).length - 1)}_${n}`;
    taken.add(name);
    return name;
  });
}
