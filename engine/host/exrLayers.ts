// A picture's planes as named channels of an OpenEXR file: layers "depth", "normal" …, and Cryptomatte 1.2 with its
// manifest.
import { type ExrChannel, LIGHTS_ATTRIBUTE } from '@variscen/core/image';
import type { Aov, Profile } from '@variscen/core/plan';
import { lightLayerNames } from './apartLights.ts';
import { PLANE } from '../kernel/layout/index.ts';
import { type CaughtLight, shadowLayer } from './caught.ts';
import { cryptomatteId, hex } from './cryptomatte.ts';
import type { Picture } from './film.ts';
import { doubtOf } from './leftOut.ts';
import type { PlaneName } from './renderSettings.ts';

/** A channel, and the AOV that it is of; absent: of the picture itself. */
export interface LayerChannel extends ExrChannel {
  readonly aov?: Aov;
}

export interface LayerOptions {
  /** What R, G, B, A hold instead of the picture as traced, which then becomes the layer “traced”. */
  readonly delivered?: Float32Array;
  /** What that layer holds instead of the film: it without its shadow catchers. */
  readonly traced?: Float32Array;
  readonly aovs: readonly Aov[];
  /** Of them those that are written as floats, whatever their usual type is. */
  readonly floatAovs?: readonly Aov[];
  /** Of the picture. */
  readonly type?: 'half' | 'float';
  /** Depths that the depth layer's range channel shows as 0 and 1. */
  readonly depthRangeM: readonly [number, number];
  /** Names in the picture, for the manifests. */
  readonly objects: readonly string[];
  readonly materials: readonly string[];
  /** Names of the light groups, and their denoised light where the picture was denoised. */
  readonly lightGroups?: readonly string[];
  readonly deliveredGroups?: Float32Array;
  /** Of the groups those that are written; absent or null: all; 'lights': they are targets of single sources. */
  readonly writtenGroups?: Profile['lightGroups'];
  /** Light on shadow catchers. */
  readonly caught?: CaughtLight;
}

const VECTORS: Partial<
  Readonly<Record<Aov, { readonly plane: PlaneName; readonly parts: string; readonly type: 'half' | 'float' }>>
> = {
  position: { plane: 'position', parts: 'XYZ', type: 'float' },
  normal: { plane: 'normal', parts: 'XYZ', type: 'half' },
  geometricNormal: { plane: 'geometricNormal', parts: 'XYZ', type: 'half' },
  albedo: { plane: 'albedo', parts: 'RGB', type: 'half' },
  emission: { plane: 'emission', parts: 'RGB', type: 'half' },
  direct: { plane: 'direct', parts: 'RGB', type: 'half' },
  indirect: { plane: 'indirect', parts: 'RGB', type: 'half' },
};
/** Channels that lie in a plane: values of pixel i begin at i × stride + offset. */
function parts(
  layer: string,
  names: readonly string[],
  type: ExrChannel['type'],
  data: Float32Array,
  stride: number,
  offset = 0,
): ExrChannel[] {
  return names.map((name, k) => ({ name: layer ? `${layer}.${name}` : name, type, data, stride, offset: offset + k }));
}

/**
 * R, G, B, A and what was asked for, without copies of the planes. Depth is −Z of the camera in metres (depth.Z) and
 * its place in the range (depth.range, 1 where nothing is).
 */
export function exrLayers(p: Picture, o: LayerOptions): { channels: LayerChannel[]; metadata: Record<string, string> } {
  const { type = 'half', floatAovs = [] } = o;
  const channels: LayerChannel[] = parts('', ['R', 'G', 'B', 'A'], type, o.delivered ?? p.rgba, 4);
  if (o.delivered) channels.push(...parts('traced', ['R', 'G', 'B'], type, o.traced ?? p.rgba, 4));
  channels.push(...catcherLayers(p, o.caught));
  const metadata: Record<string, string> = {};
  for (const aov of o.aovs) {
    const own: ExrChannel[] = [];
    if (aov === 'objects' || aov === 'materials')
      cryptomatte(p, aov, aov === 'objects' ? o.objects : o.materials, own, metadata);
    else own.push(...layerOf(aov, p, o));
    if (aov === 'lightGroups' && o.writtenGroups === 'lights')
      metadata[LIGHTS_ATTRIBUTE] = lightsText(o.lightGroups ?? []);
    const isFloat = floatAovs.includes(aov);
    channels.push(...own.map((c) => ({ ...c, aov, type: isFloat ? ('float' as const) : c.type })));
  }
  return { channels, metadata };
}

function layerOf(aov: Exclude<Aov, 'objects' | 'materials'>, p: Picture, o: LayerOptions): ExrChannel[] {
  const vector = VECTORS[aov];
  const plane = vector && p.planes[vector.plane];
  if (plane) return parts(aov, [...vector.parts], vector.type, plane, 3);
  if (aov === 'depth' && p.planes.depth) return depthLayer(p, p.planes.depth, o.depthRangeM);
  if (aov === 'samples') return parts(aov, ['N'], 'float', p.samples, 1);
  if (aov === 'noise') return parts(aov, ['Y'], 'half', standardError(p), 1);
  if (aov === 'motion' && p.planes.motion) return parts(aov, ['X', 'Y'], 'float', p.planes.motion, 2);
  if (aov === 'leftOut') return parts(aov, ['Y'], 'half', doubtOf(p)?.nits ?? new Float32Array(p.width * p.height), 1);
  if (aov === 'lightGroups' && p.planes.groups) return lightGroupLayers(p, o.deliveredGroups ?? p.planes.groups, o);
  return [];
}

