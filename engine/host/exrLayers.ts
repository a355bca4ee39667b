// A picture's planes as named channels of an OpenEXR file: layers "depth", "normal" …, and Cryptomatte 1.2 with its manifest.
import type { ExrChannel } from '@variscen/core/image';
import type { Aov } from '@variscen/core/plan';
import { CRYPTO_RANKS } from '../kernel/layout.ts';
import { cryptomatteId, hex } from './cryptomatte.ts';
import type { Picture } from './film.ts';
import type { PlaneName } from './scene.ts';

export interface LayerOptions {
  /** What R, G, B, A hold instead of the picture as traced, which then becomes the layer “traced”. */
  readonly delivered?: Float32Array;
  readonly aovs: readonly Aov[];
  /** Depths that the depth layer's range channel shows as 0 and 1. */
  readonly depthRangeM: readonly [number, number];
  /** Names in the picture, for the manifests. */
  readonly objects: readonly string[];
  readonly materials: readonly string[];
  /** Names of the light groups, and their denoised light where the picture was denoised. */
  readonly lightGroups?: readonly string[];
  readonly deliveredGroups?: Float32Array;
}

const VECTORS: Partial<Readonly<Record<Aov, { readonly plane: PlaneName; readonly parts: string; readonly type: 'half' | 'float' }>>> = {
  position: { plane: 'position', parts: 'XYZ', type: 'float' }, normal: { plane: 'normal', parts: 'XYZ', type: 'half' }, geometricNormal: { plane: 'geometricNormal', parts: 'XYZ', type: 'half' },
  albedo: { plane: 'albedo', parts: 'RGB', type: 'half' }, emission: { plane: 'emission', parts: 'RGB', type: 'half' }, direct: { plane: 'direct', parts: 'RGB', type: 'half' }, indirect: { plane: 'indirect', parts: 'RGB', type: 'half' },
};
const part = (data: ArrayLike<number>, n: number, stride: number, offset: number): Float32Array => { const out = new Float32Array(n); for (let i = 0; i < n; i++) out[i] = data[i * stride + offset]!; return out; };

/** R, G, B, A and what was asked for. Depth is −Z of the camera in metres (depth.Z) and its place in the range (depth.range, 1 where nothing is). */
export function exrLayers(p: Picture, o: LayerOptions): { channels: ExrChannel[]; metadata: Record<string, string> } {
  const n = p.width * p.height, channels: ExrChannel[] = ['R', 'G', 'B', 'A'].map((name, k) => ({ name, type: 'half', data: part(o.delivered ?? p.rgba, n, 4, k) })), metadata: Record<string, string> = {};
  if (o.delivered) ['R', 'G', 'B'].forEach((c, k) => channels.push({ name: `traced.${c}`, type: 'half', data: part(p.rgba, n, 4, k) }));
  for (const aov of o.aovs) {
    const v = VECTORS[aov], plane = v && p.planes[v.plane];
    if (v && plane) [...v.parts].forEach((c, k) => channels.push({ name: `${aov}.${c}`, type: v.type, data: part(plane, n, 3, k) }));
    else if (aov === 'depth' && p.planes.depth) {
      const [near, far] = o.depthRangeM, depth = p.planes.depth;
      channels.push({ name: 'depth.Z', type: 'float', data: depth.map((z, i) => (p.rgba[i * 4 + 3]! > 0 ? z : Infinity)) }, { name: 'depth.range', type: 'float', data: depth.map((z, i) => (p.rgba[i * 4 + 3]! > 0 ? Math.min(1, Math.max(0, (z - near) / Math.max(1e-6, far - near))) : 1)) });
    } else if (aov === 'samples') channels.push({ name: 'samples.N', type: 'float', data: p.samples });
    else if (aov === 'noise') channels.push({ name: 'noise.Y', type: 'half', data: standardError(p) });
    else if (aov === 'motion' && p.planes.motion) [...'XY'].forEach((c, k) => channels.push({ name: `motion.${c}`, type: 'float', data: part(p.planes.motion!, n, 2, k) }));
    else if (aov === 'lightGroups' && p.planes.groups) o.lightGroups?.forEach((group, g) => [...'RGB'].forEach((c, k) => channels.push({ name: `light.${group}.${c}`, type: 'half', data: part((o.deliveredGroups ?? p.planes.groups!).subarray(g * n * 3, (g + 1) * n * 3), n, 3, k) })));
    else if (aov === 'objects' || aov === 'materials') cryptomatte(p, aov, aov === 'objects' ? o.objects : o.materials, channels, metadata);
  }
  return { channels, metadata };
}

/** Standard error of each pixel's luminance, nits. */
export function standardError(p: Picture): Float32Array {
  const n = p.width * p.height, out = new Float32Array(n), m = p.planes.moment;
  if (m) for (let i = 0; i < n; i++) {
    const sd = [0, 1, 2].map((c) => Math.sqrt(Math.max(0, m[i * 3 + c]! - p.rgba[i * 4 + c]! ** 2)));
    out[i] = (0.2126 * sd[0]! + 0.7152 * sd[1]! + 0.0722 * sd[2]!) / Math.sqrt(Math.max(1, p.samples[i]! - 1));
  }
  return out;
}

function cryptomatte(p: Picture, kind: 'objects' | 'materials', names: readonly string[], channels: ExrChannel[], metadata: Record<string, string>): void {
  const plane = p.planes[kind], n = p.width * p.height;
  if (!plane) return;
  const layer = kind === 'objects' ? 'CryptoObject' : 'CryptoMaterial', key = `cryptomatte/${hex(cryptomatteId(layer)).slice(0, 7)}`, stride = CRYPTO_RANKS * 2, sorted = new Float32Array(plane.length), order = Array.from({ length: CRYPTO_RANKS }, (_, r) => r);
  // ids are copied as bits, never as numbers; ranks by falling coverage
  const from = new Uint32Array(plane.buffer, plane.byteOffset, plane.length), to = new Uint32Array(sorted.buffer);
  for (let i = 0; i < n; i++) {
    order.sort((a, b) => plane[i * stride + b * 2 + 1]! - plane[i * stride + a * 2 + 1]! || a - b);
    order.forEach((r, k) => { to[i * stride + k * 2] = from[i * stride + r * 2]!; to[i * stride + k * 2 + 1] = from[i * stride + r * 2 + 1]!; });
  }
  for (let pair = 0; pair < CRYPTO_RANKS / 2; pair++) ['R', 'G', 'B', 'A'].forEach((c, k) => { const data = new Float32Array(n), bits = new Uint32Array(data.buffer); for (let i = 0; i < n; i++) bits[i] = to[i * stride + pair * 4 + k]!; channels.push({ name: `${layer}${String(pair).padStart(2, '0')}.${c}`, type: 'float', data }); });
  metadata[`${key}/name`] = layer; metadata[`${key}/hash`] = 'MurmurHash3_32'; metadata[`${key}/conversion`] = 'uint32_to_float32';
  metadata[`${key}/manifest`] = JSON.stringify(Object.fromEntries([...new Set(names)].map((name) => [name, hex(cryptomatteId(name))])));
}
