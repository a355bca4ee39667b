// The scene in real time. A plain class on three.js: a component per object would not carry ten thousand of them.
// Objects that share mesh and material are drawn as instances; a changed look only rebuilds instance lists and material
// values.
import {
  type Placement,
  type ResolvedState,
  lightPlace,
  lightPlacement,
  lightTarget,
  middles,
  placeDocument,
  placementKey,
  placementOf,
  setOnObjects,
} from '@variscen/core/looks';
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
  deforms,
  halfHeightOf,
  placements,
  poseAt,
  poseDocument,
  poseOf,
  unpackDeform,
  unpackGeometry,
  worldMatrices,
} from '@variscen/core/scene';
import * as THREE from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { asset } from '../api/assets.ts';
import { BackdropView } from './backdropView.ts';
import { depthPicture } from './depthPass.ts';
import { DrawnObjects, nodesOf } from './drawnObjects.ts';
import { listenToPointer } from './gestures.ts';
import { Handles, type HandleMode } from './handles.ts';
import { Figures, type ShownCamera } from './figures.ts';
import { GradePass, allAside } from './gradePass.ts';
import { outlineOf, setOutlineView } from './outline.ts';
import { Picker } from './picker.ts';
import { Skies } from './skies.ts';
import { Surfaces } from './surfaces.ts';
import { type LightsShown, placeLights } from './viewLights.ts';
import { Walk } from './walk.ts';

const FRAME_MARGIN_PX = 44;
const AT_ONCE = 200;
/** More selected objects than these get one box around them all. */
const OUTLINED_ONE_BY_ONE = 60;
/** Left around a light, which has no shape, when it is brought into view. */
const LIGHT_SPAN_M = 0.2;
/** Triangles drawn while a slow machine moves the view. */
const COARSE_TRIANGLES = 150_000;
const REFINE_MS = 450;

export interface FrameRect {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}
export interface ViewReport extends LightsShown {
  readonly loaded: number;
  readonly meshes: number;
  readonly triangles: number;
}
interface Listeners {
  report(r: ViewReport): void;
  frame(r: FrameRect | null): void;
  failed(message: string): void;
  /** Clicked: a thing or nothing; `more` adds it to what is selected. */
  pick(hit: Pick | null, more: boolean): void;
  /** A box was drawn: nodes of which something shows in it. */
  box(nodes: number[], more: boolean): void;
  /** The camera that is looked through was moved by navigating. */
  cameraMoved(matrix: number[]): void;
  /** The hand has let go of it. */
  cameraRested(): void;
  /** What is selected was moved, turned or scaled by its handles: where it is put now, one for each of `nodes`. */
  placed(nodes: readonly number[], placements: readonly Placement[]): void;
  /** Somebody tried to move a camera that is locked. */
  nudged(): void;
  moved(): void;
}
export type Pick =
  | {
      readonly kind: 'node';
      readonly node: number;
      readonly point: readonly [number, number, number];
      /** The path of the copy that was met; `node` is what it is a copy of. */
      readonly copy?: string;
    }
  | { readonly kind: 'camera'; readonly id: string };

export class Viewport {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera();
  private readonly controls: OrbitControls;
  private readonly pmrem: THREE.PMREMGenerator;
  private readonly skies: Skies;
  private readonly grade: GradePass;
  private readonly backdrop: BackdropView;
  private readonly lights = new THREE.Group();
  private readonly figures = new Figures();
  private readonly picker: Picker;
  private readonly walk: Walk;
  private readonly outlines = new THREE.Group();
  private readonly handles: Handles;
  /** The scene at its frame, before the look places anything. */
  private atFrame: SceneDocument;
  private placedKey = '';
  private readonly geometries = new Map<number, THREE.BufferGeometry>();
  private readonly surfaces: Surfaces;
  private readonly drawn: DrawnObjects;
  private readonly observer: ResizeObserver;
  /** The scene at the frame that is shown, and where its nodes are then. */
  private posed: SceneDocument;
  private world: Matrix[] = [];
  private motion: Float32Array | undefined;
  private frame = 0;
  private look = '';
  private lit: { readonly world: readonly Matrix[]; readonly lights: LightsShown } = {
    world: [],
    lights: { lightsShown: 0, lights: 0 },
  };
  private readonly shapes = new Map<number, { geometry: Geometry; data: DeformData }>();
  private readonly posedGeometries = new Map<string, THREE.BufferGeometry>();
  private state: ResolvedState | undefined;
  private through: CameraSettings | null = null;
  private asked: CameraSettings | null = null;
  private locked = false;
  private roll = 0;
  private selected: readonly number[] = [];
  private moving: ReturnType<typeof setTimeout> | undefined;
  private frameMs = 0;
  private coarse = false;
  private frameRequest = 0;
  private loaded = 0;
  private closed = false;

