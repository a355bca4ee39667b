// What one camera needs of a scene in a look, as a document of its own: the objects that it keeps, where the look
// places them, in the shape that they have at this frame; the lights that are on, as the look has them; the camera.
import {
  type Matrix,
  type CameraSettings,
  type SceneCamera,
  type SceneDocument,
  type SceneLight,
  type SceneMesh,
  type SceneNode,
  determinant,
  deforms,
  halfHeightOf,
  inverted,
  multiply,
  placements,
  worldMatrices,
} from '../scene/index.ts';
import { type ResolvedState, lightOf, objectTarget } from '../looks/index.ts';

export interface SplitOf {
  /** As posed, and as the look places it. */
  readonly document: SceneDocument;
  readonly state: ResolvedState;
  /** Nodes of objects that are kept. */
  readonly keep: ReadonlySet<number>;
  readonly camera: { readonly name: string; readonly settings: CameraSettings };
}
/** Where a mesh of the split comes from. */
export interface SplitMesh {
  /** Into the document it was split from. */
  readonly mesh: number;
  /** The node that poses it; null: as it is stored. */
  readonly node: number | null;
}
export interface Split {
  readonly document: SceneDocument;
  /** By mesh of the split. */
  readonly meshes: readonly SplitMesh[];
  /** What of the look a scene file does not hold, in words. */
  readonly remarks: readonly string[];
}

export function splitDocument({ document, state, keep, camera }: SplitOf): Split {
  const world = worldMatrices(document.nodes);
  const placed = placements(document, world);
  const lamps = lampsOf(document, state, world);
  const wanted = withGroups(document, new Set([...keep, ...lamps.keys()]));
  const numbers = new Map<number, number>();
  const meshes = new Meshes(document);
  const lights: SceneLight[] = [];
  const nodes: SceneNode[] = [];
  for (const [i, n] of document.nodes.entries()) {
    if (!wanted.has(i)) continue;
    const lamp = lamps.get(i);
    const parts = keep.has(i) ? n.parts : undefined;
    const isPosed = parts?.some((p) => deforms(document, i, p.mesh)) ?? false;
    const stands = lamp?.matrix ?? (isPosed ? placed[i]! : world[i]!);
    const parent = n.parent < 0 ? undefined : inverted(world[n.parent]!);
    numbers.set(i, nodes.length);
    nodes.push({
      path: n.path,
      name: n.name,
      parent: numbers.get(n.parent) ?? -1,
      matrix: parent && stands !== world[i] ? multiply(parent, stands) : localOf(n, stands, world[i]!),
      ...(n.layer !== undefined && { layer: n.layer }),
      ...(parts && { parts: parts.map((p) => ({ ...p, mesh: meshes.of(p.mesh, i) })) }),
      ...(lamp && { light: lights.push(lamp.light) - 1 }),
    });
  }
  nodes.push({ path: camera.name, name: camera.name, parent: -1, matrix: camera.settings.matrix, camera: 0 });
  const { materials, textures } = document;
  return {
    document: {
      version: 1,
      nodes,
      meshes: meshes.list,
      materials,
      textures,
      lights,
      cameras: [sceneCamera(camera.settings)],
    },
    meshes: meshes.from,
    remarks: remarksOf(camera.settings),
  };
}

/** Of a root, or of what stands as its node does. */
const localOf = (n: SceneNode, stands: Matrix, own: Matrix): Matrix => (stands === own ? n.matrix : stands);

function lampsOf(document: SceneDocument, state: ResolvedState, world: readonly Matrix[]) {
  const lamps = new Map<number, NonNullable<ReturnType<typeof lightOf>>>();
  const shown: boolean[] = [];
  for (const [i, n] of document.nodes.entries()) {
    const isShown = (n.parent < 0 || shown[n.parent]!) && state.get(objectTarget(n.path), 'object.shown') !== false;
    shown.push(isShown);
    if (n.light === undefined || !isShown || determinant(world[i]!) === 0) continue;
    const lamp = lightOf(document, state, i, world[i]!);
    if (lamp) lamps.set(i, lamp);
  }
  return lamps;
}

function withGroups({ nodes }: SceneDocument, wanted: Set<number>): ReadonlySet<number> {
  for (const start of [...wanted])
    for (let i = nodes[start]!.parent; i >= 0 && !wanted.has(i); i = nodes[i]!.parent) wanted.add(i);
  return wanted;
}

/** Shared where they may be; of their own where a node's pose shapes them. */
class Meshes {
  readonly list: SceneMesh[] = [];
  readonly from: SplitMesh[] = [];
  private readonly shared = new Map<number, number>();
  constructor(private readonly document: SceneDocument) {}

  of(mesh: number, node: number): number {
    const { deform: _, ...still } = this.document.meshes[mesh]!;
    if (deforms(this.document, node, mesh)) return this.add(still, { mesh, node });
    const known = this.shared.get(mesh) ?? this.add(still, { mesh, node: null });
    this.shared.set(mesh, known);
    return known;
  }
  private add(mesh: SceneMesh, from: SplitMesh): number {
    this.from.push(from);
    return this.list.push(mesh) - 1;
  }
}

function sceneCamera(c: CameraSettings): SceneCamera {
  const { projection, nearM, farM, widthPx, heightPx, focusDistanceM, fStop } = c;
  return {
    projection,
    halfHeight: halfHeightOf(c),
    nearM,
    farM,
    widthPx,
    heightPx,
    focusDistanceM,
    ...(fStop !== null && { fStop }),
  };
}
function remarksOf({ shiftX, shiftY }: CameraSettings): string[] {
  const remarks = ['Sky, fog, backdrop, displacement, overlap priorities and grade are not in the file.'];
  if (shiftX || shiftY) remarks.push('The camera’s lens shift is not in the file.');
  return remarks;
}
