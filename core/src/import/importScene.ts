// A scene file into a scene document and its blobs. Pure: bytes in, document, blobs and report out. What is not
// understood is reported by name, never dropped silently; what cannot be opened at all is an ImportError that says why.
import type { Document, Mesh, Scene } from '@gltf-transform/core';
import { type Geometry, ImportError, type ImportFault, type ImportReport, type SceneDocument } from '../scene/index.ts';
import { Gathered } from './gathered.ts';
import { Materials } from './importMaterials.ts';
import { Meshes } from './importMeshes.ts';
import { readAnimation } from './importMotion.ts';
import { Nodes } from './importNodes.ts';
import { reportOf } from './importReport.ts';
import { type CheckImage, Textures } from './importTextures.ts';
import { objToGltf } from './objToGltf.ts';
import { openFiles } from './openFiles.ts';
import { checkNumbers } from './soundNumbers.ts';
import { readGltf, unreadable } from './readGltf.ts';

/** Meshes between two reports of progress. */
const REPORTED_EVERY = 16;

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
  /** Without, images are taken as they are. */
  readonly checkImage?: CheckImage;
  readonly onProgress?: (fraction: number) => void;
  readonly signal?: AbortSignal | undefined;
}
export interface ImportResult {
  readonly document: SceneDocument;
  readonly blobs: ReadonlyMap<string, Uint8Array>;
  readonly report: ImportReport;
}

/** Reads a .glb, .gltf or .obj, alone or in a zip with the files that it needs. @throws ImportError */
export async function importScene(fileName: string, bytes: Uint8Array, options: ImportOptions): Promise<ImportResult> {
  try {
    const files = await openFiles(fileName, bytes);
    const source = files.kind === 'obj' ? await objToGltf(files) : await readGltf(fileName, files);
    return await readDocument({ fileName, fileBytes: bytes.length, faults: files.faults }, source, options);
  } catch (e) {
    // a file may be other than it seems in more ways than are looked for
    if (e instanceof TypeError || e instanceof RangeError) throw unreadable(fileName, e);
    throw e;
  }
}

interface FileRead {
  readonly fileName: string;
  readonly fileBytes: number;
  /** What was found when it was opened; what is found from here on joins it. */
  readonly faults: ImportFault[];
}
async function readDocument(file: FileRead, source: Document, options: ImportOptions): Promise<ImportResult> {
  const root = source.getRoot();
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  if (!scene) throw new ImportError('UNREADABLE', `“${file.fileName}” has no scene in it. Export at least one object.`);
  const gathered = new Gathered(file.faults, options);
  const textures = new Textures(gathered, options.checkImage);
  const materials = new Materials(gathered, textures);
  const meshes = new Meshes(gathered, options.accelerationBytes);
  remarkOnScenes(root.listScenes(), scene, gathered);
  await readMeshes(meshes, scene, gathered, options);
  meshes.remark();
  const nodes = new Nodes(gathered, meshes, materials);
  nodes.readAll(scene.listChildren(), options.metresPerUnit ?? 1);
  const skins = nodes.readSkins();
  const say = (subject: string, message: string) => gathered.fault('unread-feature', subject, message);
  const animation = readAnimation(root.listAnimations(), nodes.indices, gathered.keep, say);
  nodes.keepRest(new Set(animation?.channels.map((c) => c.node)));
  const variants = [...nodes.variants.values()].map(({ name, wears }) => ({ name, wears: Object.fromEntries(wears) }));
  await gathered.settled();
  const document: SceneDocument = {
    version: 1,
    nodes: nodes.list,
    meshes: meshes.list,
    materials: materials.list,
    textures: textures.list,
    lights: nodes.lights,
    cameras: nodes.cameras,
    ...(skins.length > 0 && { skins }),
    ...(animation && { animation }),
    ...(variants.length > 0 && { variants }),
  };
  checkNumbers(file.fileName, document);
  return { document, blobs: gathered.blobs, report: reportOf(document, file) };
}

function remarkOnScenes(all: readonly Scene[], read: Scene, gathered: Gathered): void {
  const others = all.filter((s) => s !== read);
  if (!others.length) return;
  const name = (s: Scene) => `“${s.getName() || `scene ${all.indexOf(s) + 1}`}”`;
  gathered.fault(
    'ignored',
    name(others[0]!),
    `The file has ${all.length} scenes; ${name(read)} comes in, and ${others.map(name).join(', ')} not. Export the others as files of their own.`,
  );
}

/** The meshes of what stands in the scene, each once. */
async function readMeshes(meshes: Meshes, scene: Scene, gathered: Gathered, options: ImportOptions): Promise<void> {
  const worn = new Set<Mesh>();
  scene.traverse((node) => {
    const mesh = node.getMesh();
    if (mesh) worn.add(mesh);
  });
  const primitives = [...worn].flatMap((m) => m.listPrimitives().map((p) => ({ name: m.getName() || 'mesh', p })));
  for (const [i, { name, p }] of primitives.entries()) {
    options.signal?.throwIfAborted();
    meshes.read(name, p);
    await gathered.ease();
    if (i % REPORTED_EVERY === 0) options.onProgress?.((i + 1) / primitives.length);
  }
}