  constructor(
    private readonly host: HTMLElement,
    private readonly document: SceneDocument,
    private readonly tell: Listeners,
  ) {
    this.renderer = new THREE.WebGLRenderer({ antialias: false, powerPreference: 'high-performance' });
    this.renderer.toneMapping = THREE.NoToneMapping; // the grade comes after
    this.renderer.domElement.style.cssText = 'display:block;width:100%;height:100%;outline:none';
    host.append(this.renderer.domElement);
    this.pmrem = new THREE.PMREMGenerator(this.renderer);
    this.surfaces = new Surfaces({ changed: () => this.draw(), failed: (m) => this.tell.failed(m) });
    this.drawn = new DrawnObjects(document, this.surfaces);
    this.skies = new Skies(
      this.scene,
      this.pmrem,
      () => this.draw(),
      (m) => this.tell.failed(m),
    );
    this.grade = new GradePass(
      this.renderer,
      () => this.draw(),
      (m) => this.tell.failed(m),
    );
    this.backdrop = new BackdropView(
      this.scene,
      () => this.draw(),
      (m) => this.tell.failed(m),
    );
    this.scene.add(this.drawn.group, this.backdrop.mesh, this.lights, this.outlines, this.figures.group);
    this.picker = new Picker(this.renderer);
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
    this.controls.addEventListener('change', () => this.navigated());
    this.controls.addEventListener('start', () => {
      this.held = true;
    });
    this.controls.addEventListener('end', () => {
      this.held = false;
      this.refineLater();
      this.tell.cameraRested();
    });
    this.handles = new Handles(this.camera, this.renderer.domElement, {
      changed: () => this.draw(),
      holding: (on) => {
        this.controls.enabled = !on && !this.locked;
      },
      preview: (matrix) => this.preview(matrix),
      done: (change) => this.handled(change),
    });
    this.scene.add(this.handles.object);
    this.walk = new Walk(this.renderer.domElement, this.camera, this.controls, {
      free: () => !this.locked,
      refused: () => this.tell.nudged(),
      ended: () => this.tell.cameraRested(),
    });
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(host);
    listenToPointer(this.renderer.domElement, host, {
      begins: () => !this.handles.held,
      boxing: (on) => {
        this.controls.enabled = !on && !this.locked;
      },
      navigates: () => {
        if (this.locked) this.tell.nudged();
      },
      click: (at, more) => this.tell.pick(this.pick(at.x, at.y), more),
      box: (from, to, more) =>
        this.tell.box(
          [
            ...new Set(
              this.picker.inBox(this.drawn.group, this.camera, from, to).map((n) => this.posed.nodes[n]!.copyOf ?? n),
            ),
          ],
          more,
        ),
    });
    this.posed = this.atFrame = document;
    this.world = placements(document);
    this.resize();
    void this.load().catch((e: unknown) => {
      if (!this.closed) this.tell.failed(e instanceof Error ? e.message : String(e));
    });
  }

