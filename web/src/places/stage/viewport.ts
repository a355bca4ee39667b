// The scene in real time. A plain class on three.js: a component per object would not carry ten thousand of them.
// Objects that share mesh and material are drawn as instances; a changed look only rebuilds instance lists and material values.
import { type DrawnLook, type Placement, type ResolvedState, type Value, drawnLooks, lightTarget, materialTarget, middleOf, objectTarget, placeDocument, placedNodes, placementOf } from '@variscen/core/looks';
import { type CameraSettings, type DeformData, FRAMES_PER_SECOND, type Geometry, type Matrix, type SceneDocument, type TextureRef, animationData, boundsOf, deformGeometry, deforms, halfHeightOf, placements, poseAt, poseDocument, poseOf, unpackDeform, unpackGeometry, worldMatrices } from '@variscen/core/scene';
import * as THREE from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { asset } from '../../api/assets.ts';
import { Handles, type HandleMode } from './handles.ts';
import { Figures, type ShownCamera } from './figures.ts';
import { Picker } from './picker.ts';
import { Walk } from './walk.ts';
import { Skies } from './skies.ts';

/** More lights than this cost the real-time view too much; the strongest are shown, and the caption says so. */
const MAX_LIGHTS = 8, FRAME_MARGIN_PX = 44, AT_ONCE = 200;
/** More selected objects than these get one box around them all. */
const OUTLINED_ONE_BY_ONE = 60;
/** Triangles drawn while a slow machine moves the view. */
const COARSE_TRIANGLES = 150_000, REFINE_MS = 450;

export interface FrameRect { readonly left: number; readonly top: number; readonly width: number; readonly height: number }
export interface ViewReport { readonly loaded: number; readonly meshes: number; readonly lightsShown: number; readonly lights: number; readonly triangles: number }
interface Listeners {
  report(r: ViewReport): void; frame(r: FrameRect | null): void; failed(message: string): void;
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
export type Pick = { readonly kind: 'node'; readonly node: number; readonly point: readonly [number, number, number] } | { readonly kind: 'camera'; readonly id: string };

export class Viewport {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera();
  private readonly controls: OrbitControls;
  private readonly pmrem: THREE.PMREMGenerator;
  private readonly skies: Skies;
  private readonly objects = new THREE.Group();
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
  private readonly materials = new Map<string, THREE.MeshStandardMaterial>();
  private readonly drawn = new Map<string, THREE.MeshStandardMaterial | THREE.MeshToonMaterial>();
  private readonly textures = new Map<string, THREE.Texture>();
  private readonly observer: ResizeObserver;
  /** The scene at the frame that is shown, and where its nodes are then. */
  private posed: SceneDocument;
  private world: Matrix[] = [];
  private motion: Float32Array | undefined;
  private frame = 0;
  private look = '';
  private lit: { readonly world: readonly Matrix[]; readonly lights: { readonly lightsShown: number; readonly lights: number } } = { world: [], lights: { lightsShown: 0, lights: 0 } };
  /** What is drawn, by mesh, material and manner. */
  private lists = new Map<string, { readonly mesh: THREE.InstancedMesh; readonly nodes: readonly number[]; readonly world: readonly Matrix[] }>();
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

  constructor(private readonly host: HTMLElement, private readonly document: SceneDocument, private readonly tell: Listeners) {
    this.renderer = new THREE.WebGLRenderer({ antialias: false, powerPreference: 'high-performance' });
    this.renderer.toneMapping = THREE.NeutralToneMapping;
    this.renderer.domElement.style.cssText = 'display:block;width:100%;height:100%;outline:none';
    host.append(this.renderer.domElement);
    this.pmrem = new THREE.PMREMGenerator(this.renderer);
    this.skies = new Skies(this.scene, this.pmrem, () => this.draw(), (m) => this.tell.failed(m));
    this.scene.add(this.objects, this.lights, this.outlines, this.figures.group);
    this.picker = new Picker(this.renderer);
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
    this.controls.addEventListener('change', () => this.navigated());
    this.controls.addEventListener('start', () => { this.held = true; });
    this.controls.addEventListener('end', () => { this.held = false; this.refineLater(); this.tell.cameraRested(); });
    this.handles = new Handles(this.camera, this.renderer.domElement, { changed: () => this.draw(), holding: (on) => { this.controls.enabled = !on && !this.locked; }, preview: (matrix) => this.preview(matrix), done: (change) => this.handled(change) });
    this.scene.add(this.handles.object);
    this.walk = new Walk(this.renderer.domElement, this.camera, this.controls, { free: () => !this.locked, refused: () => this.tell.nudged(), ended: () => this.tell.cameraRested() });
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(host);
    this.listen(this.renderer.domElement);
    this.posed = this.atFrame = document; this.world = placements(document);
    this.resize();
    void this.load().catch((e: unknown) => { if (!this.closed) this.tell.failed(e instanceof Error ? e.message : String(e)); });
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
    for (const m of [...this.materials.values(), ...this.drawn.values()]) m.dispose();
    for (const t of this.textures.values()) t.dispose();
    this.skies.free();
    this.pmrem.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }

  /** Clicks pick, Shift and a drag draws a box, and a locked camera says that it is. */
  private listen(canvas: HTMLCanvasElement): void {
    let down: { x: number; y: number; box: HTMLElement | null } | null = null;
    const local = (e: PointerEvent) => { const r = canvas.getBoundingClientRect(); return { x: e.clientX - r.left, y: e.clientY - r.top }; };
    canvas.addEventListener('pointerdown', (e) => {
      const at = local(e);
      down = { ...at, box: null };
      if (!e.shiftKey || e.button !== 0) return;
      this.controls.enabled = false;
      canvas.setPointerCapture(e.pointerId);
      const box = document.createElement('div');
      box.style.cssText = 'position:absolute;border:1px solid var(--go);background:#c8e64a22;pointer-events:none';
      this.host.append(box);
      down.box = box;
    });
    canvas.addEventListener('pointermove', (e) => {
      if (!down || e.buttons === 0) return;
      const at = local(e), far = Math.hypot(at.x - down.x, at.y - down.y);
      if (down.box) Object.assign(down.box.style, { left: `${Math.min(at.x, down.x)}px`, top: `${Math.min(at.y, down.y)}px`, width: `${Math.abs(at.x - down.x)}px`, height: `${Math.abs(at.y - down.y)}px` });
      else if (this.locked && far > 12) { this.tell.nudged(); down = null; }
    });
    canvas.addEventListener('pointerup', (e) => {
      const from = down, at = local(e);
      down = null;
      this.controls.enabled = !this.locked;
      from?.box?.remove();
      if (!from || e.button !== 0) return;
      const more = e.ctrlKey || e.metaKey;
      if (Math.hypot(at.x - from.x, at.y - from.y) < 4) this.tell.pick(this.pick(at.x, at.y), more || e.shiftKey);
      else if (from.box) this.tell.box(this.picker.inBox(this.objects, this.camera, from, at), more);
    });
    canvas.addEventListener('wheel', () => { if (this.locked) this.tell.nudged(); }, { passive: true });
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
    if (!this.coarse && this.frameMs > 60) { this.coarse = true; this.renderer.setPixelRatio(0.5); this.renderer.setSize(this.host.clientWidth, this.host.clientHeight, false); this.thin(true); }
    this.refineLater();
  }
  /** Whole again once nothing has moved for a while and nothing is held: a whole picture between two steps would hold up the next. */
  private refineLater(): void {
    clearTimeout(this.moving);
    if (this.held) return;
    this.moving = setTimeout(() => { if (!this.coarse || this.closed) return; this.coarse = false; this.thin(false); this.resize(); }, REFINE_MS);
  }
  private held = false;
  /** While it moves coarsely, of what is instanced most only as many are drawn as a slow machine can draw. */
  private thin(on: boolean): void {
    const all = this.objects.children as THREE.InstancedMesh[], cost = (m: THREE.InstancedMesh) => (m.geometry.index?.count ?? 0) / 3, total = all.reduce((n, m) => n + cost(m) * (m.userData['nodes'] as number[]).length, 0), share = on ? Math.min(1, COARSE_TRIANGLES / Math.max(1, total)) : 1;
    for (const m of all) { const n = (m.userData['nodes'] as number[]).length; m.count = share === 1 ? n : Math.max(1, Math.ceil(n * share)); }
  }

