// A scene file into a scene document and its blobs. Pure: bytes in, document, blobs and report out. What is not
// understood is reported by name,
// never dropped silently; what cannot be opened at all is an ImportError that says why.
import {
  type Accessor,
  type Document,
  type Material,
  type Node,
  type Primitive,
  type Skin,
  type Texture,
  type TextureInfo,
  WebIO,
} from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureAVIF,
  EXTTextureWebP,
  type InstancedMesh,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRMaterialsVolume,
  KHRMeshQuantization,
  KHRTextureBasisu,
  KHRTextureTransform,
  type MappingList,
  type Anisotropy,
  type Clearcoat,
  type EmissiveStrength,
  type IOR,
  type Iridescence,
  type Sheen,
  type Light,
  type Specular,
  type Transform,
  type Transmission,
  type Volume,
} from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import {
  type Geometry,
  IDENTITY,
  ImportError,
  type ImportFault,
  type ImportReport,
  type MaterialLayers,
  type MeshPart,
  type Rgb,
  type SceneCamera,
  type SceneDocument,
  type SceneLight,
  type SceneMaterial,
  type SceneMesh,
  type SceneNode,
  type SceneSkin,
  type SceneTexture,
  type TextureRef,
  type TextureSlot,
  composed,
  determinant,
  isClosed,
  multiply,
  packGeometry,
  placedTriangles,
  storedTriangles,
  transformPoint,
  worldMatrices,
} from '../scene/index.ts';
import { readAnimation, readDeform, readSkin } from './importMotion.ts';
import { objToGltf } from './objToGltf.ts';
import { openFiles } from './openFiles.ts';

export interface ImportOptions {
  /** Content hash, hex. */
  readonly hash: (bytes: Uint8Array) => string;
  /** Bytes of a mesh's acceleration structure, measured by the engine. */
  readonly accelerationBytes: (name: string, geometry: Geometry) => Promise<number>;
  /** Metres per unit of the file. */
  readonly metresPerUnit?: number;
  /**
   * Takes what the document refers to as it is made, so that not all of it is held at once; without, it is in the
   * result.
   */
  readonly keep?: (hash: string, bytes: Uint8Array) => void | Promise<void>;
  readonly onProgress?: (fraction: number) => void;
  readonly signal?: AbortSignal | undefined;
}
export interface ImportResult {
  readonly document: SceneDocument;
  readonly blobs: ReadonlyMap<string, Uint8Array>;
  readonly report: ImportReport;
}

const READ = [
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureAVIF,
  EXTTextureWebP,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRMaterialsVolume,
  KHRMeshQuantization,
  KHRTextureBasisu,
  KHRTextureTransform,
];
const WRAP: Readonly<Record<number, 'repeat' | 'clamp' | 'mirror'>> = {
  10497: 'repeat',
  33071: 'clamp',
  33648: 'mirror',
};
/** Blobs handed over and meshes measured before they are waited for. */
const AT_ONCE = 24;
/** The real sun's; glTF suns are infinitely small. */
const SUN_ANGLE_RAD = 0.0093;

/** Reads a .glb, .gltf or .obj, alone or in a zip with the files that it needs. @throws ImportError */
export async function importScene(fileName: string, bytes: Uint8Array, options: ImportOptions): Promise<ImportResult> {
  const files = openFiles(fileName, bytes);
  return files.kind === 'obj'
    ? new Importer(fileName, bytes.length, await objToGltf(files), files.faults, options).run()
    : new Importer(fileName, bytes.length, await readGltf(fileName, files), files.faults, options).run();
}

async function readGltf(
  fileName: string,
  { json, resources, faults }: Extract<ReturnType<typeof openFiles>, { kind: 'gltf' }>,
): Promise<Document> {
  const known = new Set<string>(READ.map((e) => e.EXTENSION_NAME));
  const missing = (json.extensionsRequired ?? []).filter((e) => !known.has(e));
  if (missing.length)
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” cannot be read without ${missing.join(' and ')}, which Variscen does not support yet. Export it without.`,
    );
  for (const e of json.extensionsUsed ?? [])
    if (!known.has(e))
      faults.push({
        kind: 'unread-extension',
        subject: e,
        message: `The extension ${e} is not read; what it describes is left out.`,
      });
  const io = new WebIO().registerExtensions(READ);
  if (json.extensionsUsed?.includes('EXT_meshopt_compression')) {
    await MeshoptDecoder.ready;
    io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
  }
  if (json.extensionsUsed?.includes('KHR_draco_mesh_compression'))
    io.registerDependencies({ 'draco3d.decoder': await (await import('draco3d')).default.createDecoderModule() });
  try {
    return await io.readJSON({ json: json as never, resources });
  } catch (e) {
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” could not be read: ${e instanceof Error ? e.message : String(e)}. Check it with a glTF validator and export it again.`,
    );
  }
}

