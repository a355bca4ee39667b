// From the bytes of a .glb, .gltf, .obj or a .zip of them to a scene's text and its resources, with everything unsafe
// refused by name before any of it is used.
import { ImportError, type ImportFault } from '../scene/index.ts';
import { checkShape } from './gltfShape.ts';
import { cleanText } from './names.ts';
import { readZip } from './readZip.ts';

export interface ObjFiles {
  readonly kind: 'obj';
  readonly name: string;
  readonly text: string;
  /** What lies beside it, by path. */
  readonly files: Readonly<Record<string, Uint8Array<ArrayBuffer>>>;
  readonly faults: ImportFault[];
}
export interface GltfFiles {
  readonly kind: 'gltf';
  readonly json: GltfJson;
  readonly resources: Record<string, Uint8Array<ArrayBuffer>>;
  readonly faults: ImportFault[];
}
interface GltfJson {
  asset?: { version?: string };
  extensionsRequired?: string[];
  extensionsUsed?: string[];
  nodes?: { name?: string; children?: number[] }[];
  images?: { uri?: string; name?: string; mimeType?: string; bufferView?: number }[];
  cameras?: { perspective?: { zfar?: number } }[];
  buffers?: { uri?: string; byteLength?: number }[];
  [key: string]: unknown;
}

const LIMITS = {
  depth: 2_000,
  /** Longer than a string may be. */
  objBytes: 400e6,
};
const GLB_MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
/** A grey pixel that stands in for an image which is not there. */
const GREY_PIXEL =
  'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNoAAAAggCBd81ytgAAAABJRU5ErkJggg==';

export async function openFiles(fileName: string, bytes: Uint8Array): Promise<GltfFiles | ObjFiles> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length >= 12 && view.getUint32(0, true) === GLB_MAGIC)
    return check(fileName, ...openGlb(fileName, bytes, view));
  if (bytes.length >= 4 && bytes[0] === 0x50 && bytes[1] === 0x4b) return openZip(fileName, bytes);
  if (/^\s*\{/.test(new TextDecoder().decode(bytes.subarray(0, 64))))
    return check(fileName, parseJson(fileName, bytes), {});
  if (/\.obj$/i.test(fileName) && looksLikeObj(bytes)) return obj(fileName, bytes, {});
  throw new ImportError(
    'UNKNOWN_FORMAT',
    `“${fileName}” is not a scene that can be read. Variscen reads glTF 2.0 (.glb, .gltf) and .obj, alone or with the files they need, dropped together or in a .zip.`,
  );
}