  close(): void {
    this.closed = true;
    cancelAnimationFrame(this.frameRequest);
    this.observer.disconnect();
    clearTimeout(this.moving);
    this.walk.close();
    this.handles.free();
    this.controls.dispose();
    this.picker.free();
    this.figures.free();
    for (const g of [...this.geometries.values(), ...this.posedGeometries.values()]) g.dispose();
    this.surfaces.free();
    this.skies.free();
    this.backdrop.free();
    this.grade.free();
    this.pmrem.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }

  /** After every step of navigating: the camera that is looked through goes along, keeping its roll. */
  private navigated(): void {
    if (this.roll) this.camera.rotateZ((-this.roll * Math.PI) / 180);
    this.coarsen();
    this.draw();
    this.tell.moved();
    if (!this.through || this.locked) return;
    this.camera.updateMatrixWorld();
    this.tell.cameraMoved(this.camera.matrixWorld.toArray());
  }
  /** Where a picture takes long, it is drawn coarser while something moves. */
  private coarsen(): void {
    if (!this.coarse && this.frameMs > 60) {
      this.coarse = true;
      this.renderer.setPixelRatio(0.5);
      this.renderer.setSize(this.host.clientWidth, this.host.clientHeight, false);
      this.drawn.thin(COARSE_TRIANGLES);
    }
    this.refineLater();
  }
  /**
   * Whole again once nothing has moved for a while and nothing is held: a whole picture between two steps would hold up
   * the next.
   */
  private refineLater(): void {
    clearTimeout(this.moving);
    if (this.held) return;
    this.moving = setTimeout(() => {
      if (!this.coarse || this.closed) return;
      this.coarse = false;
      this.drawn.thin(null);
      this.resize();
    }, REFINE_MS);
  }
  private held = false;
  private async load(): Promise<void> {
    const queue = this.document.meshes.map((_, i) => i);
    let next = 20;
    this.motion = await animationData(this.document, async (hash) => new Uint8Array(await asset(hash)));
    this.pose(this.frame);
    if (this.motion && this.through) this.lookThrough(this.asked);
    const one = async () => {
      for (let i = queue.shift(); i !== undefined && !this.closed; i = queue.shift()) {
        const m = this.document.meshes[i]!;
        const g = unpackGeometry(new Uint8Array(await asset(m.blob)), m);
        const out = bufferOf(g);
        if (m.deform)
          this.shapes.set(i, {
            geometry: g,
            data: unpackDeform(new Uint8Array(await asset(m.deform.blob)), m.deform, m.vertices),
          });
        this.geometries.set(i, out);
        this.loaded++;
        // each time twice as many: with a fixed step, 20,000 meshes built the lists a thousand times
        if (this.loaded >= next) {
          next = this.loaded * 2;
          this.rebuild();
        } else if (this.loaded % 50 === 0)
          this.tell.report({
            loaded: this.loaded,
            meshes: this.document.meshes.length,
            lightsShown: 0,
            lights: 0,
            triangles: 0,
          });
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, one));
    this.rebuild();
  }

  /** Puts everything where it is at a frame. */
  private pose(frame: number): void {
    this.frame = frame;
    this.atFrame = poseDocument(this.document, this.motion, frame / FRAMES_PER_SECOND);
    this.place();
    this.rebuild();
  }
  /** As the look places it. */
  private place(): void {
    this.posed = this.state ? placeDocument(this.atFrame, this.state) : this.atFrame;
    this.world = placements(this.posed);
    for (const g of this.posedGeometries.values()) g.dispose();
    this.posedGeometries.clear();
  }
  /** A node's mesh as it stands at the frame. */
  private posedGeometry(node: number, mesh: number): THREE.BufferGeometry | undefined {
    const key = `${node} ${mesh}`;
    const shape = this.shapes.get(mesh);
    let g = this.posedGeometries.get(key);
    if (!g && shape)
      this.posedGeometries.set(
        key,
        (g = bufferOf(deformGeometry(this.posed, node, shape.geometry, shape.data, worldMatrices(this.posed.nodes)))),
      );
    return g;
  }

  setState(state: ResolvedState): void {
    const key = placementKey(state);
    this.state = state;
    const moved = key !== this.placedKey;
    if (moved) {
      this.placedKey = key;
      this.place();
    }
    this.rebuild();
    if (moved) this.select(this.selected);
  }

