// The hierarchy of a scene file: nodes by unique paths, with what each is.
import type { Accessor, Node, Primitive, Skin } from '@gltf-transform/core';
import type { InstancedMesh, MappingList } from '@gltf-transform/extensions';
import {
  IDENTITY,
  ImportError,
  type MeshPart,
  type SceneCamera,
  type SceneLight,
  type SceneNode,
  type SceneSkin,
  beyondLimits,
  composed,
  determinant,
  multiply,
} from '../scene/index.ts';
import type { Gathered } from './gathered.ts';
import { readCamera, readLight } from './importLights.ts';
import type { Materials } from './importMaterials.ts';
import type { Meshes } from './importMeshes.ts';
import { readSkin } from './importMotion.ts';
import { pathUnder } from './names.ts';

/** Of what is shown of a name; longer ones are cut. */
const MOST_NAME = 1000;
const MOST_NODES = 1_000_000;

interface FileVariant {
  readonly name: string;
  /** Material by path. */
  readonly wears: Map<string, string>;
}

export class Nodes {
  readonly list: SceneNode[] = [];
  readonly lights: SceneLight[] = [];
  readonly cameras: SceneCamera[] = [];
  readonly variants = new Map<string, FileVariant>();
  /** Where the file's nodes are in the list. */
  readonly indices = new Map<Node, number>();
  private readonly paths = new Map<string, number>();
  constructor(
    private readonly gathered: Gathered,
    private readonly meshes: Meshes,
    private readonly materials: Materials,
  ) {}

  /** Reads nodes with all that is in them. */
  readAll(roots: readonly Node[], metresPerUnit: number): void {
    const top = metresPerUnit === 1 ? -1 : this.addUnits(metresPerUnit);
    // iterative, so that deep hierarchies cannot exhaust the stack
    const pending = roots.map((node) => ({ node, parent: top })).reverse();
    while (pending.length) {
      const { node, parent } = pending.pop()!;
      const index = this.read(node, parent);
      this.indices.set(node, index);
      const children = node.listChildren().map((child) => ({ node: child, parent: index }));
      pending.push(...children.reverse());
    }
  }
  private addUnits(scale: number): number {
    const matrix = [scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, 1];
    return this.list.push({ path: 'Units', name: 'Units', parent: -1, matrix }) - 1;
  }

  /** Moving nodes keep how they stand at rest, which their matrices alone do not say. */
  keepRest(moved: ReadonlySet<number>): void {
    for (const [n, i] of this.indices) {
      if (!moved.has(i)) continue;
      const rest = { translation: n.getTranslation(), rotation: n.getRotation(), scale: n.getScale() };
      this.list[i] = { ...this.list[i]!, rest };
    }
  }

  /** Skins of the nodes that wear one, each once; a skin whose joints are not in the scene is left off. */
  readSkins(): SceneSkin[] {
    const skins: SceneSkin[] = [];
    const known = new Map<Skin, number | undefined>();
    for (const [node, i] of this.indices) {
      const skin = node.getSkin();
      if (!skin || !this.list[i]!.parts) continue;
      if (!known.has(skin)) {
        const read = readSkin(skin, this.indices);
        known.set(skin, read ? skins.push(read) - 1 : undefined);
      }
      const at = known.get(skin);
      if (at !== undefined) this.list[i] = { ...this.list[i]!, skin: at };
      else
        this.gathered.fault(
          'unread-feature',
          this.list[i]!.path,
          `The skin of “${this.list[i]!.path}” has joints that are not in the scene; it stands at rest.`,
        );
    }
    return skins;
  }

  private read(node: Node, parent: number): number {
    const name = (node.getName().trim() || node.getMesh()?.getName().trim() || 'node')
      .slice(0, MOST_NAME)
      .toWellFormed();
    const base = pathUnder(this.list[parent]?.path, name);
    const index = this.place(base, name, parent, node.getMatrix());
    const { path } = this.list[index]!;
    const mesh = node.getMesh();
    const instancing = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');
    const parts = mesh
      ?.listPrimitives()
      .map((p): MeshPart | undefined => {
        const m = this.meshes.indexOf(p);
        return m === undefined ? undefined : { mesh: m, material: this.materials.indexOf(p.getMaterial()) };
      })
      .filter((p) => p !== undefined);
    if (parts?.length) {
      if (instancing) this.placeInstances(instancing, name, index, parts);
      else if (this.solid(index)) this.list[index] = { ...this.list[index]!, parts };
      else this.gathered.fault('flat-object', path, `“${path}” is scaled to nothing on an axis and is left out.`);
    }
    if (mesh && parts?.length) this.readVariants(mesh.listPrimitives(), index);
    const layer = node.getExtras()['layer'];
    if (typeof layer === 'string' && layer.trim())
      this.list[index] = { ...this.list[index]!, layer: layer.trim().slice(0, 120) };
    const weights = node.getWeights().length ? node.getWeights() : (mesh?.getWeights() ?? []);
    if (parts?.length && weights.length) this.list[index] = { ...this.list[index]!, weights: [...weights] };
    const light = readLight(node);
    if (light) this.list[index] = { ...this.list[index]!, light: this.lights.push(light) - 1 };
    const camera = readCamera(node);
    if (camera) {
      this.list[index] = { ...this.list[index]!, camera: this.cameras.push(camera) - 1 };
      const beyond = beyondLimits(camera);
      if (beyond.length)
        this.gathered.fault(
          'approximated',
          path,
          `Camera “${path}” comes in within what a camera may have: ${beyond.join(', ')}.`,
        );
    }
    return index;
  }

