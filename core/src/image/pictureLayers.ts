// Which layers a picture has, by the names of its OpenEXR channels, and what their numbers are.

export type LayerKind = 'light' | 'distance' | 'vector' | 'share' | 'amount';
export interface PictureLayer {
  /** picture, or what stands before the dot in its channels' names. */
  readonly name: string;
  readonly kind: LayerKind;
  /** One to four, in the order in which they are shown. */
  readonly channels: readonly string[];
}
export const PICTURE_LAYER = 'picture';

const ORDER = ['R', 'G', 'B', 'A', 'X', 'Y', 'Z', 'N'];
const KINDS: Readonly<Record<string, LayerKind>> = {
  position: 'vector',
  normal: 'vector',
  geometricNormal: 'vector',
  motion: 'vector',
  albedo: 'share',
  'depth.range': 'share',
  depth: 'distance',
  samples: 'amount',
  noise: 'amount',
  leftOut: 'amount',
};
/** Ids and how much of a pixel they cover: no picture. */
const isOfIds = (name: string): boolean => name.startsWith('Crypto');

export function layersIn(channels: readonly string[]): PictureLayer[] {
  const byLayer = new Map<string, string[]>();
  for (const channel of channels) {
    const name = layerOf(channel);
    if (!isOfIds(name)) byLayer.set(name, [...(byLayer.get(name) ?? []), channel]);
  }
  return [...byLayer]
    .map(([name, own]): PictureLayer => ({ name, kind: KINDS[name] ?? 'light', channels: inOrder(own).slice(0, 4) }))
    .sort((a, b) => Number(b.name === PICTURE_LAYER) - Number(a.name === PICTURE_LAYER));
}
/** Depth in the camera's range is another layer than depth in metres. */
const RANGE = 'depth.range';
function layerOf(channel: string): string {
  const dot = channel.lastIndexOf('.');
  if (dot < 0) return PICTURE_LAYER;
  return channel === RANGE ? channel : channel.slice(0, dot);
}
const lastPart = (channel: string): string => channel.slice(channel.lastIndexOf('.') + 1);
const inOrder = (channels: readonly string[]): string[] =>
  [...channels].sort((a, b) => ORDER.indexOf(lastPart(a)) - ORDER.indexOf(lastPart(b)));