  /** Which handles what is selected has in the view; null for none. */
  showHandles(mode: HandleMode | null): void {
    this.handles.mode = mode;
    this.putHandles();
  }
  private putHandles(): void {
    const last = this.handles.mode === null ? undefined : this.tops().at(-1);
    this.handles.attach(last === undefined ? null : this.middleOf(last));
    this.draw();
  }
  /** Where the handles of a node stand: a light's place, the middle of anything else. */
  private middleOf(node: number): readonly [number, number, number] {
    if (!this.isLight(node) || !this.state) return middles(this.posed, worldMatrices(this.posed.nodes))(node);
    const place = lightPlace(this.state, this.document.nodes[node]!.path, this.world[node]!);
    return [place[12]!, place[13]!, place[14]!];
  }
  /** What is selected without what lies in something else that is. */
  private tops(): number[] {
    const chosen = new Set(this.selected);
    return this.selected.filter((n) => {
      const node = this.document.nodes[n]!;
      for (let p = node.parent; p >= 0; p = this.document.nodes[p]!.parent) if (chosen.has(p)) return false;
      return true;
    });
  }
  private isLight(n: number): boolean {
    const node = this.document.nodes[n]!;
    return node.light !== undefined && !node.parts;
  }
  /** While a handle is held only what it moves goes along; the look is made anew when it is let go. */
  private preview(matrix: THREE.Matrix4): void {
    this.drawn.preview(new Set(this.insideOf(this.tops())), this.world, matrix);
    this.outlines.visible = false;
    this.draw();
  }
  private handled(change: Placement): void {
    this.outlines.visible = true;
    const { state } = this;
    const tops = this.tops();
    if (!state) return;
    // back to where the look has it: what is recorded comes from there, and an edit may be refused
    this.place();
    this.rebuild();
    const add = (
      a: Placement['offset'],
      b: Placement['offset'],
      f: (x: number, y: number) => number,
    ): Placement['offset'] => a.map((x, k) => Number(f(x, b[k]!).toPrecision(7))) as unknown as Placement['offset'];
    this.tell.placed(
      tops,
      tops.map((n) => {
        const { path } = this.document.nodes[n]!;
        const p =
          (this.isLight(n) ? lightPlacement(state, path) : placementOf(state, path)) ??
          ({ offset: [0, 0, 0], turn: [0, 0, 0], scale: [1, 1, 1] } as const);
        return {
          offset: add(p.offset, change.offset, (x, y) => x + y),
          turn: add(p.turn, change.turn, (x, y) => ((x + y + 540) % 360) - 180),
          scale: add(p.scale, change.scale, (x, y) => Math.min(1000, Math.max(0.001, x * y))),
        };
      }),
    );
  }

  private rebuild(): void {
    const { state, document, posed } = this;
    if (!state || this.closed) return;
    const shown: boolean[] = [];
    const asked = setOnObjects(state, 'object.shown');
    for (const n of posed.nodes) shown.push((n.parent < 0 || shown[n.parent]!) && asked(n.path) !== false);
    const { triangles, changed } = this.drawn.show(state, this.posed, this.world, shown, (mesh, node) =>
      node === undefined ? this.geometries.get(mesh) : this.posedGeometry(node, mesh),
    );
    // a change that this view does not show, as of a shadow's caster, is not drawn: a picture of millions of triangles
    // takes a slow machine a second
    const look =
      [...state.values.values()]
        .filter((v) => v.property.facet !== 'visibility' && v.property.facet !== 'placement')
        .map((v) => `${v.target} ${v.property.id} ${String(v.value)}`)
        .join('\n') + posed.nodes.flatMap((n, i) => (n.light !== undefined && shown[i] ? [i] : [])).join();
    if (!changed && look === this.look && this.world === this.lit.world) {
      this.tell.report({ loaded: this.loaded, meshes: document.meshes.length, ...this.lit.lights, triangles });
      return;
    }
    this.look = look;
    const lights = placeLights(this.lights, posed, state, this.world, shown, this.controls.target);
    this.lit = { world: this.world, lights };
    if (this.coarse) this.drawn.thin(COARSE_TRIANGLES);
    this.figures.lights(
      posed.nodes.flatMap((n, node) =>
        n.light !== undefined && shown[node]
          ? [
              {
                node,
                type: document.lights[n.light]!.type,
                matrix: lightPlace(state, n.path, this.world[node]!),
                on: state.get(lightTarget(n.path), 'light.on') !== false,
              },
            ]
          : [],
      ),
      this.sceneSize(),
    );
    this.skies.show(state);
    this.backdrop.show(state);
    this.grade.show(state);
    this.tell.report({ loaded: this.loaded, meshes: document.meshes.length, ...lights, triangles });
    this.draw();
  }

