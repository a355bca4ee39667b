// The scene as it stands in the real-time view: its meshes as they arrive, posed at a frame, placed by the look.
import { type ResolvedState, lightPlace, middles, placeDocument, placementKey } from '@variscen/core/looks';
import {
  type CameraSettings,
  type DeformData,
  FRAMES_PER_SECOND,
  type Geometry,
  type Matrix,
  type SceneDocument,
  animationData,
  boundsOf,
  deformGeometry,
  placements,
  poseAt,
  poseDocument,
  unpackDeform,
  unpackGeometry,
  worldMatrices,
} from '@variscen/core/scene';
import * as THREE from 'three';
import { asset } from '../api/assets.ts';

const AT_ONCE = 200;
/** Meshes after which the view is drawn for the first time; each further time after twice as many. */
const FIRST_DRAWN = 20;
const REPORTED_EVERY = 50;
/** Left around a light, which has no shape, when it is brought into view. */
const LIGHT_SPAN_M = 0.2;

interface Arrivals {
  /** The scene's animation is there: it stands at its frame now. */
  posed(): void;
  /** Enough meshes have come that a new picture is worth it. */
  grown(): void;
  /** A few more have come. */
  counted(): void;
}

export class PosedScene {
  /** At the frame that is shown, as the look places it. */
  posed: SceneDocument;
  /** To the world, by node of posed. */
  world: readonly Matrix[];
  frame = 0;
  /** Meshes that are here. */
  loaded = 0;
  private atFrame: SceneDocument;
  private state: ResolvedState | undefined;
  private placedKey = '';
  private motion: Float32Array | undefined;
  private readonly geometries = new Map<number, THREE.BufferGeometry>();
  private readonly shapes = new Map<number, { geometry: Geometry; data: DeformData }>();
  private readonly posedGeometries = new Map<string, THREE.BufferGeometry>();

  constructor(public document: SceneDocument) {
    this.posed = document;
    this.atFrame = document;
    this.world = placements(document);
  }

  /** @throws Error where a part is not on the server */
  async load(signal: AbortSignal, tell: Arrivals): Promise<void> {
    const queue = this.document.meshes.map((_, i) => i);
    let next = FIRST_DRAWN;
    this.motion = await animationData(this.document, async (hash) => new Uint8Array(await asset(hash)));
    this.pose(this.frame);
    tell.posed();
    const one = async () => {
      for (let i = queue.shift(); i !== undefined && !signal.aborted; i = queue.shift()) {
        await this.loadMesh(i);
        this.loaded++;
        // each time twice as many: with a fixed step, 20,000 meshes built the lists a thousand times
        if (this.loaded >= next) {
          next = this.loaded * 2;
          tell.grown();
        } else if (this.loaded % REPORTED_EVERY === 0) tell.counted();
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, one));
    if (!signal.aborted) tell.grown();
  }
  private async loadMesh(i: number): Promise<void> {
    const m = this.document.meshes[i]!;
    const geometry = unpackGeometry(new Uint8Array(await asset(m.blob)), m);
    const drawn = bufferOf(geometry);
    if (m.deform) {
      const data = unpackDeform(new Uint8Array(await asset(m.deform.blob)), m.deform, m.vertices);
      this.shapes.set(i, { geometry, data });
    }
    this.geometries.set(i, drawn);
  }

  /** Puts everything where it is at a frame. */
  pose(frame: number): void {
    this.frame = frame;
    this.atFrame = poseDocument(this.document, this.motion, frame / FRAMES_PER_SECOND);
    this.place();
  }
  /** The same scene with other lights after its own nodes. */
  setLights(document: SceneDocument): void {
    this.document = document;
    this.pose(this.frame);
  }
  /** As a look places it. Answers whether anything stands elsewhere than before. */
  setState(state: ResolvedState): boolean {
    const key = placementKey(state);
    this.state = state;
    if (key === this.placedKey) return false;
    this.placedKey = key;
    this.place();
    return true;
  }
  /** Back to where the look has it. */
  place(): void {
    this.posed = this.state ? placeDocument(this.atFrame, this.state) : this.atFrame;
    this.world = placements(this.posed);
    for (const g of this.posedGeometries.values()) g.dispose();
    this.posedGeometries.clear();
  }

