// What a declaration of a property says, and the scene that declarations read their base values from.
import type { Rgb, SceneDocument, SceneNode } from '../scene/index.ts';
import type { Facet } from './facets.ts';
import { newLight } from './newLights.ts';
import { type TargetKind, originalPath, parseTarget, targetLabel } from './targets.ts';

export type Value = boolean | number | string | Rgb;

/** Every property replaces: where two layers set it, the later one's value is in force, whole. */
interface Common<T extends Value> {
  readonly id: string;
  readonly facet: Facet;
  readonly on: TargetKind;
  readonly label: string;
  /** What the scene has where nothing changes it; undefined where the target has no such property. */
  readonly base: (scene: SceneIndex, name: string) => T | undefined;
  /** Heading under which an inspector gathers it; rows without one come first. */
  readonly section?: string;
  /** Of no effect, and not offered, where this says no; it reads other values of the same thing. */
  readonly counts?: (get: (id: string) => Value | undefined) => boolean;
  /** Comes of what people do and is not offered as a value. */
  readonly unlisted?: true;
  /** Light scales with it, so that pictures can be scaled instead of traced. */
  readonly linearInLight?: boolean;
}
export type Property =
  | (Common<boolean> & { readonly type: 'boolean' })
  | (Common<number> & {
      readonly type: 'number';
      readonly min: number;
      readonly max: number;
      readonly step: number;
      readonly unit: string | ((scene: SceneIndex, name: string) => string);
      readonly scale?: 'log';
    })
  | (Common<Rgb> & { readonly type: 'color' })
  /** Three numbers: along the axes of the world, or of red, green and blue. */
  | (Common<Rgb> & {
      readonly type: 'vector';
      readonly of: 'axes' | 'channels';
      /** Whole numbers only. */
      readonly whole?: true;
      readonly min: number;
      readonly max: number;
      readonly step: number;
      readonly unit: string;
    })
  | (Common<string> & {
      readonly type: 'choice';
      readonly choices: (scene: SceneIndex) => readonly { readonly value: string; readonly label: string }[];
      /**
       * What can be brought in for it: an environment map, an image, a LUT. Values of such files name them by content.
       */
      readonly brings?: 'environment' | 'image' | 'lut' | 'ies';
      /** Its values are paths of objects, too, which are picked and not listed. */
      readonly picks?: 'object';
    });

/** A scene with its names looked up once. */
export class SceneIndex {
  readonly nodes: ReadonlyMap<string, number>;
  readonly materials: ReadonlyMap<string, number>;
  /** Of the scene alone, where the document has lights that looks add. */
  readonly own: SceneIndex;
  constructor(
    readonly document: SceneDocument,
    own?: SceneIndex,
  ) {
    this.own = own ?? this;
    this.nodes = new Map(document.nodes.map((n, i) => [n.path, i]));
    this.materials = new Map(document.materials.map((m, i) => [m.name, i]));
  }
  private repeated: ReadonlySet<string> | undefined;
  /**
   * As a person would call it: the last part of its path, after its group's where several things are called the same.
   */
  label(target: string): string {
    const t = parseTarget(target);
    const own = targetLabel(target);
    if (t?.kind !== 'object' && t?.kind !== 'light') return own;
    if (!this.repeated) {
      const seen = new Set<string>();
      const twice = new Set<string>();
      for (const n of this.document.nodes) {
        const name = n.path.slice(n.path.lastIndexOf('/') + 1);
        if (seen.has(name)) twice.add(name);
        seen.add(name);
      }
      this.repeated = twice;
    }
    return this.repeated.has(own) ? t.name.split('/').slice(-2).join(' / ') : own;
  }
  /** Index of a node by its path; of a copy, that of what it is a copy of. */
  indexOf(path: string): number | undefined {
    return this.nodes.get(path) ?? (path.includes('#') ? this.nodes.get(originalPath(path)) : undefined);
  }
  node(path: string) {
    const i = this.indexOf(path);
    return i === undefined ? undefined : this.document.nodes[i];
  }
  private parents: ReadonlySet<number> | undefined;
  hasChildren(path: string): boolean {
    this.parents ??= new Set(this.document.nodes.map((n) => n.parent));
    const i = this.indexOf(path);
    return i !== undefined && this.parents.has(i);
  }
  /** Of a light that looks add, what its type is when it is new, whether it stands in a look or not. */
  light(path: string) {
    const n = this.node(path);
    if (n?.light !== undefined) return this.document.lights[n.light];
    return n ? undefined : newLight(path);
  }
  /** By its name; a material that a look copied (“Copper#2”) is like the one that it is a copy of. */
  material(name: string) {
    const i = this.materials.get(name) ?? (name.includes('#') ? this.materials.get(originalPath(name)) : undefined);
    return i === undefined ? undefined : this.document.materials[i];
  }
}

/** For things that have the property whatever they are like. */
export const ofObject =
  <T extends Value>(value: T) =>
  (s: SceneIndex, path: string): T | undefined =>
    isOfScene(s.node(path)) ? value : undefined;
const isOfScene = (n: SceneNode | undefined): boolean => n !== undefined && !n.added;

/** Light of one group is kept apart in the layers of a render, so that its strength can be changed afterwards. */
export const LIGHT_GROUPS = ['1', '2', '3', '4', '5', '6', '7', '8'] as const;
export const lightGroups = () => LIGHT_GROUPS.map((g) => ({ value: g as string, label: `Group ${g}` }));

/** Images of the scene, each name once. */
export const textureNames = (s: SceneIndex) => [
  { value: 'none', label: 'None' },
  ...[...new Set(s.document.textures.map((t) => t.name))].map((name) => ({ value: name, label: name })),
];