class Importer {
  private readonly blobs = new Map<string, Uint8Array>();
  private readonly textures: SceneTexture[] = [];
  private readonly textureIndex = new Map<Texture, number | undefined>();
  private readonly materials: SceneMaterial[] = [];
  private readonly materialIndex = new Map<Material | null, number>();
  private readonly materialNames = new Set<string>();
  private readonly meshes: SceneMesh[] = [];
  private readonly meshIndex = new Map<Primitive, number | undefined>();
  private readonly lights: SceneLight[] = [];
  private readonly cameras: SceneCamera[] = [];
  private readonly nodes: SceneNode[] = [];
  private readonly paths = new Map<string, number>();
  private readonly nodeIndex = new Map<Node, number>();
  private readonly variants = new Map<string, { name: string; wears: Map<string, string> }>();

  constructor(
    private readonly fileName: string,
    private readonly fileBytes: number,
    private readonly source: Document,
    private readonly faults: ImportFault[],
    private readonly options: ImportOptions,
  ) {}

  async run(): Promise<ImportResult> {
    const root = this.source.getRoot();
    const scene = root.getDefaultScene() ?? root.listScenes()[0];
    if (!scene)
      throw new ImportError('UNREADABLE', `“${this.fileName}” has no scene in it. Export at least one object.`);
    const primitives = root
      .listMeshes()
      .flatMap((m) => m.listPrimitives().map((p) => ({ name: m.getName() || 'mesh', p })));
    for (const [i, { name, p }] of primitives.entries()) {
      this.options.signal?.throwIfAborted();
      this.readMesh(name, p);
      if (this.keeping.length >= AT_ONCE) {
        await Promise.all(this.keeping);
        this.keeping = [];
      }
      if (i % 16 === 0) this.options.onProgress?.((i + 1) / primitives.length);
    }
    const scale = this.options.metresPerUnit ?? 1;
    let top = -1;
    if (scale !== 1) {
      this.nodes.push({
        path: 'Units',
        name: 'Units',
        parent: -1,
        matrix: [scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, 1],
      });
      top = 0;
    }
    // iterative, so that deep hierarchies cannot exhaust the stack
    const pending: { node: Node; parent: number }[] = scene
      .listChildren()
      .map((node) => ({ node, parent: top }))
      .reverse();
    while (pending.length) {
      const { node, parent } = pending.pop()!;
      const index = this.readNode(node, parent);
      this.nodeIndex.set(node, index);
      pending.push(
        ...node
          .listChildren()
          .map((child) => ({ node: child, parent: index }))
          .reverse(),
      );
    }
    const skins = this.readSkins();
    const say = (subject: string, message: string) => this.fault('unread-feature', subject, message);
    const animation = readAnimation(root.listAnimations(), this.nodeIndex, (bytes) => this.keep(bytes), say);
    const moved = new Set(animation?.channels.map((c) => c.node));
    for (const [n, i] of this.nodeIndex)
      if (moved.has(i))
        this.nodes[i] = {
          ...this.nodes[i]!,
          rest: { translation: n.getTranslation(), rotation: n.getRotation(), scale: n.getScale() },
        };
    const document: SceneDocument = {
      version: 1,
      nodes: this.nodes,
      meshes: this.meshes,
      materials: this.materials,
      textures: this.textures,
      lights: this.lights,
      cameras: this.cameras,
      ...(skins.length > 0 && { skins }),
      ...(animation && { animation }),
      ...(this.variants.size > 0 && {
        variants: [...this.variants.values()].map(({ name, wears }) => ({ name, wears: Object.fromEntries(wears) })),
      }),
    };
    await Promise.all(this.keeping);
    return { document, blobs: this.blobs, report: this.report(document) };
  }