  /** A camera as the scene moves it. */
  cameraAt(given: CameraSettings): CameraSettings {
    return poseAt(this.document, this.motion, given).camera;
  }
  /** @param node as its pose shapes the mesh. Undefined while it is loading. */
  geometryOf(mesh: number, node?: number): THREE.BufferGeometry | undefined {
    const known = this.geometries.get(mesh);
    if (node === undefined) return known;
    const key = `${node} ${mesh}`;
    const shape = this.shapes.get(mesh);
    const posed = this.posedGeometries.get(key);
    if (posed || !shape) return posed ?? known;
    const { geometry, data } = shape;
    const made = bufferOf(deformGeometry(this.posed, node, geometry, data, worldMatrices(this.posed.nodes)));
    this.posedGeometries.set(key, made);
    return made;
  }

  isLight(node: number): boolean {
    const n = this.document.nodes[node]!;
    return n.light !== undefined && !n.parts;
  }
  /** What the scene knows a drawn node as: of a copy, what it is a copy of. */
  originOf(node: number): number {
    return this.posed.nodes[node]!.copyOf ?? node;
  }
  /** The nodes that have a shape among some and all that is in them. */
  shapesIn(nodes: readonly number[]): number[] {
    const inside = new Set(nodes);
    const out: number[] = [];
    if (!nodes.length) return out;
    this.posed.nodes.forEach((n, i) => {
      if (inside.has(n.parent)) inside.add(i);
      if (inside.has(i) && n.parts) out.push(i);
    });
    return out;
  }
  /** Some nodes without those that lie in another of them. */
  topsOf(nodes: readonly number[]): number[] {
    const all = new Set(nodes);
    const liesInOther = (n: number): boolean => {
      for (let p = this.document.nodes[n]!.parent; p >= 0; p = this.document.nodes[p]!.parent)
        if (all.has(p)) return true;
      return false;
    };
    return nodes.filter((n) => !liesInOther(n));
  }
  /** Where the handles of a node stand: a light's place, the middle of anything else. */
  middleOf(node: number): readonly [number, number, number] {
    if (!this.isLight(node) || !this.state) return middles(this.posed, worldMatrices(this.posed.nodes))(node);
    const place = lightPlace(this.state, this.document.nodes[node]!.path, this.world[node]!);
    return [place[12]!, place[13]!, place[14]!];
  }

  /** Around the shapes of nodes, in the world. */
  boxOf(nodes: readonly number[]): THREE.Box3 {
    const box = new THREE.Box3();
    const real = worldMatrices(this.posed.nodes);
    const m = new THREE.Matrix4();
    for (const i of nodes)
      for (const p of this.posed.nodes[i]!.parts ?? []) {
        const { min, max } = boundsOf(this.posed, i, p.mesh, real);
        const own = new THREE.Box3(new THREE.Vector3(...min), new THREE.Vector3(...max));
        box.union(own.applyMatrix4(m.fromArray(this.world[i]!)));
      }
    return box;
  }
  /** Around nodes and all that is in them, lights with a little room; undefined where nothing has a place. */
  boundsAround(nodes: readonly number[]): THREE.Box3 | undefined {
    const box = this.boxOf(this.shapesIn(nodes));
    for (const i of nodes) {
      if (this.document.nodes[i]!.light === undefined) continue;
      const place = this.world[i]!;
      box.expandByPoint(new THREE.Vector3(place[12], place[13], place[14])).expandByScalar(LIGHT_SPAN_M);
    }
    return box.isEmpty() ? undefined : box;
  }

  free(): void {
    for (const g of [...this.geometries.values(), ...this.posedGeometries.values()]) g.dispose();
    this.geometries.clear();
    this.posedGeometries.clear();
    this.shapes.clear();
  }
}

function bufferOf(g: Geometry): THREE.BufferGeometry {
  const out = new THREE.BufferGeometry();
  out.setAttribute('position', new THREE.BufferAttribute(g.positions, 3));
  if (g.normals) out.setAttribute('normal', new THREE.BufferAttribute(g.normals, 3));
  if (g.uv0) out.setAttribute('uv', new THREE.BufferAttribute(g.uv0, 2));
  if (g.colors) out.setAttribute('color', new THREE.BufferAttribute(g.colors, 4));
  out.setIndex(new THREE.BufferAttribute(g.indices, 1));
  if (!g.normals) out.computeVertexNormals();
  return out;
}