  private async load(): Promise<void> {
    const queue = this.document.meshes.map((_, i) => i);
    let next = 20;
    this.motion = await animationData(this.document, async (hash) => new Uint8Array(await asset(hash)));
    this.pose(this.frame);
    if (this.motion && this.through) this.lookThrough(this.asked);
    const one = async () => {
      for (let i = queue.shift(); i !== undefined && !this.closed; i = queue.shift()) {
        const m = this.document.meshes[i]!, g = unpackGeometry(new Uint8Array(await asset(m.blob)), m), out = bufferOf(g);
        if (m.deform) this.shapes.set(i, { geometry: g, data: unpackDeform(new Uint8Array(await asset(m.deform.blob)), m.deform, m.vertices) });
        this.geometries.set(i, out);
        this.loaded++;
        // each time twice as many: with a fixed step, 20,000 meshes built the lists a thousand times
        if (this.loaded >= next) { next = this.loaded * 2; this.rebuild(); } else if (this.loaded % 50 === 0) this.tell.report({ loaded: this.loaded, meshes: this.document.meshes.length, lightsShown: 0, lights: 0, triangles: 0 });
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
    const key = `${node} ${mesh}`, shape = this.shapes.get(mesh);
    let g = this.posedGeometries.get(key);
    if (!g && shape) this.posedGeometries.set(key, (g = bufferOf(deformGeometry(this.posed, node, shape.geometry, shape.data, worldMatrices(this.posed.nodes)))));
    return g;
  }

  setState(state: ResolvedState): void {
    const key = JSON.stringify(placedNodes(state).map((i) => [i, placementOf(state, this.document.nodes[i]!.path)]));
    this.state = state;
    const moved = key !== this.placedKey;
    if (moved) { this.placedKey = key; this.place(); }
    this.rebuild();
    if (moved) this.select(this.selected);
  }

  /** Which handles what is selected has in the view; null for none. */
  showHandles(mode: HandleMode | null): void { this.handles.mode = mode; this.putHandles(); }
  private putHandles(): void {
    const tops = this.tops(), world = worldMatrices(this.posed.nodes), last = tops.at(-1);
    this.handles.attach(last === undefined || !this.state ? null : middleOf(this.posed, last, world));
    this.draw();
  }
  /** What is selected without what lies in something else that is. */
  private tops(): number[] {
    const chosen = new Set(this.selected);
    return this.selected.filter((n) => { const node = this.document.nodes[n]!; for (let p = node.parent; p >= 0; p = this.document.nodes[p]!.parent) if (chosen.has(p)) return false; return node.parts !== undefined || node.light === undefined; });
  }
  /** While a handle is held only what it moves goes along; the look is made anew when it is let go. */
  private preview(matrix: THREE.Matrix4): void {
    const moved = new Set(this.insideOf(this.tops())), m = new THREE.Matrix4();
    for (const o of this.objects.children as THREE.InstancedMesh[]) {
      const nodes = o.userData['nodes'] as number[];
      if (!nodes.some((n) => moved.has(n))) continue;
      nodes.forEach((n, k) => { if (moved.has(n)) o.setMatrixAt(k, m.fromArray(this.world[n]!).premultiply(matrix)); });
      o.instanceMatrix.needsUpdate = true;
      o.computeBoundingSphere();
    }
    this.outlines.visible = false;
    this.draw();
  }
  private handled(change: Placement): void {
    this.outlines.visible = true;
    const { state } = this, tops = this.tops();
    if (!state) return;
    // back to where the look has it: what is recorded comes from there, and an edit may be refused
    this.place();
    this.rebuild();
    const add = (a: Placement['offset'], b: Placement['offset'], f: (x: number, y: number) => number): Placement['offset'] => a.map((x, k) => Number(f(x, b[k]!).toPrecision(7))) as unknown as Placement['offset'];
    this.tell.placed(tops, tops.map((n) => { const p = placementOf(state, this.document.nodes[n]!.path) ?? { offset: [0, 0, 0], turn: [0, 0, 0], scale: [1, 1, 1] } as const; return { offset: add(p.offset, change.offset, (x, y) => x + y), turn: add(p.turn, change.turn, (x, y) => ((x + y + 540) % 360) - 180), scale: add(p.scale, change.scale, (x, y) => Math.min(1000, Math.max(0.001, x * y))) }; }));
  }

  private rebuild(): void {
    const { state, document } = this;
    if (!state || this.closed) return;
    const lists = new Map<string, { mesh: number; material: string; drawn: DrawnLook; posed: boolean; nodes: number[] }>(), shown: boolean[] = [], drawn = drawnLooks(state);
    document.nodes.forEach((n, i) => {
      shown.push((n.parent < 0 || shown[n.parent]!) && state.get(objectTarget(n.path), 'object.shown') !== false);
      if (!shown[i] || !n.parts || state.get(objectTarget(n.path), 'object.seenByCamera') === false) return;
      n.parts.forEach((p) => {
        const worn = n.parts!.length === 1 ? state.get(objectTarget(n.path), 'object.material') : undefined, material = typeof worn === 'string' && state.scene.materials.has(worn) ? worn : document.materials[p.material]!.name, own = deforms(this.posed, i, p.mesh), key = `${p.mesh} ${material} ${drawn[i]}${own ? ` ${i}` : ''}`;
        const list = lists.get(key) ?? { mesh: p.mesh, material, drawn: drawn[i]!, posed: own, nodes: [] };
        list.nodes.push(i);
        lists.set(key, list);
      });
    });
    // what is drawn as it was stays: in a scene of 20,000 meshes a new list for each costs seconds
    const matrix = new THREE.Matrix4(), before = this.lists;
    this.lists = new Map();
    let triangles = 0, made = 0;
    for (const [key, { mesh, material, drawn: looks, posed, nodes }] of lists) {
      const geometry = posed ? this.posedGeometry(nodes[0]!, mesh) : this.geometries.get(mesh);
      if (!geometry) continue;
      const surface = looks === 'own' ? this.material(material, state) : this.drawnMaterial(material, looks, state), old = before.get(key);
      triangles += nodes.length * document.meshes[mesh]!.triangles;
      if (old && old.world === this.world && old.mesh.geometry === geometry && old.mesh.material === surface && old.nodes.length === nodes.length && old.nodes.every((n, k) => n === nodes[k])) { before.delete(key); this.lists.set(key, old); continue; }
      const instanced = new THREE.InstancedMesh(geometry, surface, nodes.length);
      nodes.forEach((n, k) => instanced.setMatrixAt(k, matrix.fromArray(this.world[n]!)));
      instanced.userData['nodes'] = nodes;
      instanced.computeBoundingSphere();
      this.lists.set(key, { mesh: instanced, nodes, world: this.world });
      this.objects.add(instanced);
      made++;
    }
    const gone = new Set([...before.values()].map((l) => l.mesh as THREE.Object3D));
    for (const l of before.values()) l.mesh.dispose();
    if (gone.size) this.objects.children = this.objects.children.filter((c) => { if (!gone.has(c)) return true; c.parent = null; return false; });
    // a change that this view does not show, as of a shadow's caster, is not drawn: a picture of millions of triangles takes a slow machine a second
    const look = [...state.values.values()].filter((v) => v.property.facet !== 'visibility' && v.property.facet !== 'placement').map((v) => `${v.target} ${v.property.id} ${String(v.value)}`).join('\n') + document.nodes.flatMap((n, i) => (n.light !== undefined && shown[i] ? [i] : [])).join();
    if (!made && !gone.size && look === this.look && this.world === this.lit.world) { this.tell.report({ loaded: this.loaded, meshes: document.meshes.length, ...this.lit.lights, triangles }); return; }
    this.look = look;
    const lights = this.placeLights(state, shown);
    this.lit = { world: this.world, lights };
    if (this.coarse) this.thin(true);
    this.figures.lights(document.nodes.flatMap((n, node) => (n.light !== undefined && shown[node] ? [{ node, type: document.lights[n.light]!.type, matrix: this.world[node]!, on: state.get(lightTarget(n.path), 'light.on') !== false }] : [])), this.sceneSize());
    this.skies.show(state);
    const ev = state.get('grade', 'grade.exposure');
    this.renderer.toneMappingExposure = 2 ** (typeof ev === 'number' ? ev : 0);
    this.tell.report({ loaded: this.loaded, meshes: document.meshes.length, ...lights, triangles });
    this.draw();
  }

  /** Half the diagonal of the scene's boxes, metres. */
  private sceneSize(): number {
    if (this.radius) return this.radius;
    const box = new THREE.Box3(), m = new THREE.Matrix4();
    this.document.nodes.forEach((n, i) => n.parts?.forEach((p) => { const { min, max } = this.document.meshes[p.mesh]!; box.union(new THREE.Box3(new THREE.Vector3(...min), new THREE.Vector3(...max)).applyMatrix4(m.fromArray(this.world[i]!))); }));
    return (this.radius = box.isEmpty() ? 1 : box.getSize(new THREE.Vector3()).length() / 2);
  }
  private radius = 0;

  private material(name: string, state: ResolvedState): THREE.MeshStandardMaterial {
    const base = state.scene.material(name)!, get = (p: string): Value | undefined => state.get(materialTarget(name), `material.${p}`), color = (v: Value | undefined): [number, number, number] => (Array.isArray(v) ? (v as unknown as [number, number, number]) : [1, 1, 1]), number = (v: Value | undefined) => (typeof v === 'number' ? v : 0);
    let m = this.materials.get(name);
    if (!m) {
      m = new THREE.MeshStandardMaterial({ side: base.doubleSided ? THREE.DoubleSide : THREE.FrontSide, map: this.texture(base.textures.base, true), metalnessMap: this.texture(base.textures.metallicRoughness, false), normalMap: this.texture(base.textures.normal, false), emissiveMap: this.texture(base.textures.emission, true) });
      m.roughnessMap = m.metalnessMap;
      this.materials.set(name, m);
    }
    m.color.setRGB(...color(get('baseColor')));
    m.metalness = number(get('metallic')); m.roughness = number(get('roughness'));
    m.emissive.setRGB(...color(get('emissionColor'))); m.emissiveIntensity = number(get('emissionStrength'));
    // glass is only hinted at here; the renderer refracts it
    const clear = number(get('transmission'));
    m.transparent = clear > 0; m.opacity = 1 - 0.7 * clear; m.depthWrite = clear === 0;
    return m;
  }

  /** Clay, or the flat tones of the drawn look; its lines are for the renderer. */
  private drawnMaterial(name: string, looks: DrawnLook, state: ResolvedState): THREE.Material {
    const own = this.material(name, state), key = `${looks} ${looks === 'clay' ? own.side : name}`;
    let m = this.drawn.get(key);
    if (!m) this.drawn.set(key, (m = looks === 'clay' ? new THREE.MeshStandardMaterial({ color: 0xc2c2c2, roughness: 0.85, side: own.side }) : new THREE.MeshToonMaterial({ side: own.side, map: own.map })));
    if (m instanceof THREE.MeshToonMaterial) m.color.copy(own.color);
    return m;
  }

  private texture(ref: TextureRef | undefined, srgb: boolean): THREE.Texture | null {
    if (!ref) return null;
    const t = this.document.textures[ref.texture]!, key = `${t.blob} ${srgb} ${ref.matrix.join()} ${ref.wrapS} ${ref.wrapT}`, known = this.textures.get(key);
    if (known) return known;
    const wraps = { repeat: THREE.RepeatWrapping, clamp: THREE.ClampToEdgeWrapping, mirror: THREE.MirroredRepeatWrapping }, texture = new THREE.Texture();
    texture.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
    texture.wrapS = wraps[ref.wrapS]; texture.wrapT = wraps[ref.wrapT]; texture.flipY = false;
    texture.matrixAutoUpdate = false;
    texture.matrix.set(ref.matrix[0], ref.matrix[1], ref.matrix[2], ref.matrix[3], ref.matrix[4], ref.matrix[5], 0, 0, 1);
    this.textures.set(key, texture);
    void asset(t.blob).then((b) => createImageBitmap(new Blob([b], { type: t.mediaType }), { imageOrientation: 'none', colorSpaceConversion: 'none' })).then((image) => {
      if (this.closed) return;
      texture.image = image; texture.needsUpdate = true; this.draw();
    }, () => { if (!this.closed) this.tell.failed(`Texture “${t.name}” could not be shown.`); });
    return texture;
  }

  private placeLights(state: ResolvedState, shown: readonly boolean[]): { lightsShown: number; lights: number } {
    this.lights.clear();
    const all: { light: THREE.Light; power: number }[] = [];
    this.document.nodes.forEach((n, i) => {
      if (n.light === undefined || !shown[i]) return;
      const t = lightTarget(n.path), source = this.document.lights[n.light]!, intensity = state.get(t, 'light.intensity'), color = state.get(t, 'light.color'), m = this.world[i]!;
      if (state.get(t, 'light.on') === false || typeof intensity !== 'number' || intensity <= 0) return;
      const c = new THREE.Color(...(Array.isArray(color) ? (color as unknown as [number, number, number]) : ([1, 1, 1] as const))), at = new THREE.Vector3(m[12], m[13], m[14]), along = new THREE.Vector3(-m[8]!, -m[9]!, -m[10]!);
      const aimed = <T extends THREE.DirectionalLight | THREE.SpotLight>(l: T): T => { l.target.position.copy(at).add(along); l.target.updateMatrixWorld(); return l; };
      const light = source.type === 'sun' ? aimed(new THREE.DirectionalLight(c, intensity)) : source.type === 'point' ? new THREE.PointLight(c, intensity) : source.type === 'spot' ? new THREE.SpotLight(c, intensity, 0, source.outerConeRad, 1 - source.innerConeRad / source.outerConeRad) : new THREE.SpotLight(c, intensity * (source.type === 'disc' ? Math.PI * source.radiusM ** 2 : source.widthM * source.heightM), 0, 1.4, 1);
      light.position.copy(at);
      if (light instanceof THREE.SpotLight) aimed(light);
      all.push({ light, power: source.type === 'sun' ? intensity * 100 : intensity / (1 + at.distanceToSquared(this.controls.target) * 0.05) });
    });
    all.sort((a, b) => b.power - a.power);
    // always the same number of each kind would keep shaders; eight at most keeps them cheap
    for (const { light } of all.slice(0, MAX_LIGHTS)) this.lights.add(light);
    return { lightsShown: Math.min(MAX_LIGHTS, all.length), lights: all.length };
  }

  /** Looks through a camera, its frame inset in the view; null leaves the view where it is, free to move. A locked camera is not moved by navigating. */
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
      const m = new THREE.Matrix4().fromArray(settings.matrix), now = this.camera.matrixWorld.elements;
      // what comes back from navigating is where the view is already: its pivot stays
      if (settings.matrix.some((x, i) => Math.abs(x - now[i]!) > 1e-6 * (1 + Math.abs(x)))) {
        const eye = new THREE.Vector3().setFromMatrixPosition(m), along = new THREE.Vector3().setFromMatrixColumn(m, 2).normalize().negate();
        this.controls.target.copy(eye).addScaledVector(along, settings.focusDistanceM);
        m.decompose(this.camera.position, this.camera.quaternion, new THREE.Vector3());
        this.camera.updateMatrixWorld();
      }
      this.camera.near = settings.nearM; this.camera.far = settings.farM;
    }
    this.resize();
  }