  private keep(bytes: Uint8Array): string {
    const blob = this.options.hash(bytes);
    if (this.options.keep) this.keeping.push(Promise.resolve(this.options.keep(blob, bytes)));
    else this.blobs.set(blob, bytes);
    return blob;
  }
  private keeping: Promise<void>[] = [];

  /** Skins of the nodes that wear one, each once; a skin whose joints are not in the scene is left off. */
  private readSkins(): SceneSkin[] {
    const skins: SceneSkin[] = [];
    const known = new Map<Skin, number | undefined>();
    for (const [node, i] of this.nodeIndex) {
      const skin = node.getSkin();
      if (!skin || !this.nodes[i]!.parts) continue;
      if (!known.has(skin)) {
        const read = readSkin(skin, this.nodeIndex);
        known.set(skin, read ? skins.push(read) - 1 : undefined);
      }
      const at = known.get(skin);
      if (at !== undefined) this.nodes[i] = { ...this.nodes[i]!, skin: at };
      else
        this.fault(
          'unread-feature',
          this.nodes[i]!.path,
          `The skin of “${this.nodes[i]!.path}” has joints that are not in the scene; it stands at rest.`,
        );
    }
    return skins;
  }

  private fault(kind: ImportFault['kind'], subject: string, message: string): void {
    this.faults.push({ kind, subject, message });
  }

  private report(d: SceneDocument): ImportReport {
    const objects = d.nodes.filter((n) => n.parts).length;
    const lights = d.nodes.filter((n) => n.light !== undefined).length;
    const cameras = d.nodes.filter((n) => n.camera !== undefined).length;
    return {
      fileName: this.fileName,
      fileBytes: this.fileBytes,
      objects,
      lights,
      cameras,
      groups: d.nodes.filter((n) => !n.parts && n.light === undefined && n.camera === undefined).length,
      materials: d.materials.length,
      meshes: d.meshes.length,
      trianglesStored: storedTriangles(d),
      trianglesPlaced: placedTriangles(d),
      textures: d.textures.length,
      textureBytes: d.textures.reduce((n, t) => n + t.width * t.height * (t.bits === 16 ? 8 : 4), 0),
      sizeM: sceneSize(d),
      faults: this.faults,
    };
  }

  private readNode(node: Node, parent: number): number {
    const name = node.getName() || (node.getMesh()?.getName() ?? 'node');
    const base = parent < 0 ? name : `${this.nodes[parent]!.path}/${name}`;
    const index = this.place(base, name, parent, node.getMatrix());
    const mesh = node.getMesh();
    const instancing = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');
    const parts = mesh
      ?.listPrimitives()
      .map((p): MeshPart | undefined => {
        const m = this.meshIndex.get(p);
        return m === undefined ? undefined : { mesh: m, material: this.readMaterial(p.getMaterial()) };
      })
      .filter((p) => p !== undefined);
    if (parts?.length) {
      if (instancing) this.placeInstances(instancing, name, index, parts);
      else if (this.solid(index)) this.nodes[index] = { ...this.nodes[index]!, parts };
      else this.fault('flat-object', base, `“${base}” is scaled to nothing on an axis and is left out.`);
    }
    if (mesh && parts?.length) this.readVariants(mesh.listPrimitives(), index);
    const layer = node.getExtras()['layer'];
    if (typeof layer === 'string' && layer.trim())
      this.nodes[index] = { ...this.nodes[index]!, layer: layer.trim().slice(0, 120) };
    const weights = node.getWeights().length ? node.getWeights() : (mesh?.getWeights() ?? []);
    if (parts?.length && weights.length) this.nodes[index] = { ...this.nodes[index]!, weights: [...weights] };
    const light = this.readLight(node);
    if (light) this.nodes[index] = { ...this.nodes[index]!, light: this.lights.push(light) - 1 };
    const camera = this.readCamera(node);
    if (camera) this.nodes[index] = { ...this.nodes[index]!, camera: this.cameras.push(camera) - 1 };
    return index;
  }

