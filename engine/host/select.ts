// From a scene document and a resolved look to what the engine renders. In two steps: select() decides from the posed
// document alone, so that a plan can count bytes before anything is loaded (displaced meshes apart, which are counted by
// making them); attach() brings the geometry and pixels in.
import {
  LIGHT_GROUPS,
  type ResolvedState,
  type Value,
  backdropOf,
  drawnLooks,
  lightOf,
  materialTarget,
  objectTarget,
  placeDocument,
  setOnObjects,
} from '@variscen/core/looks';
import { type Verdict, cullOffFrame } from '@variscen/core/cull';
import {
  type Matrix,
  type Pose,
  type Posed,
  type SceneDocument,
  type SceneTexture,
  determinant,
  placements,
  worldMatrices,
} from '@variscen/core/scene';
import { MASK } from '../kernel/layout/index.ts';
import { BACKDROP, BACKDROP_NAME } from './backdropMesh.ts';
import { emits } from './count.ts';
import { engineLight } from './engineLight.ts';
import { Places, once } from './looked.ts';
import { PLAIN_MATERIAL } from './plainMaterial.ts';
import { clay, displacementOf, resolveMaterial } from './resolveMaterial.ts';
import type { EngineInstance, EngineLight, EngineMaterial } from './scene.ts';
import { selectEnvironment } from './selectedSky.ts';
import { SelectedMeshes } from './selectedMeshes.ts';
import type { Selection } from './selection.ts';

/** Marks a material that is replaced by clay; no name begins so. */
const CLAY = '\u0000clay ';

/** @param asClay everything is of clay, whatever looks say */
export function select(given: Pose, state: ResolvedState, asClay = false): Selection {
  const place = ({ document, camera }: Posed): Posed => ({ document: placeDocument(document, state), camera });
  const pose: Pose = { now: place(given.now), ...(given.next && { next: place(given.next) }) };
  const { document, camera } = pose.now;
  const world = worldMatrices(document.nodes);
  const flags = new NodeFlags(state, document);
  const drawn = drawnLooks(state, document.nodes);
  const wornBy = materialsWorn(state, document);
  const glows = once((m) => emits(resolveMaterial(state, m, () => 0)));
  const relief = once((m) => displacementOf(state, m));

  // 1. What is kept
  const shown = flags.of('object.shown');
  const verdicts = cullOffFrame({
    document,
    world,
    camera,
    shown: (n) => shown[n]!,
    grownM: (n) =>
      Math.max(0, ...document.nodes[n]!.parts!.map((_, k) => Math.abs(relief(wornBy(n, k))?.heightM ?? 0))),
    emits: (n) => document.nodes[n]!.parts!.some((_, p) => glows(wornBy(n, p))),
  });

  // 2. Where it stands, in what it wears
  const placed = placements(document, world);
  const meshes = new SelectedMeshes(document, placed, camera.matrix, relief);
  const materialNames = new Places<string>();
  const materialOf = (node: number, part: number) =>
    materialNames.of(`${asClay || drawn[node] === 'clay' ? CLAY : ''}${wornBy(node, part)}`);
  const instances = instancesOf(verdicts, flags, placed, pose, (node, part, mesh) => ({
    mesh: meshes.of(mesh, node, wornBy(node, part)),
    material: materialOf(node, part),
  }));

  // 3. What lights it; groups of lights get their places in the order of this step and the next
  const groups = new Places<string>();
  const groupOf = (v: Value | undefined) => groups.of(typeof v === 'string' ? v : LIGHT_GROUPS[0]);
  const lights = lightsOf(state, document, world, shown, groupOf);
  const environmentGroup = groupOf(state.get('environment', 'environment.group'));

  // 4. Materials, and what glows among the instances
  const textures = new Places<SceneTexture, string>((t) => t.blob);
  const inEngine = (name: string) => resolveMaterial(state, name, (t) => textures.of(t));
  const materials = materialNames.list.map((m) =>
    m.startsWith(CLAY) ? clay(inEngine(m.slice(CLAY.length))) : inEngine(m),
  );
  const grouped = instances.map((i) => {
    const m = materials[i.material]!;
    return emits(m) ? { ...i, lightGroup: groupOf(state.get(materialTarget(m.name!), 'material.lightGroup')) } : i;
  });
  addBackdrop(state, grouped, meshes, materials);
  return {
    pose,
    ...selectEnvironment(state),
    meshes: meshes.list,
    textures: textures.list,
    materials,
    instances: grouped,
    lights,
    environmentGroup,
    lightGroups: groups.list,
    verdicts,
    inked: verdicts
      .filter((v) => v.keep && drawn[v.node] === 'ink' && !asClay)
      .map((v) => document.nodes[v.node]!.path),
  };
}