function depthLayer(p: Picture, depth: Float32Array, [near, far]: readonly [number, number]): ExrChannel[] {
  const isSomething = (pixel: number) => p.rgba[pixel * 4 + 3]! > 0;
  const inRange = (z: number) => Math.min(1, Math.max(0, (z - near) / Math.max(1e-6, far - near)));
  return [
    { name: 'depth.Z', type: 'float', data: depth.map((z, pixel) => (isSomething(pixel) ? z : Infinity)) },
    { name: 'depth.range', type: 'float', data: depth.map((z, pixel) => (isSomething(pixel) ? inRange(z) : 1)) },
  ];
}

/**
 * Where something is a shadow catcher, asked for or not: what a plate is multiplied with and the catchers' own alpha,
 * then what is added.
 */
function catcherLayers(p: Picture, light: CaughtLight | undefined): ExrChannel[] {
  const { behind } = p.planes;
  if (!light || !behind) return [];
  return [
    ...parts('shadow', ['R', 'G', 'B', 'A'], 'half', shadowLayer(light, behind), 4),
    ...parts('caughtLight', ['R', 'G', 'B'], 'half', light.sent, 3),
  ];
}

/** Groups lie one after another, a whole picture each. */
function lightGroupLayers(
  p: Picture,
  planes: Float32Array,
  { lightGroups = [], writtenGroups }: LayerOptions,
): ExrChannel[] {
  const groupFloats = p.width * p.height * 3;
  const isWritten = (group: string) =>
    writtenGroups === 'lights' || (writtenGroups?.some((own) => own === group) ?? true);
  const names = writtenGroups === 'lights' ? lightLayerNames(lightGroups) : lightGroups;
  return lightGroups.flatMap((group, g) =>
    isWritten(group) ? parts(`light.${names[g]!}`, ['R', 'G', 'B'], 'half', planes, 3, g * groupFloats) : [],
  );
}

/** By layer the target of its source. */
const lightsText = (targets: readonly string[]): string => {
  const names = lightLayerNames(targets);
  return JSON.stringify(Object.fromEntries(targets.map((target, k) => [names[k]!, target])));
};

/** Standard error of each pixel's luminance, nits. */
export function standardError(p: Picture): Float32Array {
  const n = p.width * p.height;
  const out = new Float32Array(n);
  const m = p.planes.moment;
  if (m)
    for (let i = 0; i < n; i++) {
      const sd = [0, 1, 2].map((c) => Math.sqrt(Math.max(0, m[i * 3 + c]! - p.rgba[i * 4 + c]! ** 2)));
      out[i] = (0.2126 * sd[0]! + 0.7152 * sd[1]! + 0.0722 * sd[2]!) / Math.sqrt(Math.max(1, p.samples[i]! - 1));
    }
  return out;
}

function cryptomatte(
  p: Picture,
  kind: 'objects' | 'materials',
  names: readonly string[],
  channels: ExrChannel[],
  metadata: Record<string, string>,
): void {
  const plane = p.planes[kind];
  if (!plane) return;
  const layer = kind === 'objects' ? 'CryptoObject' : 'CryptoMaterial';
  sortRanks(plane, p.width * p.height);
  for (let pair = 0; pair < PLANE.CRYPTO_RANKS / 2; pair++) {
    channels.push(
      ...parts(`${layer}${String(pair).padStart(2, '0')}`, ['R', 'G', 'B', 'A'], 'float', plane, RANK_FLOATS, pair * 4),
    );
  }
  const key = `cryptomatte/${hex(cryptomatteId(layer)).slice(0, 7)}`;
  metadata[`${key}/name`] = layer;
  metadata[`${key}/hash`] = 'MurmurHash3_32';
  metadata[`${key}/conversion`] = 'uint32_to_float32';
  metadata[`${key}/manifest`] = JSON.stringify(
    Object.fromEntries([...new Set(names)].map((name) => [name, hex(cryptomatteId(name))])),
  );
}

/** An id and a coverage for each rank. */
const RANK_FLOATS = PLANE.CRYPTO_RANKS * 2;

/**
 * Puts each pixel's ranks in the order of falling coverage, in their place. Ids are copied as bits, never as numbers.
 */
function sortRanks(plane: Float32Array, pixels: number): void {
  const bits = new Uint32Array(plane.buffer, plane.byteOffset, plane.length);
  const before = new Uint32Array(RANK_FLOATS);
  const coverages = new Float32Array(before.buffer);
  const order = Array.from({ length: PLANE.CRYPTO_RANKS }, (_, rank) => rank);
  for (let first = 0; first < pixels * RANK_FLOATS; first += RANK_FLOATS) {
    before.set(bits.subarray(first, first + RANK_FLOATS));
    order.sort((a, b) => coverages[b * 2 + 1]! - coverages[a * 2 + 1]! || a - b);
    order.forEach((rank, place) => {
      bits[first + place * 2] = before[rank * 2]!;
      bits[first + place * 2 + 1] = before[rank * 2 + 1]!;
    });
  }
}