  /** Goes through the frames of an animated scene without changing any camera. */
  showFrame(frame: number): void {
    if (frame === this.frame) return;
    this.pose(frame);
    if (this.asked?.follows !== undefined) this.lookThrough({ ...this.asked, frame }, this.locked);
  }
  get animated(): boolean { return this.motion !== undefined; }

  /** Other cameras as figures in the view; not the one that is looked through. */
  showCameras(cameras: readonly ShownCamera[], size: number): void { this.figures.cameras(cameras, size); this.draw(); }

  /** Moves the view so that what is selected fills most of it; a locked camera stays. */
  bringIntoView(): void {
    const sphere = this.boundsOfSelection()?.getBoundingSphere(new THREE.Sphere());
    if (!sphere) return;
    if (this.locked) { this.tell.nudged(); return; }
    const half = Math.tan((this.camera.fov * Math.PI) / 360) * Math.min(1, this.camera.aspect), distance = Math.max(sphere.radius * 1.3, 1e-3) / Math.sin(Math.atan(half)), back = new THREE.Vector3(0, 0, 1).applyQuaternion(this.camera.quaternion);
    this.controls.target.copy(sphere.center);
    this.camera.position.copy(sphere.center).addScaledVector(back, distance);
    this.controls.update();
    this.navigated();
    this.tell.cameraRested();
  }