  /** KHR_materials_variants: which material an object wears in each; only whole objects can change theirs. */
  private readVariants(primitives: readonly Primitive[], index: number): void {
    const lists = primitives
      .map((p) => p.getExtension<MappingList>('KHR_materials_variants'))
      .filter((l) => l !== null);
    const path = this.nodes[index]!.path;
    if (!lists.length) return;
    if (primitives.length > 1)
      return this.fault(
        'approximated',
        path,
        `“${path}” changes the material of one of its ${primitives.length} parts in the file's variants, which is not read.`,
      );
    for (const mapping of lists[0]!.listMappings())
      for (const v of mapping.listVariants()) {
        const name = v.getName() || 'Variant';
        const entry = this.variants.get(name) ?? { name, wears: new Map<string, string>() };
        const material = mapping.getMaterial();
        if (material) entry.wears.set(path, this.materials[this.readMaterial(material)]!.name);
        this.variants.set(name, entry);
      }
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
      this.fault(
        'bad-geometry',
        path,
        `“${path}” has a position that is not a number; it stands at its parent's origin.`,
      );
    return this.nodes.push({ path: unique, name, parent, matrix: clean }) - 1;
  }

  private solid(index: number): boolean {
    let m = this.nodes[index]!.matrix;
    for (let p = this.nodes[index]!.parent; p >= 0; p = this.nodes[p]!.parent) m = multiply(this.nodes[p]!.matrix, m);
    const d = determinant(m);
    return Number.isFinite(d) && Math.abs(d) > 1e-30;
  }

  private placeInstances(instancing: InstancedMesh, name: string, parent: number, parts: readonly MeshPart[]): void {
    const t = instancing.getAttribute('TRANSLATION');
    const r = instancing.getAttribute('ROTATION');
    const s = instancing.getAttribute('SCALE');
    const count = (t ?? r ?? s)?.getCount() ?? 0;
    for (let i = 0; i < count; i++) {
      const at = this.place(
        `${this.nodes[parent]!.path}/${name} ${i + 1}`,
        `${name} ${i + 1}`,
        parent,
        composed({
          translation: element(t, i, [0, 0, 0]),
          rotation: element(r, i, [0, 0, 0, 1]),
          scale: element(s, i, [1, 1, 1]),
        }),
      );
      if (this.solid(at)) this.nodes[at] = { ...this.nodes[at]!, parts };
    }
  }

  private readMesh(name: string, p: Primitive): void {
    this.meshIndex.set(p, undefined);
    const position = p.getAttribute('POSITION');
    if (!position || position.getCount() < 3)
      return this.fault('bad-geometry', name, `Mesh “${name}” has no positions and is left out.`);
    if (p.getMode() < 4)
      return this.fault('unread-feature', name, `Mesh “${name}” is made of points or lines, which are not rendered.`);
    const positions = floats(position, 3);
    const count = position.getCount();
    const raw = triangleIndices(p, count);
    const kept: number[] = [];
    let bad = 0;
    let outside = 0;
    let flat = 0;
    for (let i = 0; i + 2 < raw.length; i += 3) {
      const a = raw[i]!;
      const b = raw[i + 1]!;
      const c = raw[i + 2]!;
      if (a >= count || b >= count || c >= count) {
        outside++;
        continue;
      }
      if (!finite3(positions, a) || !finite3(positions, b) || !finite3(positions, c)) {
        bad++;
        continue;
      }
      if (a === b || b === c || a === c) {
        flat++;
        continue;
      }
      kept.push(a, b, c);
    }
    if (bad)
      this.fault(
        'bad-geometry',
        name,
        `${bad} triangles of “${name}” have positions that are not numbers and are left out.`,
      );
    if (outside)
      this.fault(
        'bad-geometry',
        name,
        `${outside} triangles of “${name}” refer to vertices that do not exist and are left out.`,
      );
    if (flat) this.fault('degenerate-triangles', name, `${flat} triangles of “${name}” have no area and are left out.`);
    if (!kept.length) return this.fault('bad-geometry', name, `Mesh “${name}” has no triangles left and is left out.`);
    for (let i = 0; i < positions.length; i++) if (!Number.isFinite(positions[i]!)) positions[i] = 0;
    const attribute = (semantic: string, size: number) => {
      const a = p.getAttribute(semantic);
      return a && a.getCount() === count ? floats(a, size) : undefined;
    };
    const color = p.getAttribute('COLOR_0');
    const geometry: Geometry = {
      positions,
      normals: attribute('NORMAL', 3),
      uv0: attribute('TEXCOORD_0', 2),
      uv1: attribute('TEXCOORD_1', 2),
      colors: color && color.getCount() === count ? rgba(color) : undefined,
      indices: new Uint32Array(kept),
    };
    for (const a of [geometry.normals, geometry.uv0, geometry.uv1, geometry.colors])
      if (a) for (let i = 0; i < a.length; i++) if (!Number.isFinite(a[i]!)) a[i] = 0;
    const blob = this.keep(packGeometry(geometry));
    const deform = readDeform(
      p,
      count,
      (bytes) => this.keep(bytes),
      (message) => this.fault('unread-feature', name, `Mesh “${name}”: ${message}`),
    );
    const min: [number, number, number] = [Infinity, Infinity, Infinity];
    const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
    for (const i of kept)
      for (let k = 0; k < 3; k++) {
        min[k] = Math.min(min[k]!, positions[i * 3 + k]!);
        max[k] = Math.max(max[k]!, positions[i * 3 + k]!);
      }
    const at =
      this.meshes.push({
        name,
        blob,
        vertices: count,
        triangles: kept.length / 3,
        normals: !!geometry.normals,
        uv0: !!geometry.uv0,
        uv1: !!geometry.uv1,
        colors: !!geometry.colors,
        min,
        max,
        ...(isClosed(positions, geometry.indices) && { closed: true as const }),
        accelerationBytes: 0,
        ...(deform && { deform }),
      }) - 1;
    this.meshIndex.set(p, at);
    // measured by the engine's own thread while the next mesh is read here
    this.keeping.push(
      this.options.accelerationBytes(name, geometry).then((accelerationBytes) => {
        this.meshes[at] = { ...this.meshes[at]!, accelerationBytes };
      }),
    );
  }