  /** Half the diagonal of the scene's boxes when it was first drawn, metres: for the size of figures. */
  private sceneSize(): number {
    if (!this.radius) {
      const box = this.boxOf(this.document.nodes.map((_, i) => i));
      this.radius = box.isEmpty() ? 1 : box.getSize(new THREE.Vector3()).length() / 2;
    }
    return this.radius;
  }
  private radius = 0;

  /**
   * Looks through a camera, its frame inset in the view; null leaves the view where it is, free to move. A locked
   * camera is not moved by navigating.
   */
  lookThrough(given: CameraSettings | null, locked = false): void {
    if (given && (given.frame ?? 0) !== this.frame) this.pose(given.frame ?? 0);
    const settings = given && poseAt(this.document, this.motion, given).camera;
    this.asked = given;
    this.through = settings;
    this.locked = settings !== null && locked;
    this.controls.enabled = !this.locked;
    this.roll = settings ? poseOf(settings.matrix).rollDeg : 0;
    if (Math.abs(this.roll) < 1e-6) this.roll = 0;
    if (settings) {
      const m = new THREE.Matrix4().fromArray(settings.matrix);
      const now = this.camera.matrixWorld.elements;
      // what comes back from navigating is where the view is already: its pivot stays
      if (settings.matrix.some((x, i) => Math.abs(x - now[i]!) > 1e-6 * (1 + Math.abs(x)))) {
        const eye = new THREE.Vector3().setFromMatrixPosition(m);
        const along = new THREE.Vector3().setFromMatrixColumn(m, 2).normalize().negate();
        this.controls.target.copy(eye).addScaledVector(along, settings.focusDistanceM);
        m.decompose(this.camera.position, this.camera.quaternion, new THREE.Vector3());
        this.camera.updateMatrixWorld();
      }
      this.camera.near = settings.nearM;
      this.camera.far = settings.farM;
    }
    this.resize();
  }

  /** Goes through the frames of an animated scene without changing any camera. */
  showFrame(frame: number): void {
    if (frame === this.frame) return;
    this.pose(frame);
    if (this.asked?.follows !== undefined) this.lookThrough({ ...this.asked, frame }, this.locked);
  }

  /** Other cameras as figures in the view; not the one that is looked through. */
  showCameras(cameras: readonly ShownCamera[], size: number): void {
    this.figures.cameras(cameras, size);
    this.draw();
  }

  /** Moves the view so that what is selected fills most of it; a locked camera stays. */
  bringIntoView(): void {
    const sphere = this.boundsOfSelection()?.getBoundingSphere(new THREE.Sphere());
    if (!sphere) return;
    if (this.locked) {
      this.tell.nudged();
      return;
    }
    const half = Math.tan((this.camera.fov * Math.PI) / 360) * Math.min(1, this.camera.aspect);
    const distance = Math.max(sphere.radius * 1.3, 1e-3) / Math.sin(Math.atan(half));
    const back = new THREE.Vector3(0, 0, 1).applyQuaternion(this.camera.quaternion);
    this.controls.target.copy(sphere.center);
    this.camera.position.copy(sphere.center).addScaledVector(back, distance);
    this.controls.update();
    this.navigated();
    this.tell.cameraRested();
  }