  /** The view as a camera, when it looks through none. */
  freeCamera(): CameraSettings {
    const widthPx = this.host.clientWidth, heightPx = this.host.clientHeight, sensorWidthMm = 36, { near, far } = this.camera;
    this.camera.updateMatrixWorld();
    return {
      matrix: this.camera.matrixWorld.toArray(), projection: 'perspective', widthPx, heightPx, sensorWidthMm, focalLengthMm: ((sensorWidthMm / 2) * heightPx) / (Math.tan((this.camera.fov * Math.PI) / 360) * widthPx), orthoHalfHeightM: 1, nearM: near, farM: far,
      focusDistanceM: Math.max(0.01, this.camera.position.distanceTo(this.controls.target)), fStop: null, cullMarginPct: null, ...(this.frame > 0 && { frame: this.frame }),
    };
  }

  /** Distance along a camera's axis of what it sees, metres a pixel, rows from the top; Infinity where nothing is between its planes. */
  depthPicture(given: CameraSettings, widthPx: number, heightPx: number): Float32Array | undefined {
    if (this.closed || this.loaded === 0) return undefined;
    const c = poseAt(this.document, this.motion, given).camera, camera = new THREE.PerspectiveCamera(), half = halfHeightOf(c), wide = (half * c.widthPx) / c.heightPx, scale = c.projection === 'perspective' ? c.nearM : 1, sx = 2 * (c.shiftX ?? 0) * wide, sy = 2 * (c.shiftY ?? 0) * half;
    new THREE.Matrix4().fromArray(c.matrix).decompose(camera.position, camera.quaternion, new THREE.Vector3());
    camera.updateMatrixWorld();
    camera.matrixWorldInverse.copy(camera.matrixWorld).invert();
    if (c.projection === 'perspective') camera.projectionMatrix.makePerspective((sx - wide) * scale, (sx + wide) * scale, (sy + half) * scale, (sy - half) * scale, c.nearM, c.farM);
    else camera.projectionMatrix.makeOrthographic(sx - wide, sx + wide, sy + half, sy - half, c.nearM, c.farM);
    camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert();
    const target = new THREE.WebGLRenderTarget(widthPx, heightPx, { type: THREE.FloatType }), scene = new THREE.Scene(), out = new Float32Array(widthPx * heightPx * 4), tone = this.renderer.toneMapping;
    try {
      scene.add(this.objects);
      scene.overrideMaterial = DEPTH;
      this.renderer.toneMapping = THREE.NoToneMapping;
      this.renderer.setRenderTarget(target);
      this.renderer.setClearColor(0, 0);
      this.renderer.clear();
      this.renderer.render(scene, camera);
      this.renderer.readRenderTargetPixels(target, 0, 0, widthPx, heightPx, out);
    } finally {
      this.renderer.setRenderTarget(null);
      this.renderer.toneMapping = tone;
      this.scene.add(this.objects);
      target.dispose();
    }
    return Float32Array.from({ length: widthPx * heightPx }, (_, i) => { const at = ((heightPx - 1 - Math.floor(i / widthPx)) * widthPx + (i % widthPx)) * 4; return out[at + 3]! > 0 ? out[at]! : Infinity; });
  }