  private readMaterial(m: Material | null): number {
    const known = this.materialIndex.get(m);
    if (known !== undefined) return known;
    const base = m?.getName() || (m ? 'Material' : 'No material');
    let name = base;
    for (let n = 2; this.materialNames.has(name); n++) name = `${base} (${n})`;
    this.materialNames.add(name);
    const volume = m?.getExtension<Volume>('KHR_materials_volume');
    const transmission = m?.getExtension<Transmission>('KHR_materials_transmission');
    const specular = m?.getExtension<Specular>('KHR_materials_specular');
    if (volume?.getThicknessTexture())
      this.fault(
        'unread-texture',
        name,
        `The thickness texture of “${name}” is not read: the surface itself says how thick it is.`,
      );
    if (m?.getOcclusionTexture())
      this.fault(
        'ignored',
        name,
        `The occlusion texture of “${name}” is not used: the renderer finds occlusion itself.`,
      );
    const color = m?.getBaseColorFactor() ?? [1, 1, 1, 1];
    const emissive = m?.getEmissiveFactor() ?? [0, 0, 0];
    const distance = volume?.getAttenuationDistance() ?? Infinity;
    const layers = m ? this.readLayers(m) : undefined;
    const textures: Partial<Record<TextureSlot, TextureRef>> = {};
    const put = (slot: TextureSlot, t: Texture | null | undefined, info: TextureInfo | null | undefined) => {
      const r = t && this.ref(t, info ?? null);
      if (r) textures[slot] = r;
    };
    if (m) {
      const coat = m.getExtension<Clearcoat>('KHR_materials_clearcoat');
      const sheen = m.getExtension<Sheen>('KHR_materials_sheen');
      const stretch = m.getExtension<Anisotropy>('KHR_materials_anisotropy');
      const film = m.getExtension<Iridescence>('KHR_materials_iridescence');
      put('base', m.getBaseColorTexture(), m.getBaseColorTextureInfo());
      put('metallicRoughness', m.getMetallicRoughnessTexture(), m.getMetallicRoughnessTextureInfo());
      put('normal', m.getNormalTexture(), m.getNormalTextureInfo());
      put('emission', m.getEmissiveTexture(), m.getEmissiveTextureInfo());
      put('transmission', transmission?.getTransmissionTexture(), transmission?.getTransmissionTextureInfo());
      put('specular', specular?.getSpecularTexture(), specular?.getSpecularTextureInfo());
      put('specularColor', specular?.getSpecularColorTexture(), specular?.getSpecularColorTextureInfo());
      put('coat', coat?.getClearcoatTexture(), coat?.getClearcoatTextureInfo());
      put('coatRoughness', coat?.getClearcoatRoughnessTexture(), coat?.getClearcoatRoughnessTextureInfo());
      put('coatNormal', coat?.getClearcoatNormalTexture(), coat?.getClearcoatNormalTextureInfo());
      put('sheen', sheen?.getSheenColorTexture(), sheen?.getSheenColorTextureInfo());
      put('sheenRoughness', sheen?.getSheenRoughnessTexture(), sheen?.getSheenRoughnessTextureInfo());
      put('anisotropy', stretch?.getAnisotropyTexture(), stretch?.getAnisotropyTextureInfo());
      put('iridescence', film?.getIridescenceTexture(), film?.getIridescenceTextureInfo());
      put('iridescenceThickness', film?.getIridescenceThicknessTexture(), film?.getIridescenceThicknessTextureInfo());
    }
    const ior = m?.getExtension<IOR>('KHR_materials_ior')?.getIOR() ?? 1.5;
    const index =
      this.materials.push({
        name,
        baseColor: [color[0]!, color[1]!, color[2]!],
        metallic: m?.getMetallicFactor() ?? 0,
        roughness: m?.getRoughnessFactor() ?? 0.8,
        transmission: transmission?.getTransmissionFactor() ?? 0,
        // KHR_materials_ior: 0 stands for a surface that reflects everything at grazing angles and nothing through
        // Fresnel's equations
        ior: ior >= 1 ? ior : 1e4,
        specular: specular?.getSpecularFactor() ?? 1,
        emissionColor: [emissive[0]!, emissive[1]!, emissive[2]!],
        emissionStrength:
          m?.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1,
        normalScale: m?.getNormalScale() ?? 1,
        attenuationColor: (volume?.getAttenuationColor() as Rgb | undefined) ?? [1, 1, 1],
        attenuationDistanceM: Number.isFinite(distance) && distance > 0 ? distance : null,
        solid: (volume?.getThicknessFactor() ?? 0) > 0,
        doubleSided: m?.getDoubleSided() ?? true,
        ...(layers && { layers }),
        textures,
      }) - 1;
    this.materialIndex.set(m, index);
    return index;
  }

