// The scene in real time. A plain class on three.js: a component per object would not carry ten thousand of them.
// Objects that share mesh and material are drawn as instances; a changed look only rebuilds instance lists and material values.
import { type DrawnLook, type ResolvedState, type Value, drawnLooks, lightTarget, materialTarget, objectTarget } from '@variscen/core/looks';
import { type CameraSettings, type DeformData, FRAMES_PER_SECOND, type Geometry, type Matrix, type SceneDocument, type TextureRef, animationData, boundsOf, deformGeometry, deforms, halfHeightOf, placements, poseAt, poseDocument, unpackDeform, unpackGeometry, worldMatrices } from '@variscen/core/scene';
import * as THREE from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { asset } from '../../api/client.ts';
import { Skies } from './skies.ts';

/** More lights than this cost the real-time view too much; the strongest are shown, and the caption says so. */
const MAX_LIGHTS = 8, FRAME_MARGIN_PX = 44, AT_ONCE = 8;

export interface FrameRect { readonly left: number; readonly top: number; readonly width: number; readonly height: number }
export interface ViewReport { readonly loaded: number; readonly meshes: number; readonly lightsShown: number; readonly lights: number; readonly triangles: number }
interface Listeners { report(r: ViewReport): void; frame(r: FrameRect | null): void; pick(node: number | null): void; failed(message: string): void; movedAway(): void; moved(): void }

export class Viewport {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera();
  private readonly controls: OrbitControls;
  private readonly pmrem: THREE.PMREMGenerator;
  private readonly skies: Skies;
  private readonly objects = new THREE.Group();
  private readonly lights = new THREE.Group();
  private readonly outline = new THREE.Box3Helper(new THREE.Box3(), 0xc8e64a);
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
  private readonly shapes = new Map<number, { geometry: Geometry; data: DeformData }>();
  private readonly posedGeometries = new Map<string, THREE.BufferGeometry>();
  private state: ResolvedState | undefined;
  private through: CameraSettings | null = null;
  private asked: CameraSettings | null = null;
  private frameRequest = 0;
  private loaded = 0;
  private closed = false;

  constructor(private readonly host: HTMLElement, private readonly document: SceneDocument, private readonly tell: Listeners) {
    this.renderer = new THREE.WebGLRenderer({ antialias: false, powerPreference: 'high-performance' });
    this.renderer.toneMapping = THREE.NeutralToneMapping;
    this.renderer.domElement.style.cssText = 'display:block;width:100%;height:100%;outline:none';
    host.append(this.renderer.domElement);
    this.pmrem = new THREE.PMREMGenerator(this.renderer);
    this.skies = new Skies(this.scene, this.pmrem);
    this.outline.visible = false;
    (this.outline.material as THREE.LineBasicMaterial).depthTest = false;
    this.scene.add(this.objects, this.lights, this.outline);
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
    this.controls.addEventListener('change', () => { this.draw(); this.tell.moved(); });
    this.controls.addEventListener('start', () => { if (this.through) { this.through = null; this.tell.frame(null); this.resize(); this.tell.movedAway(); } });
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(host);
    let down = { x: 0, y: 0 };
    this.renderer.domElement.addEventListener('pointerdown', (e) => { down = { x: e.clientX, y: e.clientY }; });
    this.renderer.domElement.addEventListener('click', (e) => { if (Math.hypot(e.clientX - down.x, e.clientY - down.y) < 4) this.tell.pick(this.pick(e)); });
    this.posed = document; this.world = placements(document);
    this.resize();
    void this.load().catch((e: unknown) => { if (!this.closed) this.tell.failed(e instanceof Error ? e.message : String(e)); });
  }

  close(): void {
    this.closed = true;
    cancelAnimationFrame(this.frameRequest);
    this.observer.disconnect();
    this.controls.dispose();
    for (const g of [...this.geometries.values(), ...this.posedGeometries.values()]) g.dispose();
    for (const m of [...this.materials.values(), ...this.drawn.values()]) m.dispose();
    for (const t of this.textures.values()) t.dispose();
    this.skies.free();
    this.pmrem.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }

  private async load(): Promise<void> {
    const queue = this.document.meshes.map((_, i) => i);
    this.motion = await animationData(this.document, async (hash) => new Uint8Array(await asset(hash)));
    this.pose(this.frame);
    if (this.motion && this.through) this.lookThrough(this.asked);
    const one = async () => {
      for (let i = queue.shift(); i !== undefined && !this.closed; i = queue.shift()) {
        const m = this.document.meshes[i]!, g = unpackGeometry(new Uint8Array(await asset(m.blob)), m), out = bufferOf(g);
        if (m.deform) this.shapes.set(i, { geometry: g, data: unpackDeform(new Uint8Array(await asset(m.deform.blob)), m.deform, m.vertices) });
        this.geometries.set(i, out);
        this.loaded++;
        if (this.loaded % 20 === 0 || this.loaded === this.document.meshes.length) this.rebuild();
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, one));
    this.rebuild();
  }

  /** Puts everything where it is at a frame. */
  private pose(frame: number): void {
    this.frame = frame;
    this.posed = poseDocument(this.document, this.motion, frame / FRAMES_PER_SECOND);
    this.world = placements(this.posed);
    for (const g of this.posedGeometries.values()) g.dispose();
    this.posedGeometries.clear();
    this.rebuild();
  }
  /** A node's mesh as it stands at the frame. */
  private posedGeometry(node: number, mesh: number): THREE.BufferGeometry | undefined {
    const key = `${node} ${mesh}`, shape = this.shapes.get(mesh);
    let g = this.posedGeometries.get(key);
    if (!g && shape) this.posedGeometries.set(key, (g = bufferOf(deformGeometry(this.posed, node, shape.geometry, shape.data, worldMatrices(this.posed.nodes)))));
    return g;
  }