  private resize(): void {
    const w = Math.max(1, this.host.clientWidth), h = Math.max(1, this.host.clientHeight);
    this.renderer.setPixelRatio(this.coarse ? 0.5 : Math.min(1.5, window.devicePixelRatio));
    this.renderer.setSize(w, h, false);
    this.camera.aspect = w / h;
    (OUTLINE.uniforms['size']!.value as THREE.Vector2).set(w, h);
    let rect: FrameRect | undefined;
    if (this.through) {
      const aspect = this.through.widthPx / this.through.heightPx, k = Math.min((w - 2 * FRAME_MARGIN_PX) / aspect, h - 2 * FRAME_MARGIN_PX), fh = Math.max(10, k), fw = fh * aspect;
      if (this.through.projection === 'perspective') this.camera.fov = (2 * Math.atan(halfHeightOf(this.through) * (h / fh)) * 180) / Math.PI;
      rect = { left: (w - fw) / 2, top: (h - fh) / 2, width: fw, height: fh };
      this.tell.frame(rect);
    }
    this.camera.updateProjectionMatrix();
    if (this.through?.projection === 'orthographic' && rect) {
      const top = this.through.orthoHalfHeightM * (h / rect.height), right = top * (w / h);
      this.camera.projectionMatrix.makeOrthographic(-right, right, top, -top, this.through.nearM, this.through.farM);
      this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();
    } else if (this.through && rect) {
      this.camera.projectionMatrix.elements[8] = 2 * (this.through.shiftX ?? 0) * (rect.width / w); this.camera.projectionMatrix.elements[9] = 2 * (this.through.shiftY ?? 0) * (rect.height / h);
      this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();
    }
    this.draw();
  }