  /** The view as a camera, when it looks through none. */
  freeCamera(): CameraSettings {
    const widthPx = this.host.clientWidth;
    const heightPx = this.host.clientHeight;
    const sensorWidthMm = 36;
    const { near, far } = this.camera;
    this.camera.updateMatrixWorld();
    return {
      matrix: this.camera.matrixWorld.toArray(),
      projection: 'perspective',
      widthPx,
      heightPx,
      sensorWidthMm,
      focalLengthMm: ((sensorWidthMm / 2) * heightPx) / (Math.tan((this.camera.fov * Math.PI) / 360) * widthPx),
      orthoHalfHeightM: 1,
      nearM: near,
      farM: far,
      focusDistanceM: Math.max(0.01, this.camera.position.distanceTo(this.controls.target)),
      fStop: null,
      cullMarginPct: null,
      ...(this.frame > 0 && { frame: this.frame }),
    };
  }

  /** The depth AOV of a camera as the view's hardware draws it. */
  depthPicture(given: CameraSettings, widthPx: number, heightPx: number): Float32Array | undefined {
    return this.closed || this.loaded === 0
      ? undefined
      : depthPicture(
          this.renderer,
          this.drawn.group,
          poseAt(this.document, this.motion, given).camera,
          widthPx,
          heightPx,
        );
  }

  private resize(): void {
    const w = Math.max(1, this.host.clientWidth);
    const h = Math.max(1, this.host.clientHeight);
    this.renderer.setPixelRatio(this.coarse ? 0.5 : Math.min(1.5, window.devicePixelRatio));
    this.renderer.setSize(w, h, false);
    this.camera.aspect = w / h;
    setOutlineView(w, h);
    let rect: FrameRect | undefined;
    if (this.through) {
      const aspect = this.through.widthPx / this.through.heightPx;
      const k = Math.min((w - 2 * FRAME_MARGIN_PX) / aspect, h - 2 * FRAME_MARGIN_PX);
      const fh = Math.max(10, k);
      const fw = fh * aspect;
      if (this.through.projection === 'perspective')
        this.camera.fov = (2 * Math.atan(halfHeightOf(this.through) * (h / fh)) * 180) / Math.PI;
      rect = { left: (w - fw) / 2, top: (h - fh) / 2, width: fw, height: fh };
      this.tell.frame(rect);
    }
    this.camera.updateProjectionMatrix();
    if (this.through?.projection === 'orthographic' && rect) {
      const top = this.through.orthoHalfHeightM * (h / rect.height);
      const right = top * (w / h);
      this.camera.projectionMatrix.makeOrthographic(-right, right, top, -top, this.through.nearM, this.through.farM);
      this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();
    } else if (this.through && rect) {
      this.camera.projectionMatrix.elements[8] = 2 * (this.through.shiftX ?? 0) * (rect.width / w);
      this.camera.projectionMatrix.elements[9] = 2 * (this.through.shiftY ?? 0) * (rect.height / h);
      this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();
    }
    this.backdrop.frame(rect ?? null, w, h);
    this.draw();
  }