  /** Alpha and the further layers; undefined where the material has none. */
  private readLayers(m: Material): MaterialLayers | undefined {
    const coat = m.getExtension<Clearcoat>('KHR_materials_clearcoat');
    const sheen = m.getExtension<Sheen>('KHR_materials_sheen');
    const stretch = m.getExtension<Anisotropy>('KHR_materials_anisotropy');
    const film = m.getExtension<Iridescence>('KHR_materials_iridescence');
    const specularColor = m.getExtension<Specular>('KHR_materials_specular')?.getSpecularColorFactor();
    const mode = m.getAlphaMode();
    const layers: MaterialLayers = {
      ...(mode !== 'OPAQUE' && {
        alphaMode: mode === 'MASK' ? 'mask' : 'blend',
        alpha: m.getBaseColorFactor()[3],
        alphaCutoff: m.getAlphaCutoff(),
      }),
      ...(m.getExtension('KHR_materials_unlit') && { unlit: true }),
      ...(specularColor && specularColor.some((x) => x !== 1) && { specularColor: specularColor as unknown as Rgb }),
      ...(coat &&
        coat.getClearcoatFactor() > 0 && {
          coat: coat.getClearcoatFactor(),
          coatRoughness: coat.getClearcoatRoughnessFactor(),
          coatNormalScale: coat.getClearcoatNormalScale(),
        }),
      ...(sheen && {
        sheen: sheen.getSheenColorFactor() as unknown as Rgb,
        sheenRoughness: sheen.getSheenRoughnessFactor(),
      }),
      ...(stretch &&
        stretch.getAnisotropyStrength() > 0 && {
          anisotropy: stretch.getAnisotropyStrength(),
          anisotropyTurnRad: stretch.getAnisotropyRotation(),
        }),
      ...(film &&
        film.getIridescenceFactor() > 0 && {
          iridescence: film.getIridescenceFactor(),
          iridescenceIor: film.getIridescenceIOR(),
          iridescenceNm: [film.getIridescenceThicknessMinimum(), film.getIridescenceThicknessMaximum()] as const,
        }),
    };
    return Object.keys(layers).length ? layers : undefined;
  }

