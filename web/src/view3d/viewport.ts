// The scene in real time. A plain class on three.js: a component per object would not carry ten thousand of them.
// Objects that share mesh and material are drawn as instances; a changed look only rebuilds instance lists and material
// values. It owns the graphics context, and so all that is shown goes through it; each kind of thing is made elsewhere.
import {
  type Placement,
  type ResolvedState,
  isOn,
  lightPlace,
  lightShape,
  setOnObjects,
  stands,
} from '@variscen/core/looks';
import type { CameraSettings, Matrix, Rgb, SceneDocument } from '@variscen/core/scene';
import * as THREE from 'three';
import { took } from '../ui/measured.ts';
import { BackdropView } from './backdropView.ts';
import { firstMet } from './clicks.ts';
import { depthPicture } from './depthPass.ts';
import { DrawnObjects } from './drawnObjects.ts';
import { type Point, listenToPointer } from './gestures.ts';
import { Figures, type ShownCamera, type ShownLight } from './figures.ts';
import { Frames } from './frames.ts';
import { GradePass } from './gradePass.ts';
import type { HandleMode } from './handles.ts';
import { setOutlineView } from './outline.ts';
import { Picker } from './picker.ts';
import { PosedScene } from './posedScene.ts';
import { SelectionView, placedBy } from './selectionView.ts';
import { Skies } from './skies.ts';
import { Surfaces } from './surfaces.ts';
import { type FrameRect, ViewCamera } from './viewCamera.ts';
import { type LightsShown, placeLights } from './viewLights.ts';

/** Triangles drawn while a slow machine moves the view. */
const COARSE_TRIANGLES = 150_000;
/** A picture that takes longer is drawn coarser while something moves. */
const SLOW_MS = 60;
const COARSE_PIXEL_RATIO = 0.5;
const MOST_PIXEL_RATIO = 1.5;
const REFINE_MS = 450;

export type { FrameRect };
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
  /** The view moved. */
  moved(): void;
}
export interface SeenSurface {
  readonly normal: Rgb;
  readonly from: Rgb;
}
export type Pick =
  | {
      readonly kind: 'node';
      readonly node: number;
      readonly point: readonly [number, number, number];
      /** Of a surface that was met: its normal there, and from where it was seen; absent where a figure was met. */
      readonly surface?: SeenSurface;
      /** The path of the copy that was met; `node` is what it is a copy of. */
      readonly copy?: string;
    }
  | { readonly kind: 'camera'; readonly id: string };

export class Viewport {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly stands: PosedScene;
  private readonly eye: ViewCamera;
  private readonly pmrem: THREE.PMREMGenerator;
  private readonly skies: Skies;
  private readonly grade: GradePass;
  private readonly backdrop: BackdropView;
  private readonly lights = new THREE.Group();
  private readonly figures = new Figures();
  private readonly picker: Picker;
  private readonly surfaces: Surfaces;
  private readonly drawn: DrawnObjects;
  private readonly selection: SelectionView;
  private readonly observer: ResizeObserver;
  private readonly ended = new AbortController();
  private state: ResolvedState | undefined;
  private ghosts: ReadonlySet<string> = new Set();
  /** What was drawn last, so that what changes nothing is not drawn. */
  private look = '';
  private lit: { readonly world: readonly Matrix[]; readonly lights: LightsShown } = {
    world: [],
    lights: { lightsShown: 0, lights: 0 },
  };
  /** The camera that is asked for, before the scene moves it. */
  private asked: CameraSettings | null = null;
  private sceneRadiusM = 0;
  private refining: ReturnType<typeof setTimeout> | undefined;
  private held = false;
  private frameMs = 0;
  private coarse = false;
  private readonly frames: Frames;
  private readonly hasHardware: boolean;
  /** A picture lies over the view; whether it has changed under it. */
  private covered: 'no' | 'yes' | 'changed' = 'no';