function openGlb(fileName: string, bytes: Uint8Array, view: DataView): [GltfJson, Record<string, Uint8Array>] {
  const version = view.getUint32(4, true);
  const length = view.getUint32(8, true);
  if (version !== 2)
    throw new ImportError('UNREADABLE', `“${fileName}” is glTF version ${version}. Export it as glTF 2.0.`);
  if (length > bytes.length)
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” is cut short: it should have ${length} bytes and has ${bytes.length}. Copy or export it again.`,
    );
  let at = 12;
  let json: GltfJson | undefined;
  const resources: Record<string, Uint8Array> = {};
  while (at + 8 <= length) {
    const size = view.getUint32(at, true);
    const type = view.getUint32(at + 4, true);
    if (at + 8 + size > length)
      throw new ImportError('UNREADABLE', `“${fileName}” has a chunk that runs past its end. Export it again.`);
    const chunk = bytes.subarray(at + 8, at + 8 + size);
    if (type === JSON_CHUNK && !json) json = parseJson(fileName, chunk);
    else if (json && !resources['@glb.bin']) resources['@glb.bin'] = chunk;
    at += 8 + size + ((4 - (size % 4)) % 4);
  }
  if (!json) throw new ImportError('UNREADABLE', `“${fileName}” holds no scene description. Export it again.`);
  return [json, resources];
}

const looksLikeObj = (bytes: Uint8Array): boolean => {
  const start = new TextDecoder().decode(bytes.subarray(0, 4096));
  return !start.includes('\0') && /^\s*(#|v|vn|vt|f|o|g|s|mtllib|usemtl)\b/m.test(start);
};
function obj(fileName: string, bytes: Uint8Array, files: Record<string, Uint8Array>): ObjFiles {
  if (bytes.length > LIMITS.objBytes)
    throw new ImportError(
      'TOO_LARGE',
      `“${fileName}” has ${Math.round(bytes.length / 1e6)} MB of text; an .obj is read up to 400 MB. Export it as .glb, which is also far smaller.`,
    );
  return {
    kind: 'obj',
    name: fileName,
    text: new TextDecoder().decode(bytes),
    files: files as Record<string, Uint8Array<ArrayBuffer>>,
    faults: [],
  };
}

async function openZip(fileName: string, bytes: Uint8Array): Promise<GltfFiles | ObjFiles> {
  const files = await readZip(fileName, bytes);
  const named = (pattern: RegExp) => Object.keys(files).filter((n) => pattern.test(n) && !n.startsWith('__MACOSX'));
  const gltf = named(/\.(glb|gltf)$/i);
  const scenes = gltf.length ? gltf : named(/\.obj$/i);
  const first = scenes[0];
  if (first === undefined) throw new ImportError('UNKNOWN_FORMAT', `“${fileName}” has no .gltf, .glb or .obj in it.`);
  if (scenes.length > 1)
    throw new ImportError(
      'UNKNOWN_FORMAT',
      `“${fileName}” has ${scenes.length} scenes in it (${scenes.slice(0, 3).join(', ')}). Pack one scene a file.`,
    );
  if (/\.glb$/i.test(first)) return openFiles(first, files[first]!);
  if (/\.obj$/i.test(first)) return obj(first, files[first]!, files);
  const folder = first.slice(0, first.lastIndexOf('/') + 1);
  const resources: Record<string, Uint8Array> = {};
  for (const [name, data] of Object.entries(files))
    if (name.startsWith(folder)) resources[name.slice(folder.length)] = data;
  return check(first, parseJson(first, files[first]!), resources);
}

function parseJson(fileName: string, bytes: Uint8Array): GltfJson {
  try {
    const json: unknown = JSON.parse(new TextDecoder().decode(bytes), (_, v: unknown) =>
      typeof v === 'string' ? cleanText(v) : v,
    );
    if (typeof json === 'object' && json !== null && !Array.isArray(json)) return json as GltfJson;
  } catch {
    /* said below */
  }
  throw new ImportError('UNREADABLE', `The scene description in “${fileName}” is not valid JSON. Export it again.`);
}

/** Refuses what would hang or escape; replaces missing images, and says so. */
function check(fileName: string, json: GltfJson, resources: Record<string, Uint8Array>): GltfFiles {
  const faults: ImportFault[] = [];
  checkShape(fileName, json);
  const nodes = json.nodes ?? [];
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach((n, i) =>
    n.children?.forEach((c) => {
      if (!Number.isInteger(c) || c < 0 || c >= nodes.length)
        throw new ImportError(
          'UNREADABLE',
          `Node “${n.name ?? i}” in “${fileName}” has a child ${c} that does not exist. Export it again.`,
        );
      if (parent[c] !== -1)
        throw new ImportError(
          'UNREADABLE',
          `Node “${nodes[c]!.name ?? c}” in “${fileName}” has two parents. Export it again.`,
        );
      parent[c] = i;
    }),
  );
  nodes.forEach((n, i) => {
    let depth = 0;
    for (let k = i; k >= 0; k = parent[k]!)
      if (++depth > LIMITS.depth)
        throw new ImportError(
          'UNSAFE',
          `Node “${n.name ?? i}” in “${fileName}” is nested in itself or more than ${LIMITS.depth} deep. Flatten the hierarchy and export it again.`,
        );
  });
  for (const b of json.buffers ?? []) {
    if (b.uri === undefined || b.uri.startsWith('data:')) continue;
    const path = pathOf(b.uri);
    if (path === undefined)
      throw new ImportError(
        'UNSAFE',
        `“${fileName}” refers to “${b.uri}”, outside its folder. Only files beside the scene are read.`,
      );
    if (!isThere(resources, b.uri, path))
      throw new ImportError(
        'UNREADABLE',
        `“${fileName}” needs its file “${b.uri}”, which is not there. Put both in one zip.`,
      );
  }
  for (const [i, image] of (json.images ?? []).entries()) {
    const name = image.name ?? image.uri ?? `image ${i}`;
    if (image.uri === undefined || image.uri.startsWith('data:')) continue;
    if (isThere(resources, image.uri, pathOf(image.uri))) continue;
    faults.push({
      kind: 'missing-texture',
      subject: name,
      message: `Texture file “${image.uri}” is not there; a plain grey stands in for it.`,
    });
    json.images![i] = { name, uri: GREY_PIXEL, mimeType: 'image/png' };
  }
  return { kind: 'gltf', json, resources: resources as Record<string, Uint8Array<ArrayBuffer>>, faults };
}

/**
 * The path within the scene's folder that a relative reference names (RFC 3986, 5.2.4); undefined: it leads out of it.
 */
function pathOf(uri: string): string | undefined {
  const decoded = decode(uri);
  if (/^[a-z][a-z0-9+.-]*:/i.test(uri) || /^[/\\]/.test(decoded)) return undefined;
  const path: string[] = [];
  for (const step of decoded.split(/[/\\]/)) {
    if (step === '.' || step === '') continue;
    if (step !== '..') path.push(step);
    else if (path.pop() === undefined) return undefined;
  }
  return path.join('/');
}
/** Whether a file is among the resources; where it is, also under the name that refers to it. */
function isThere(resources: Record<string, Uint8Array>, uri: string, path: string | undefined): boolean {
  if (path === undefined) return false;
  const bytes = resources[uri] ?? resources[path];
  if (bytes) resources[uri] = bytes;
  return bytes !== undefined;
}
const decode = (uri: string): string => {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
};