  /** Outlines what is selected, with all that is in it. */
  select(nodes: readonly number[]): void {
    this.selected = nodes;
    for (const o of [...this.outlines.children]) { if (o instanceof THREE.Box3Helper) o.dispose(); this.outlines.remove(o); }
    const all = this.insideOf(nodes), real = worldMatrices(this.posed.nodes);
    if (all.length > 0 && all.length <= OUTLINED_ONE_BY_ONE) for (const i of all) {
      for (const p of this.document.nodes[i]!.parts!) { const geometry = this.geometries.get(p.mesh); if (geometry && p.mesh >= 0) this.outlines.add(outlineOf(deforms(this.posed, i, p.mesh) ? (this.posedGeometry(i, p.mesh) ?? geometry) : geometry, this.world[i]!)); }
    } else if (all.length) {
      const box = new THREE.Box3();
      for (const i of all) for (const p of this.document.nodes[i]!.parts!) { const m = boundsOf(this.posed, i, p.mesh, real); box.union(new THREE.Box3(new THREE.Vector3(...m.min), new THREE.Vector3(...m.max)).applyMatrix4(new THREE.Matrix4().fromArray(this.world[i]!))); }
      const helper = new THREE.Box3Helper(box, 0xc8e64a);
      (helper.material as THREE.LineBasicMaterial).depthTest = false;
      this.outlines.add(helper);
    }
    this.putHandles();
    this.figures.chosenLights(nodes.filter((i) => this.document.nodes[i]!.light !== undefined).map((i) => this.world[i]!));
    this.draw();
  }
  private insideOf(nodes: readonly number[]): number[] {
    const inside = new Set(nodes), out: number[] = [];
    if (nodes.length) this.document.nodes.forEach((n, i) => { if (inside.has(n.parent)) inside.add(i); if (inside.has(i) && n.parts) out.push(i); });
    return out;
  }
  private boundsOfSelection(): THREE.Box3 | undefined {
    const box = new THREE.Box3(), real = worldMatrices(this.posed.nodes);
    for (const i of this.insideOf(this.selected)) for (const p of this.document.nodes[i]!.parts!) { const m = boundsOf(this.posed, i, p.mesh, real); box.union(new THREE.Box3(new THREE.Vector3(...m.min), new THREE.Vector3(...m.max)).applyMatrix4(new THREE.Matrix4().fromArray(this.world[i]!))); }
    for (const i of this.selected) if (this.document.nodes[i]!.light !== undefined) box.expandByPoint(new THREE.Vector3(this.world[i]![12], this.world[i]![13], this.world[i]![14])).expandByScalar(0.2);
    return box.isEmpty() ? undefined : box;
  }

