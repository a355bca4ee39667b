// Whether a glTF's JSON has the shape that glTF 2.0 says, as far as reading it trusts that, and claims no more than it
// brings. What is wrong is said by its place.
import { ImportError } from '../scene/index.ts';

const LISTS = [
  'accessors',
  'animations',
  'buffers',
  'bufferViews',
  'cameras',
  'images',
  'materials',
  'meshes',
  'nodes',
  'samplers',
  'scenes',
  'skins',
  'textures',
];
const COMPONENT_BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const COMPONENTS: Readonly<Record<string, number>> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
};
/** Of accessors that bring no data, or little: zeros that a few bytes ask for. */
const MOST_CLAIMED_BYTES = 256 * 2 ** 20;
/** Of meshes that are packed: far more than any scene that a machine can hold. */
const MOST_UNPACKED_BYTES = 4 * 2 ** 30;

type Thing = Readonly<Record<string, unknown>>;
const isThing = (x: unknown): x is Thing => typeof x === 'object' && x !== null && !Array.isArray(x);
const isIndex = (x: unknown): x is number => Number.isInteger(x) && (x as number) >= 0;

/** @throws ImportError */
export function checkShape(fileName: string, json: Thing): void {
  const refuse = (what: string): never => {
    throw new ImportError('UNREADABLE', `${what} in “${fileName}” is not as glTF 2.0 has it. Export it again.`);
  };
  const { asset } = json;
  if (!isThing(asset) || typeof asset['version'] !== 'string' || !asset['version'].startsWith('2.'))
    throw new ImportError('UNREADABLE', `“${fileName}” is not glTF 2.0. Export it as glTF 2.0.`);
  for (const list of LISTS) {
    const all = json[list];
    if (all === undefined) continue;
    if (!Array.isArray(all)) refuse(`The list “${list}”`);
    (all as unknown[]).forEach((x, i) => isThing(x) || refuse(`Entry ${i} of “${list}”`));
  }
  for (const list of ['extensionsUsed', 'extensionsRequired']) {
    const all = json[list];
    if (all !== undefined && !(Array.isArray(all) && all.every((x) => typeof x === 'string')))
      refuse(`The list “${list}”`);
  }
  thingsOf(json, 'nodes').forEach((n, i) => {
    if (n['children'] !== undefined && !(Array.isArray(n['children']) && n['children'].every(isIndex)))
      refuse(`What node ${nameOf(n, i)} holds`);
  });
  for (const list of LISTS)
    thingsOf(json, list).forEach((x, i) => {
      for (const key of ['name', 'uri'])
        if (x[key] !== undefined && typeof x[key] !== 'string') refuse(`The ${key} of entry ${i} of “${list}”`);
    });
  thingsOf(json, 'meshes').forEach((m, i) => {
    const primitives = m['primitives'];
    const isSound = Array.isArray(primitives) && primitives.every((p) => isThing(p) && isThing(p['attributes']));
    if (!isSound) refuse(`Mesh ${nameOf(m, i)}`);
  });
  checkClaims(fileName, json, refuse);
}

function checkClaims(fileName: string, json: Thing, refuse: (what: string) => never): void {
  const views = thingsOf(json, 'bufferViews');
  let claimed = 0;
  thingsOf(json, 'accessors').forEach((a, i) => {
    const size = COMPONENT_BYTES[a['componentType'] as number];
    const components = COMPONENTS[a['type'] as string];
    const count = a['count'];
    if (size === undefined || components === undefined || !isIndex(count)) return refuse(`Accessor ${i}`);
    const bytes = size * components * count;
    const view = a['bufferView'] === undefined ? undefined : views[a['bufferView'] as number];
    if (a['bufferView'] !== undefined && !view) refuse(`Accessor ${i}`);
    if (!view || isPacked(view)) claimed += bytes;
    else if (bytes > Number(view['byteLength'])) refuse(`Accessor ${i}, which asks for more than its data,`);
  });
  const most = views.some(isPacked) || isDraco(json) ? MOST_UNPACKED_BYTES : MOST_CLAIMED_BYTES;
  if (claimed > most)
    throw new ImportError(
      'UNSAFE',
      `“${fileName}” asks for ${Math.round(claimed / 1e6)} MB of positions that it does not bring. Export it again.`,
    );
}

const thingsOf = (json: Thing, list: string): readonly Thing[] => (json[list] as Thing[] | undefined) ?? [];
const nameOf = (x: Thing, i: number): string => (typeof x['name'] === 'string' ? `“${x['name']}”` : String(i));
const isPacked = (view: Thing): boolean =>
  isThing(view['extensions']) && 'EXT_meshopt_compression' in view['extensions'];
const isDraco = (json: Thing): boolean =>
  (json['extensionsUsed'] as string[] | undefined)?.includes('KHR_draco_mesh_compression') ?? false;