/** A flag holds for an object where it holds for all groups that it stands in. */
class NodeFlags {
  constructor(
    private readonly state: ResolvedState,
    private readonly document: SceneDocument,
  ) {}
  /** By node. */
  of(property: string): boolean[] {
    const own: boolean[] = [];
    const set = setOnObjects(this.state, property);
    for (const n of this.document.nodes) own.push((n.parent < 0 || own[n.parent]!) && set(n.path) !== false);
    return own;
  }
}

/** The name of the material that a part of a node wears: what a look assigns, where the node has but one part. */
function materialsWorn(state: ResolvedState, document: SceneDocument): (node: number, part: number) => string {
  return (node, part) => {
    const n = document.nodes[node]!;
    const worn = n.parts!.length === 1 ? state.get(objectTarget(n.path), 'object.material') : undefined;
    const isKnown = typeof worn === 'string' && state.scene.material(worn);
    return isKnown ? worn : document.materials[n.parts![part]!.material]!.name;
  };
}

function instancesOf(
  verdicts: readonly Verdict[],
  flags: NodeFlags,
  placed: readonly Matrix[],
  pose: Pose,
  shapeOf: (node: number, part: number, mesh: number) => Pick<EngineInstance, 'mesh' | 'material'>,
): EngineInstance[] {
  const { nodes } = pose.now.document;
  const placedNext = pose.next && placements(pose.next.document);
  const seen = flags.of('object.seenByCamera');
  const reflected = flags.of('object.seenInReflections');
  const shadowing = flags.of('object.castsShadow');
  const maskOf = (node: number) =>
    MASK.ALL &
    ~(seen[node] ? 0 : MASK.CAMERA) &
    ~(reflected[node] ? 0 : MASK.SPECULAR) &
    ~(shadowing[node] ? 0 : MASK.SHADOW);
  return verdicts
    .filter((v) => v.keep)
    .flatMap(({ node }) => {
      const { path, parts } = nodes[node]!;
      const matrix = placed[node]!;
      const nextMatrix = placedNext?.[node];
      const moves = nextMatrix?.some((x, i) => x !== matrix[i]);
      return parts!.map((p, k): EngineInstance => ({
        name: path,
        object: path,
        ...shapeOf(node, k, p.mesh),
        matrix,
        mask: maskOf(node),
        ...(moves && { nextMatrix: nextMatrix! }),
      }));
    });
}

function lightsOf(
  state: ResolvedState,
  document: SceneDocument,
  world: readonly Matrix[],
  shown: readonly boolean[],
  groupOf: (v: Value | undefined) => number,
): EngineLight[] {
  return document.nodes.flatMap((n, i): EngineLight[] => {
    if (n.light === undefined || !shown[i] || determinant(world[i]!) === 0) return [];
    const now = lightOf(document, state, i, world[i]!);
    if (!now) return [];
    const shadowless = !now.castsShadow && { shadowless: true };
    return [{ ...engineLight(now), name: n.name, lightGroup: groupOf(now.group), ...shadowless }];
  });
}

/** A sweep behind everything, where the look has one. */
function addBackdrop(
  state: ResolvedState,
  instances: EngineInstance[],
  meshes: SelectedMeshes,
  materials: EngineMaterial[],
): void {
  const backdrop = backdropOf(state);
  if (!backdrop) return;
  const material: EngineMaterial = {
    ...PLAIN_MATERIAL,
    name: BACKDROP_NAME,
    baseColor: [...backdrop.color, 1],
    roughness: backdrop.roughness,
    specular: 0.5,
    textures: {},
  };
  instances.push({
    name: BACKDROP_NAME,
    object: BACKDROP_NAME,
    mesh: meshes.list.push({ mesh: BACKDROP, node: null }) - 1,
    material: materials.push(material) - 1,
    matrix: backdrop.matrix,
    mask: MASK.ALL,
  });
}