  private pick(x: number, y: number): Pick | null {
    const w = this.host.clientWidth, h = this.host.clientHeight, ndc = (px: number, py: number, z: number) => new THREE.Vector3((px / w) * 2 - 1, 1 - (py / h) * 2, z).unproject(this.camera);
    const figure = this.figures.at(x, y, w, h, this.camera);
    if (figure) return figure.kind === 'camera' ? figure : { kind: 'node', node: figure.node, point: figure.point };
    const from = ndc(x, y, -1), ray = new THREE.Raycaster(from, ndc(x, y, 1).sub(from).normalize());
    const hit = ray.intersectObjects(this.objects.children, false)[0], node = hit?.instanceId === undefined ? undefined : (hit.object.userData['nodes'] as number[])[hit.instanceId];
    return hit && node !== undefined ? { kind: 'node', node, point: hit.point.toArray() } : null;
  }

  /** Draws with the next frame, once however often it is asked. */
  private draw(): void {
    if (this.frameRequest || this.closed) return;
    this.frameRequest = requestAnimationFrame(() => {
      this.frameRequest = 0;
      if (this.closed) return;
      const began = performance.now();
      this.renderer.render(this.scene, this.camera);
      // a pixel that is read has been drawn: only so is it known what a picture costs (finish() does not wait in a browser)
      const gl = this.renderer.getContext();
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
      const ms = performance.now() - began;
      if (!this.coarse) this.frameMs = ms;
      performance.measure('view frame', { start: began, duration: ms });
    });
  }
}

/** Distance along the camera's axis, in metres. */
const DEPTH = new THREE.ShaderMaterial({ vertexShader: 'varying float d; void main() { vec4 p = modelViewMatrix * instanceMatrix * vec4(position, 1.0); d = -p.z; gl_Position = projectionMatrix * p; }', fragmentShader: 'varying float d; void main() { gl_FragColor = vec4(d, 0.0, 0.0, 1.0); }', side: THREE.DoubleSide });
const OUTLINE = new THREE.ShaderMaterial({
  vertexShader: 'uniform float widthPx; uniform vec2 size; void main() { vec4 p = projectionMatrix * modelViewMatrix * vec4(position, 1.0); vec3 n = normalMatrix * normal; vec2 d = normalize((projectionMatrix * vec4(n, 0.0)).xy + vec2(1e-6)); p.xy += d * widthPx / size * 2.0 * p.w; gl_Position = p; }',
  fragmentShader: 'void main() { gl_FragColor = vec4(0.784, 0.902, 0.29, 1.0); }', uniforms: { widthPx: { value: 2 }, size: { value: new THREE.Vector2(1, 1) } }, side: THREE.BackSide,
});
/** A shell a little larger than the object, of which only the rim shows from behind it. */
function outlineOf(geometry: THREE.BufferGeometry, matrix: Matrix): THREE.Object3D {
  const mesh = new THREE.Mesh(geometry, OUTLINE);
  mesh.matrixAutoUpdate = false;
  mesh.matrix.fromArray(matrix);
  mesh.frustumCulled = false;
  return mesh;
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
