// How long it takes to know which of many cells are out of date: all of them, and after one edit. In a worker thread,
// as the server does it.
import { Worker, isMainThread, parentPort } from 'node:worker_threads';
import {
  CellHashes,
  type CellSources,
  type Change,
  FACETS,
  SceneIndex,
  cellHash,
  inputsOf,
  layersOf,
  mergeChanges,
  propertiesFor,
  resolve,
} from '@variscen/core/looks';
import { IDENTITY, type SceneDocument, cameraForScene } from '@variscen/core/scene';
import type { Emit } from './figure.ts';

const OBJECTS = 20_000;
const OPTIONS = 40;
const CHANGES = 2000;
const VARIANTS = 60;
const CAMERAS = 8;
const ROUNDS = 5;

/** 20,000 objects, a tenth of them lights, of 400 materials. */
function scene(): SceneDocument {
  const nodes = Array.from({ length: OBJECTS }, (_, i) => ({
    path: `Fair/Lane ${i % 50}/Thing ${i}`,
    name: `Thing ${i}`,
    parent: -1,
    matrix: IDENTITY,
    ...(i % 10 === 0 ? { light: 0 } : { parts: [{ mesh: 0, material: i % 400 }] }),
  }));
  const material = (i: number) => ({
    name: `Material ${i}`,
    baseColor: [0.5, 0.5, 0.5] as const,
    metallic: 0,
    roughness: 0.5,
    transmission: 0,
    ior: 1.5,
    specular: 1,
    emissionColor: [0, 0, 0] as const,
    emissionStrength: 1,
    normalScale: 1,
    attenuationColor: [1, 1, 1] as const,
    attenuationDistanceM: null,
    solid: false,
    doubleSided: false,
    textures: {},
  });
  return {
    version: 1,
    nodes,
    meshes: [],
    materials: Array.from({ length: 400 }, (_, i) => material(i)),
    textures: [],
    cameras: [],
    lights: [{ type: 'point', color: [1, 1, 1], intensity: 10, radiusM: 0.1 }],
  };
}
/** 40 options of the four facets that hold thousands of changes, each variant of one of each. */
function sources(index: SceneIndex): CellSources {
  const kinds = FACETS.filter((f) => ['lighting', 'materials', 'visibility', 'placement'].includes(f));
  const d = index.document;
  const targets = {
    lighting: d.nodes.filter((n) => n.light !== undefined).map((n) => `light:${n.path}`),
    materials: d.materials.map((m) => `material:${m.name}`),
    visibility: d.nodes.map((n) => `object:${n.path}`),
    placement: d.nodes.map((n) => `object:${n.path}`),
  };
  const value = (type: string, k: number) => {
    if (type === 'boolean') return false;
    if (type === 'number') return 0.25 + (k % 7) / 10;
    if (type === 'choice') return '2';
    return [0.25, 0.5, (k % 9) / 10];
  };
  const options = Array.from({ length: OPTIONS }, (_, o) => {
    const facet = kinds[o % kinds.length]! as keyof typeof targets;
    const changes: Change[] = [];
    for (let k = 0; changes.length < CHANGES; k++)
      for (const p of propertiesFor(index, targets[facet][(o * 131 + k) % targets[facet].length]!)
        .filter((x) => x.facet === facet && x.type !== 'choice')
        .slice(0, 5))
        if (changes.length < CHANGES)
          changes.push({
            target: targets[facet][(o * 131 + k) % targets[facet].length]!,
            property: p.id,
            value: value(p.type, k) as Change['value'],
          });
    return { id: `o${o}`, facet, name: `Option ${o}`, changes: mergeChanges([], changes) };
  });
  const camera = cameraForScene({ ...d, nodes: [] });
  return {
    base: [],
    options,
    patches: [{ cameraId: 'c0', variantId: null, changes: options[0]!.changes.slice(0, 50) }],
    cameras: Array.from({ length: CAMERAS }, (_, i) => ({
      id: `c${i}`,
      settings: { ...camera, nearM: 0.1 + i / 100 },
    })),
    variants: Array.from({ length: VARIANTS }, (_, v) => ({
      id: `v${v}`,
      optionIds: kinds.map((_f, k) => `o${((v * 7 + k * 11) % (OPTIONS / kinds.length)) * kinds.length + k}`),
    })),
  };
}

const median = (x: number[]): number => [...x].sort((a, b) => a - b)[x.length >> 1]!;
function measure(): { all: number; edit: number; touched: number } {
  const index = new SceneIndex(scene());
  const p = sources(index);
  const all: number[] = [];
  const edits: number[] = [];
  let touched = 0;
  for (let r = 0; r < ROUNDS; r++) {
    // nothing is known before: changes are other objects each time, as after reading them
    const fresh: CellSources = {
      ...p,
      options: p.options.map((o) => ({ ...o, changes: o.changes.map((c) => ({ ...c })) })),
    };
    const began = performance.now();
    const hashes = new CellHashes(index, 's'.repeat(64));
    const before = hashes.all(fresh);
    all.push(performance.now() - began);
    const [first] = fresh.options;
    const edited: CellSources = {
      ...fresh,
      options: fresh.options.map((o) =>
        o === first ? { ...o, changes: mergeChanges(o.changes, [{ ...o.changes[0]!, value: 7 + r }]) } : o,
      ),
    };
    const again = performance.now();
    const after = hashes.all(edited);
    edits.push(performance.now() - again);
    touched = after.filter((h, i) => h.cell !== before[i]!.cell).length;
    if (r === 0) {
      const v = edited.variants[0]!;
      const c = edited.cameras[0]!;
      if (cellHash(inputsOf('s'.repeat(64), c.settings, resolve(index, layersOf(edited, v, c.id)))) !== after[0]!.cell)
        throw new Error('A hash of many differs from that of one.');
    }
  }
  return { all: median(all), edit: median(edits), touched };
}

export async function resolveSuite(emit: Emit): Promise<void> {
  const result = await new Promise<ReturnType<typeof measure>>((done, failed) => {
    const w = new Worker(new URL(import.meta.url));
    w.once('message', done);
    w.once('error', failed);
  });
  if (!result.touched) throw new Error('The edit changed no cell.');
  emit({ name: 'all-480-cells', value: result.all, unit: 'ms' });
  emit({ name: 'one-edit', value: result.edit, unit: 'ms' });
  emit({ name: 'one-edit-cells', value: result.touched, unit: 'cells' });
}
if (!isMainThread) parentPort?.postMessage(measure());