  private ref(t: Texture | null, info: TextureInfo | null): TextureRef | undefined {
    if (!t) return undefined;
    if (!this.textureIndex.has(t)) this.textureIndex.set(t, this.readTexture(t));
    const texture = this.textureIndex.get(t);
    if (texture === undefined) return undefined;
    const transform = info?.getExtension<Transform>('KHR_texture_transform');
    const [ox, oy] = transform?.getOffset() ?? [0, 0];
    const [sx, sy] = transform?.getScale() ?? [1, 1];
    const a = transform?.getRotation() ?? 0;
    const set = transform?.getTexCoord() ?? info?.getTexCoord() ?? 0;
    if (set > 1)
      this.fault(
        'approximated',
        t.getName() || t.getURI(),
        `Texture coordinate set ${set} is not read; the first is used.`,
      );
    // KHR_texture_transform: translation · rotation · scale, the rotation counter-clockwise in UV space
    const c = Math.cos(a);
    const s = Math.sin(a);
    return {
      texture,
      uvSet: set === 1 ? 1 : 0,
      wrapS: WRAP[info?.getWrapS() ?? 10497] ?? 'repeat',
      wrapT: WRAP[info?.getWrapT() ?? 10497] ?? 'repeat',
      matrix: [c * sx, s * sy, ox, -s * sx, c * sy, oy],
    };
  }

  private readTexture(t: Texture): number | undefined {
    const name = t.getName() || t.getURI() || 'texture';
    if (t.getMimeType() === 'image/ktx2') {
      this.fault(
        'unread-texture',
        name,
        `Texture “${name}” is KTX2 (Basis), which is not read; the surface is as if it had none. Export it as PNG, JPEG or WebP.`,
      );
      return undefined;
    }
    const image = t.getImage();
    const size = t.getSize();
    if (!image || !size) {
      this.fault('missing-texture', name, `Texture “${name}” has no readable image and is left out.`);
      return undefined;
    }
    if (size[0] * size[1] > 16384 * 16384) {
      this.fault(
        'unread-texture',
        name,
        `Texture “${name}” has ${size[0]} × ${size[1]} pixels, more than 16384 × 16384, and is left out.`,
      );
      return undefined;
    }
    const blob = this.keep(image);
    return (
      this.textures.push({
        name,
        blob,
        mediaType: t.getMimeType(),
        width: size[0],
        height: size[1],
        ...(isPng16(image) && { bits: 16 as const }),
      }) - 1
    );
  }

  private readLight(node: Node): SceneLight | undefined {
    const light = node.getExtension<Light>('KHR_lights_punctual');
    const own = node.getExtras()['variscen_light'] as
      | { type?: unknown; widthM?: unknown; heightM?: unknown; color?: unknown; nits?: unknown; radiusM?: unknown }
      | undefined;
    if ((own?.type === 'rectangle' || own?.type === 'disc') && isPositive(own.nits)) {
      const c =
        Array.isArray(own.color) && own.color.length === 3 && own.color.every((x) => typeof x === 'number')
          ? (own.color as unknown as Rgb)
          : ([1, 1, 1] as const);
      if (own.type === 'disc' && isPositive(own.radiusM))
        return { type: 'disc', radiusM: own.radiusM, color: c, intensity: own.nits };
      if (own.type === 'rectangle' && isPositive(own.widthM) && isPositive(own.heightM))
        return { type: 'rectangle', widthM: own.widthM, heightM: own.heightM, color: c, intensity: own.nits };
    }
    if (!light) return undefined;
    const color = light.getColor() as unknown as Rgb;
    const intensity = light.getIntensity();
    const radiusM = isPositive(own?.radiusM) ? own.radiusM : 0;
    switch (light.getType()) {
      case 'directional':
        return { type: 'sun', color, intensity, angularDiameterRad: SUN_ANGLE_RAD };
      case 'point':
        return { type: 'point', color, intensity, radiusM };
      default:
        return {
          type: 'spot',
          color,
          intensity,
          radiusM,
          innerConeRad: light.getInnerConeAngle(),
          outerConeRad: light.getOuterConeAngle(),
        };
    }
  }

