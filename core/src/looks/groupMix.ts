// Light groups of a picture, or single sources, made brighter, darker or of another colour, as values of a look: light
// scales with them, so the look rendered anew is the picture as it was mixed.
import type { MixBy } from '../image/index.ts';
import type { Rgb } from '../scene/index.ts';
import { withAddedLights } from './addedLights.ts';
import { isOn, lightShape } from './lightOf.ts';
import { glowingMaterials } from './lightParts.ts';
import { materialOf } from './materialOf.ts';
import { type Change, type ResolvedState, mergeChanges, resolve } from './resolve.ts';
import { lightTarget, materialTarget } from './targets.ts';

/** How much of each, r, g, b, by its name; those that are not named stay as they are. */
export type MixShares = ReadonlyMap<string, Rgb>;

interface Source {
  readonly target: string;
  readonly group: string;
  readonly color: Rgb;
  readonly strength: number;
  /** Properties of its colour and its strength, and how it is switched off. */
  readonly properties: readonly [color: string, strength: string];
  readonly off: Pick<Change, 'property' | 'value'>;
}

/** Lights that are on, the sky, and what glows, with the light groups that they are in. */
function sourcesOf(state: ResolvedState): Source[] {
  const document = withAddedLights(state.scene.document, state);
  const out: Source[] = [];
  const groupOf = (target: string, property: string) => String(state.get(target, property) ?? '1');
  document.nodes.forEach(({ path, light }, node) => {
    if (light === undefined || !isOn(state, path)) return;
    const target = lightTarget(path);
    const own = state.get(target, 'light.color');
    out.push({
      target,
      group: groupOf(target, 'light.group'),
      // without its temperature, which goes on warming it
      color: (own as Rgb | undefined) ?? document.lights[light]!.color,
      strength: lightShape(document, state, node).intensity,
      properties: ['light.color', 'light.intensity'],
      off: { property: 'light.on', value: false },
    });
  });
  const sky = (property: string) => state.get('environment', `environment.${property}`);
  out.push({
    target: 'environment',
    group: groupOf('environment', 'environment.group'),
    color: sky('tint') as Rgb,
    strength: Number(sky('strength')),
    properties: ['environment.tint', 'environment.strength'],
    off: { property: 'environment.strength', value: 0 },
  });
  for (const name of glowingMaterials(state)) {
    const target = materialTarget(name);
    const { emissionColor, emissionStrength } = materialOf(state, name);
    out.push({
      target,
      group: groupOf(target, 'material.lightGroup'),
      color: emissionColor,
      strength: emissionStrength,
      properties: ['material.emissionColor', 'material.emissionStrength'],
      off: { property: 'material.emissionStrength', value: 0 },
    });
  }
  return out.filter(({ color, strength }) => strength > 0 && Math.max(...color) > 0);
}

/** What can be mixed, by its name: the targets that are in it. */
export function mixMembers(state: ResolvedState, by: MixBy): ReadonlyMap<string, readonly string[]> {
  const out = new Map<string, string[]>();
  for (const source of sourcesOf(state)) out.set(source[by], [...(out.get(source[by]) ?? []), source.target]);
  return out;
}

/** What a look changes so that it is as bright as that. Colours have 1 as their strongest channel where they change. */
export function mixChanges(state: ResolvedState, shares: MixShares, by: MixBy): Change[] {
  return sourcesOf(state).flatMap((source): Change[] => {
    const { target, color, strength, properties, off } = source;
    const share = shares.get(source[by]);
    if (!share || share.every((x) => x === 1)) return [];
    const lit = color.map((c, k) => c * share[k]!);
    const most = Math.max(...lit);
    if (!(most > 0)) return [{ target, ...off }];
    const [colorProperty, strengthProperty] = properties;
    if (share.every((x) => x === share[0])) return [{ target, property: strengthProperty, value: strength * share[0] }];
    return [
      { target, property: colorProperty, value: lit.map((c) => c / most) as unknown as Rgb },
      { target, property: strengthProperty, value: strength * most },
    ];
  });
}

/** A look with other values over its own. */
export function withChanges(state: ResolvedState, changes: readonly Change[]): ResolvedState {
  const own = [...state.values.values()].map(({ target, property, value }) => ({
    target,
    property: property.id,
    value,
  }));
  return resolve(state.scene, [{ id: 'mixed', name: '', kind: 'base', changes: mergeChanges(own, changes) }]);
}