  constructor(
    private readonly host: HTMLElement,
    document: SceneDocument,
    private readonly tell: Listeners,
  ) {
    this.renderer = new THREE.WebGLRenderer({ antialias: false, powerPreference: 'high-performance' });
    this.renderer.toneMapping = THREE.NoToneMapping; // the grade comes after
    const canvas = this.renderer.domElement;
    canvas.style.cssText = 'display:block;width:100%;height:100%;outline:none';
    host.append(canvas);
    this.frames = new Frames(this.renderer.getContext() as WebGL2RenderingContext, {
      draw: () => this.grade.render(this.scene, this.eye.camera),
      stands: (beganMs) => this.stood(beganMs),
    });
    const changed = () => this.draw();
    const failed = (message: string) => this.tell.failed(message);
    this.pmrem = new THREE.PMREMGenerator(this.renderer);
    this.stands = new PosedScene(document);
    this.surfaces = new Surfaces({ changed, failed });
    this.drawn = new DrawnObjects(document, this.surfaces);
    this.hasHardware = hasHardware(this.renderer.getContext());
    this.skies = new Skies(this.scene, this.pmrem, this.hasHardware, changed, failed);
    this.grade = new GradePass(this.renderer, changed, failed);
    this.backdrop = new BackdropView(this.scene, this.surfaces.catcher(), changed, failed);
    this.picker = new Picker(this.renderer);
    this.eye = new ViewCamera(canvas, {
      moved: () => this.navigated(),
      held: (on) => this.hold(on),
      rested: () => this.tell.cameraRested(),
      refused: () => this.tell.nudged(),
    });
    this.selection = new SelectionView(this.eye.camera, canvas, this.stands, {
      changed,
      holding: (on) => this.eye.holdStill(on),
      preview: (nodes, by) => {
        this.drawn.preview(new Set(nodes), this.stands.world, by);
        this.draw();
      },
      placed: (nodes, change) => this.placed(nodes, change),
    });
    this.scene.add(this.drawn.group, this.backdrop.group, this.lights, this.selection.group, this.figures.group);
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(host);
    listenToPointer(canvas, host, {
      begins: () => !this.selection.isHeld,
      boxing: (on) => this.eye.holdStill(on),
      navigates: () => {
        if (this.eye.isLocked) this.tell.nudged();
      },
      click: (at, more) => this.tell.pick(this.pick(at.x, at.y), more),
      box: (from, to, more) => this.tell.box(this.nodesIn(from, to), more),
    });
    this.resize();
    void this.load();
  }

  private get document(): SceneDocument {
    return this.stands.document;
  }
  /** The same scene with other lights that looks add, after its own nodes. */
  setLights(document: SceneDocument): void {
    if (document === this.document) return;
    const selected = new Set(this.selection.nodes.map((n) => this.document.nodes[n]!.path));
    this.stands.setLights(document);
    this.rebuild();
    this.select(document.nodes.flatMap((n, i) => (selected.has(n.path) ? [i] : [])));
  }

  close(): void {
    this.ended.abort();
    this.frames.end();
    this.observer.disconnect();
    clearTimeout(this.refining);
    this.selection.free();
    this.eye.close();
    this.picker.free();
    this.figures.free();
    this.surfaces.free();
    this.skies.free();
    this.backdrop.free();
    this.grade.free();
    this.stands.free();
    this.pmrem.dispose();
    this.renderer.dispose();
    // what the graphics card still holds goes with the context, of which a browser gives few
    this.renderer.forceContextLoss();
    this.renderer.domElement.remove();
  }
  private get closed(): boolean {
    return this.ended.signal.aborted;
  }

  private async load(): Promise<void> {
    try {
      await this.stands.load(this.ended.signal, {
        posed: () => {
          this.rebuild();
          if (this.asked) this.lookThrough(this.asked, this.eye.isLocked);
        },
        grown: () => this.rebuild(),
        counted: () => this.report({ lightsShown: 0, lights: 0 }, 0),
      });
    } catch (e) {
      if (!this.closed) this.tell.failed(e instanceof Error ? e.message : String(e));
    }
  }
  private report(lights: LightsShown, triangles: number): void {
    this.tell.report({ loaded: this.stands.loaded, meshes: this.document.meshes.length, triangles, ...lights });
  }

  // ---- navigating