  setState(state: ResolvedState): void { this.state = state; this.rebuild(); }

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
    for (const child of [...this.objects.children]) { (child as THREE.InstancedMesh).dispose(); this.objects.remove(child); }
    const matrix = new THREE.Matrix4();
    let triangles = 0;
    for (const { mesh, material, drawn: looks, posed, nodes } of lists.values()) {
      const geometry = posed ? this.posedGeometry(nodes[0]!, mesh) : this.geometries.get(mesh);
      if (!geometry) continue;
      const instanced = new THREE.InstancedMesh(geometry, looks === 'own' ? this.material(material, state) : this.drawnMaterial(material, looks, state), nodes.length);
      nodes.forEach((n, k) => instanced.setMatrixAt(k, matrix.fromArray(this.world[n]!)));
      instanced.userData['nodes'] = nodes;
      instanced.computeBoundingSphere();
      this.objects.add(instanced);
      triangles += nodes.length * document.meshes[mesh]!.triangles;
    }
    const lights = this.placeLights(state, shown);
    this.skies.show(state);
    const ev = state.get('grade', 'grade.exposure');
    this.renderer.toneMappingExposure = 2 ** (typeof ev === 'number' ? ev : 0);
    this.tell.report({ loaded: this.loaded, meshes: document.meshes.length, ...lights, triangles });
    this.draw();
  }

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

  /** Looks through a camera, its frame inset in the view; null leaves the view where it is, free to move. */
  lookThrough(given: CameraSettings | null): void {
    if (given && (given.frame ?? 0) !== this.frame) this.pose(given.frame ?? 0);
    const settings = given && poseAt(this.document, this.motion, given).camera;
    this.asked = given;
    this.through = settings;
    if (settings) {
      const m = new THREE.Matrix4().fromArray(settings.matrix), eye = new THREE.Vector3().setFromMatrixPosition(m), along = new THREE.Vector3().setFromMatrixColumn(m, 2).normalize().negate();
      this.controls.target.copy(eye).addScaledVector(along, settings.focusDistanceM);
      m.decompose(this.camera.position, this.camera.quaternion, new THREE.Vector3());
      this.camera.near = settings.nearM; this.camera.far = settings.farM;
    }
    this.resize();
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

  private resize(): void {
    const w = Math.max(1, this.host.clientWidth), h = Math.max(1, this.host.clientHeight);
    this.renderer.setPixelRatio(Math.min(1.5, window.devicePixelRatio));
    this.renderer.setSize(w, h, false);
    this.camera.aspect = w / h;
    let rect: FrameRect | undefined;
    if (this.through) {
      const aspect = this.through.widthPx / this.through.heightPx, k = Math.min((w - 2 * FRAME_MARGIN_PX) / aspect, h - 2 * FRAME_MARGIN_PX), fh = Math.max(10, k), fw = fh * aspect;
      const half = this.through.projection === 'perspective' ? halfHeightOf(this.through) : this.through.orthoHalfHeightM / this.through.focusDistanceM;
      this.camera.fov = (2 * Math.atan(half * (h / fh)) * 180) / Math.PI;
      rect = { left: (w - fw) / 2, top: (h - fh) / 2, width: fw, height: fh };
      this.tell.frame(rect);
    }
    this.camera.updateProjectionMatrix();
    if (this.through && rect) {
      this.camera.projectionMatrix.elements[8] = 2 * (this.through.shiftX ?? 0) * (rect.width / w); this.camera.projectionMatrix.elements[9] = 2 * (this.through.shiftY ?? 0) * (rect.height / h);
      this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();
    }
    this.draw();
  }

  select(node: number | null): void {
    this.outline.visible = false;
    if (node !== null) {
      const box = new THREE.Box3(), inside = new Set([node]), real = worldMatrices(this.posed.nodes);
      this.document.nodes.forEach((n, i) => {
        if (inside.has(n.parent)) inside.add(i);
        if (inside.has(i)) n.parts?.forEach((p) => { const m = boundsOf(this.posed, i, p.mesh, real); box.union(new THREE.Box3(new THREE.Vector3(...m.min), new THREE.Vector3(...m.max)).applyMatrix4(new THREE.Matrix4().fromArray(this.world[i]!))); });
      });
      if (!box.isEmpty()) { this.outline.box.copy(box); this.outline.updateMatrixWorld(true); this.outline.visible = true; }
    }
    this.draw();
  }

  private pick(e: MouseEvent): number | null {
    const r = this.renderer.domElement.getBoundingClientRect(), ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2(((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2), this.camera);
    const hit = ray.intersectObjects(this.objects.children, false)[0];
    return hit?.instanceId === undefined ? null : ((hit.object.userData['nodes'] as number[])[hit.instanceId] ?? null);
  }

  /** Draws with the next frame, once however often it is asked. */
  private draw(): void {
    if (this.frameRequest || this.closed) return;
    this.frameRequest = requestAnimationFrame(() => { this.frameRequest = 0; if (!this.closed) this.renderer.render(this.scene, this.camera); });
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