  private readCamera(node: Node): SceneCamera | undefined {
    const camera = node.getCamera();
    if (!camera) return undefined;
    const own = node.getExtras()['variscen_camera'] as
      { widthPx?: unknown; heightPx?: unknown; focusDistanceM?: unknown; fStop?: unknown } | undefined;
    const perspective = camera.getType() === 'perspective';
    const aspect = perspective ? (camera.getAspectRatio() ?? 16 / 9) : camera.getXMag() / camera.getYMag();
    const usualWidthPx = aspect >= 1 ? 1920 : Math.round(1920 * aspect);
    const widthPx = isPositive(own?.widthPx) ? Math.round(own.widthPx) : usualWidthPx;
    const heightPx = isPositive(own?.heightPx) ? Math.round(own.heightPx) : Math.max(1, Math.round(widthPx / aspect));
    return {
      projection: perspective ? 'perspective' : 'orthographic',
      halfHeight: perspective ? Math.tan(camera.getYFov() / 2) : camera.getYMag(),
      nearM: Math.max(0.001, camera.getZNear()),
      farM: Number.isFinite(camera.getZFar()) && camera.getZFar() ? camera.getZFar()! : 10_000,
      widthPx,
      heightPx,
      ...(isPositive(own?.focusDistanceM) && { focusDistanceM: own.focusDistanceM }),
      ...(isPositive(own?.fStop) && { fStop: own.fStop }),
    };
  }
}

/** A PNG says its bits a channel in the 25th byte (PNG specification, IHDR). */
const isPng16 = (b: Uint8Array): boolean => b[0] === 0x89 && b[1] === 0x50 && b[24] === 16;
const isPositive = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x) && x > 0;
const finite3 = (p: Float32Array, i: number) =>
  Number.isFinite(p[i * 3]!) && Number.isFinite(p[i * 3 + 1]!) && Number.isFinite(p[i * 3 + 2]!);
const element = (a: Accessor | null, i: number, fallback: number[]): number[] => (a ? a.getElement(i, []) : fallback);

function floats(a: Accessor, size: number): Float32Array {
  const array = a.getArray();
  if (array instanceof Float32Array && a.getElementSize() === size) return array.slice();
  const out = new Float32Array(a.getCount() * size);
  const e: number[] = [];
  for (let i = 0; i < a.getCount(); i++) {
    a.getElement(i, e);
    for (let k = 0; k < size; k++) out[i * size + k] = e[k] ?? 0;
  }
  return out;
}
function rgba(a: Accessor): Float32Array {
  const size = a.getElementSize();
  const three = floats(a, size);
  if (size === 4) return three;
  const out = new Float32Array(a.getCount() * 4).fill(1);
  for (let i = 0; i < a.getCount(); i++) out.set(three.subarray(i * 3, i * 3 + 3), i * 4);
  return out;
}

/** Triangles of a list, strip or fan. */
function triangleIndices(p: Primitive, vertices: number): ArrayLike<number> {
  const given = p.getIndices()?.getArray() ?? Uint32Array.from({ length: vertices }, (_, i) => i);
  if (p.getMode() === 4) return given;
  const out: number[] = [];
  for (let i = 0; i + 2 < given.length; i++) {
    if (p.getMode() === 6) out.push(given[0]!, given[i + 1]!, given[i + 2]!);
    else if (i % 2) out.push(given[i + 1]!, given[i]!, given[i + 2]!);
    else out.push(given[i]!, given[i + 1]!, given[i + 2]!);
  }
  return out;
}

/** Extent of all objects' boxes, metres. */
function sceneSize(d: SceneDocument): [number, number, number] {
  const world = worldMatrices(d.nodes);
  const lo = [Infinity, Infinity, Infinity];
  const hi = [-Infinity, -Infinity, -Infinity];
  d.nodes.forEach((n, i) =>
    n.parts?.forEach((p) => {
      const { min, max } = d.meshes[p.mesh]!;
      for (let c = 0; c < 8; c++)
        transformPoint(world[i]!, [c & 1 ? max[0] : min[0], c & 2 ? max[1] : min[1], c & 4 ? max[2] : min[2]]).forEach(
          (x, k) => {
            lo[k] = Math.min(lo[k]!, x);
            hi[k] = Math.max(hi[k]!, x);
          },
        );
    }),
  );
  return lo[0] === Infinity ? [0, 0, 0] : [hi[0]! - lo[0]!, hi[1]! - lo[1]!, hi[2]! - lo[2]!];
}