  private navigated(): void {
    this.coarsen();
    this.draw();
    this.tell.moved();
    const matrix = this.eye.goesAlong;
    if (matrix) this.tell.cameraMoved(matrix);
  }
  private hold(on: boolean): void {
    this.held = on;
    if (!on) this.refineLater();
  }
  /** Where a picture takes long, it is drawn coarser while something moves. */
  private coarsen(): void {
    if (!this.coarse && this.frameMs > SLOW_MS) {
      this.coarse = true;
      this.renderer.setPixelRatio(COARSE_PIXEL_RATIO);
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
    clearTimeout(this.refining);
    if (this.held) return;
    this.refining = setTimeout(() => {
      if (!this.coarse || this.closed) return;
      this.coarse = false;
      this.drawn.thin(null);
      this.resize();
    }, REFINE_MS);
  }

  /**
   * Looks through a camera, its frame inset in the view; null leaves the view where it is, free to move. A locked
   * camera is not moved by navigating.
   */
  lookThrough(given: CameraSettings | null, locked = false): void {
    if (given && (given.frame ?? 0) !== this.stands.frame) this.pose(given.frame ?? 0);
    this.asked = given;
    this.eye.lookThrough(given && this.stands.cameraAt(given), locked);
    this.resize();
  }
  /** Goes through the frames of an animated scene without changing any camera. */
  showFrame(frame: number): void {
    if (frame === this.stands.frame) return;
    this.pose(frame);
    if (this.asked?.follows !== undefined) this.lookThrough({ ...this.asked, frame }, this.eye.isLocked);
  }
  private pose(frame: number): void {
    this.stands.pose(frame);
    this.rebuild();
  }
  /** Moves the view so that what is selected fills most of it; a locked camera stays. */
  bringIntoView(): void {
    const sphere = this.stands.boundsAround(this.selection.nodes)?.getBoundingSphere(new THREE.Sphere());
    if (sphere) this.eye.bringIntoView(sphere);
  }
  /** The view as a camera, when it looks through none. */
  freeCamera(): CameraSettings {
    return this.eye.asSettings(this.host.clientWidth, this.host.clientHeight, this.stands.frame);
  }

  private resize(): void {
    const w = Math.max(1, this.host.clientWidth);
    const h = Math.max(1, this.host.clientHeight);
    this.renderer.setPixelRatio(this.coarse ? COARSE_PIXEL_RATIO : Math.min(MOST_PIXEL_RATIO, window.devicePixelRatio));
    this.renderer.setSize(w, h, false);
    setOutlineView(w, h);
    const rect = this.eye.fit(w, h);
    if (rect) this.tell.frame(rect);
    this.backdrop.frame(rect ?? null, w, h);
    this.draw();
  }

  // ---- what is shown

  setState(state: ResolvedState): void {
    this.state = state;
    const moved = this.stands.setState(state);
    this.rebuild();
    if (moved) this.select(this.selection.nodes);
  }

  /** Objects that are only hinted at. @param paths of the scene's own; copies are shown as they are */
  showGhosts(paths: ReadonlySet<string>): void {
    if (paths.size === 0 && this.ghosts.size === 0) return;
    this.ghosts = paths;
    this.rebuild();
  }

  /** What is selected was moved, turned or scaled by its handles. */
  private placed(nodes: readonly number[], change: Placement): void {
    const { state } = this;
    if (!state) return;
    // back to where the look has it: what is recorded comes from there, and an edit may be refused
    this.stands.place();
    this.rebuild();
    this.tell.placed(
      nodes,
      nodes.map((n) => placedBy(this.stands, state, n, change)),
    );
  }

  private rebuild(): void {
    const { state } = this;
    if (!state || this.closed) return;
    const { posed, world } = this.stands;
    const shown = shownNodes(state, posed);
    const geometryOf = (mesh: number, node?: number) => this.stands.geometryOf(mesh, node);
    const { triangles, changed } = this.drawn.show(state, posed, world, shown, geometryOf, this.ghosts);
    const look = lookOf(state, posed, shown);
    if (!changed && look === this.look && world === this.lit.world) {
      this.report(this.lit.lights, triangles);
      return;
    }
    this.look = look;
    this.lit = { world, lights: placeLights(this.lights, posed, state, world, shown, this.eye.target) };
    if (this.coarse) this.drawn.thin(COARSE_TRIANGLES);
    this.figures.lights(this.lightFigures(state, shown), this.sceneSize());
    this.skies.show(state);
    this.backdrop.show(state);
    this.grade.show(state);
    this.report(this.lit.lights, triangles);
    this.draw();
  }
  private lightFigures(state: ResolvedState, shown: readonly boolean[]): ShownLight[] {
    const { posed, world } = this.stands;
    return posed.nodes.flatMap((n, node) => {
      if (n.light === undefined || !shown[node] || !stands(state, n.path)) return [];
      const light = lightShape(posed, state, node);
      return [{ node, light, matrix: lightPlace(state, n.path, world[node]!), on: isOn(state, n.path) }];
    });
  }
  /** Half the diagonal of the scene's boxes when it was first drawn, metres: for the size of figures. */
  private sceneSize(): number {
    if (!this.sceneRadiusM) {
      const box = this.stands.boxOf(this.document.nodes.map((_, i) => i));
      this.sceneRadiusM = box.isEmpty() ? 1 : box.getSize(new THREE.Vector3()).length() / 2;
    }
    return this.sceneRadiusM;
  }

  /** Other cameras as figures in the view; not the one that is looked through. */
  showCameras(cameras: readonly ShownCamera[], size: number): void {
    this.figures.cameras(cameras, size);
    this.draw();
  }
  /** Outlines what is selected, with all that is in it. */
  select(nodes: readonly number[]): void {
    this.selection.show(nodes);
    const { state } = this;
    const { world } = this.stands;
    const isThere = (i: number) => !state || stands(state, this.document.nodes[i]!.path);
    const lights = nodes.filter((i) => this.document.nodes[i]?.light !== undefined && isThere(i));
    const placeOf = (i: number) =>
      this.state ? lightPlace(this.state, this.document.nodes[i]!.path, world[i]!) : world[i]!;
    this.figures.selectedLights(lights.map(placeOf));
    this.draw();
  }
  /** Which handles what is selected has in the view; null for none. */
  showHandles(mode: HandleMode | null): void {
    this.selection.showHandles(mode);
    this.draw();
  }

  /** Where a node stands as the look places it, in the world. */
  placeOf(node: number): Matrix | undefined {
    return this.stands.world[node];
  }

  /** The depth AOV of a camera as the view's hardware draws it; undefined until the whole scene is here. */
  depthPicture(given: CameraSettings, widthPx: number, heightPx: number): Float32Array | undefined {
    if (this.closed || this.stands.loaded < this.document.meshes.length) return undefined;
    return depthPicture(this.renderer, this.drawn.group, this.stands.cameraAt(given), widthPx, heightPx);
  }

  // ---- what is met

  /** What lies under a point of the view. */
  pick(x: number, y: number): Pick | null {
    const w = this.host.clientWidth;
    const h = this.host.clientHeight;
    const figure = this.figures.at(x, y, w, h, this.eye.camera);
    if (figure?.kind === 'camera') return figure;
    if (figure) return { kind: 'node', node: this.stands.originOf(figure.node), point: figure.point };
    const ray = this.eye.rayThrough(x, y, w, h);
    const met = firstMet(this.drawn.group, ray);
    if (!met) return null;
    const node = this.stands.originOf(met.node);
    const copy = node === met.node ? undefined : this.stands.posed.nodes[met.node]!.path;
    const surface = { normal: met.normal.toArray(), from: ray.origin.toArray() };
    return { kind: 'node', node, point: met.point.toArray(), surface, ...(copy !== undefined && { copy }) };
  }
  /** Nodes of which something shows in a box of the view. */
  private nodesIn(from: Point, to: Point): number[] {
    const found = this.picker.inBox(this.drawn.group, this.eye.camera, from, to);
    return [...new Set(found.map((n) => this.stands.originOf(n)))];
  }

  /**
   * A picture lies over the view, and another is made. Where no graphics card draws, what would not be seen is drawn
   * after that: it takes seconds, of the processors that make the other.
   */
  cover(isCovered: boolean): void {
    const before = this.covered;
    if (isCovered && this.hasHardware) return;
    if (isCovered && before !== 'no') return;
    this.covered = isCovered ? 'yes' : 'no';
    if (before === 'changed') this.draw();
  }

  /** Draws with the next frame. The host says that it is busy until the picture stands, whole. */
  private draw(): void {
    if (this.closed) return;
    this.host.ariaBusy = 'true';
    if (this.covered === 'no') this.frames.ask();
    else this.covered = 'changed';
  }
  private stood(beganMs: number): void {
    const ms = took('view frame', beganMs);
    if (this.coarse) return;
    this.frameMs = ms;
    if (this.frames.isStill) this.host.ariaBusy = 'false';
  }
}

/** Whether a graphics card draws; false where the processor does its work, and every picture takes long. */
function hasHardware(gl: WebGLRenderingContext | WebGL2RenderingContext): boolean {
  const names = gl.getExtension('WEBGL_debug_renderer_info');
  const name = String(gl.getParameter(names ? names.UNMASKED_RENDERER_WEBGL : gl.RENDERER));
  return !/swiftshader|llvmpipe|softpipe|software|basic render/i.test(name);
}

/** By node: shown with all that it is in. */
function shownNodes(state: ResolvedState, posed: SceneDocument): boolean[] {
  const shown: boolean[] = [];
  const asked = setOnObjects(state, 'object.shown');
  for (const n of posed.nodes) shown.push((n.parent < 0 || shown[n.parent]!) && asked(n.path) !== false);
  return shown;
}

/**
 * What this view shows of a look. A change that it does not show, as of a shadow's caster, is not drawn: a picture of
 * millions of triangles takes a slow machine a second.
 */
function lookOf(state: ResolvedState, posed: SceneDocument, shown: readonly boolean[]): string {
  const values = [...state.values.values()]
    .filter((v) => v.property.facet !== 'visibility' && v.property.facet !== 'placement')
    .map((v) => `${v.target} ${v.property.id} ${String(v.value)}`);
  const lights = posed.nodes.flatMap((n, i) => (n.light !== undefined && shown[i] ? [i] : []));
  return `${values.join('\n')}${lights.join()}`;
}