  /** KHR_materials_variants: which material an object wears in each; only whole objects can change theirs. */
  private readVariants(primitives: readonly Primitive[], index: number): void {
    const { path } = this.list[index]!;
    const changed = primitives.filter((p) => this.readMappings(p, primitives.length === 1 ? path : undefined));
    if (changed.length && primitives.length > 1)
      this.gathered.fault(
        'approximated',
        path,
        `“${path}” changes the material of ${changed.length} of its ${primitives.length} parts in the file's variants, which is not read.`,
      );
  }
  /** Whether it ever wears another material than its own. @param path of the object that it is all of */
  private readMappings(p: Primitive, path: string | undefined): boolean {
    let changes = false;
    for (const mapping of p.getExtension<MappingList>('KHR_materials_variants')?.listMappings() ?? []) {
      const material = mapping.getMaterial();
      const isOther = material !== null && material !== p.getMaterial();
      changes ||= isOther;
      for (const v of mapping.listVariants()) {
        const name = v.getName().trim() || 'Variant';
        const entry = this.variants.get(name) ?? { name, wears: new Map<string, string>() };
        this.variants.set(name, entry);
        if (isOther && path !== undefined)
          entry.wears.set(path, this.materials.list[this.materials.indexOf(material)]!.name);
      }
    }
    return changes;
  }

  /** Adds a node under a path that no other has. */
  private place(path: string, name: string, parent: number, matrix: readonly number[]): number {
    let taken = this.paths.get(path) ?? 0;
    let unique = path;
    while (taken > 0 && this.paths.has((unique = `${path} (${taken + 1})`))) taken++;
    this.paths.set(path, taken + 1);
    if (unique !== path) this.paths.set(unique, 1);
    const clean = matrix.every(Number.isFinite) ? Array.from(matrix) : IDENTITY;
    if (clean === IDENTITY)
      this.gathered.fault(
        'bad-geometry',
        path,
        `“${path}” has a position that is not a number; it stands at its parent's origin.`,
      );
    return this.list.push({ path: unique, name, parent, matrix: clean }) - 1;
  }

  private solid(index: number): boolean {
    let m = this.list[index]!.matrix;
    for (let p = this.list[index]!.parent; p >= 0; p = this.list[p]!.parent) m = multiply(this.list[p]!.matrix, m);
    const d = determinant(m);
    return Number.isFinite(d) && Math.abs(d) > 1e-30;
  }

  private placeInstances(instancing: InstancedMesh, name: string, parent: number, parts: readonly MeshPart[]): void {
    const t = instancing.getAttribute('TRANSLATION');
    const r = instancing.getAttribute('ROTATION');
    const s = instancing.getAttribute('SCALE');
    const count = (t ?? r ?? s)?.getCount() ?? 0;
    if (this.list.length + count > MOST_NODES)
      throw new ImportError(
        'TOO_LARGE',
        `“${name}” stands ${count} times in the scene; with more than ${MOST_NODES} objects it cannot be worked with. Bake the instances into fewer meshes.`,
      );
    for (let i = 0; i < count; i++) {
      const at = this.place(
        pathUnder(this.list[parent]!.path, `${name} ${i + 1}`),
        `${name} ${i + 1}`,
        parent,
        composed({
          translation: element(t, i, [0, 0, 0]),
          rotation: element(r, i, [0, 0, 0, 1]),
          scale: element(s, i, [1, 1, 1]),
        }),
      );
      if (this.solid(at)) this.list[at] = { ...this.list[at]!, parts };
    }
  }
}

const element = (a: Accessor | null, i: number, fallback: number[]): number[] => (a ? a.getElement(i, []) : fallback);