  /** Outlines what is selected, with all that is in it. */
  select(nodes: readonly number[]): void {
    this.selected = nodes;
    for (const o of [...this.outlines.children]) {
      if (o instanceof THREE.Box3Helper) o.dispose();
      this.outlines.remove(o);
    }
    const all = this.insideOf(nodes);
    if (all.length > 0 && all.length <= OUTLINED_ONE_BY_ONE)
      for (const i of all) {
        for (const p of this.posed.nodes[i]!.parts!) {
          const geometry = this.geometries.get(p.mesh);
          if (geometry)
            this.outlines.add(
              outlineOf(
                deforms(this.posed, i, p.mesh) ? (this.posedGeometry(i, p.mesh) ?? geometry) : geometry,
                this.world[i]!,
              ),
            );
        }
      }
    else if (all.length) {
      const helper = new THREE.Box3Helper(this.boxOf(all), 0xc8e64a);
      (helper.material as THREE.LineBasicMaterial).depthTest = false;
      allAside(helper);
      this.outlines.add(helper);
    }
    this.putHandles();
    this.figures.chosenLights(
      nodes
        .filter((i) => this.document.nodes[i]!.light !== undefined)
        .map((i) =>
          this.state ? lightPlace(this.state, this.document.nodes[i]!.path, this.world[i]!) : this.world[i]!,
        ),
    );
    this.draw();
  }
  private insideOf(nodes: readonly number[]): number[] {
    const inside = new Set(nodes);
    const out: number[] = [];
    if (nodes.length)
      this.posed.nodes.forEach((n, i) => {
        if (inside.has(n.parent)) inside.add(i);
        if (inside.has(i) && n.parts) out.push(i);
      });
    return out;
  }
  /** Around the shapes of nodes as they are posed and placed, in the world. */
  private boxOf(nodes: readonly number[]): THREE.Box3 {
    const box = new THREE.Box3();
    const real = worldMatrices(this.posed.nodes);
    const m = new THREE.Matrix4();
    for (const i of nodes)
      for (const p of this.posed.nodes[i]!.parts ?? []) {
        const { min, max } = boundsOf(this.posed, i, p.mesh, real);
        box.union(
          new THREE.Box3(new THREE.Vector3(...min), new THREE.Vector3(...max)).applyMatrix4(
            m.fromArray(this.world[i]!),
          ),
        );
      }
    return box;
  }
  private boundsOfSelection(): THREE.Box3 | undefined {
    const box = this.boxOf(this.insideOf(this.selected));
    for (const i of this.selected)
      if (this.document.nodes[i]!.light !== undefined)
        box
          .expandByPoint(new THREE.Vector3(this.world[i]![12], this.world[i]![13], this.world[i]![14]))
          .expandByScalar(LIGHT_SPAN_M);
    return box.isEmpty() ? undefined : box;
  }

  /** What lies under a point of the view. */
  pick(x: number, y: number): Pick | null {
    const w = this.host.clientWidth;
    const h = this.host.clientHeight;
    const ndc = (px: number, py: number, z: number) =>
      new THREE.Vector3((px / w) * 2 - 1, 1 - (py / h) * 2, z).unproject(this.camera);
    const figure = this.figures.at(x, y, w, h, this.camera);
    if (figure)
      return figure.kind === 'camera'
        ? figure
        : { kind: 'node', node: this.posed.nodes[figure.node]!.copyOf ?? figure.node, point: figure.point };
    const from = ndc(x, y, -1);
    const ray = new THREE.Raycaster(from, ndc(x, y, 1).sub(from).normalize());
    const hit = ray.intersectObjects(this.drawn.group.children, false)[0];
    const node = hit?.instanceId === undefined ? undefined : nodesOf(hit.object)[hit.instanceId];
    return hit && node !== undefined
      ? {
          kind: 'node',
          node: this.posed.nodes[node]!.copyOf ?? node,
          point: hit.point.toArray(),
          ...(this.posed.nodes[node]!.copyOf !== undefined && { copy: this.posed.nodes[node]!.path }),
        }
      : null;
  }

  /**
   * Draws with the next frame, once however often it is asked. The host says that it is busy until the picture stands,
   * whole.
   */
  private draw(): void {
    if (this.frameRequest || this.closed) return;
    this.host.ariaBusy = 'true';
    this.frameRequest = requestAnimationFrame(() => {
      this.frameRequest = 0;
      if (this.closed) return;
      const began = performance.now();
      this.grade.render(this.scene, this.camera);
      // a pixel that is read has been drawn: only so is it known what a picture costs (finish() does not wait in a
      // browser)
      const gl = this.renderer.getContext();
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
      const ms = performance.now() - began;
      if (!this.coarse) {
        this.frameMs = ms;
        this.host.ariaBusy = 'false';
      }
      performance.measure('view frame', { start: began, duration: ms });
    });
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
