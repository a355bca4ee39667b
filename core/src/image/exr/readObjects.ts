// Which objects a picture shows where, by the ids of its Cryptomatte layers (the open specification 1.2): pairs of an
// id and how much of the pixel it covers.
import { type ExrAbout, type ExrSource, readExrAbout, readExrLines } from './readLayers.ts';

export interface ShownObject {
  readonly path: string;
  /** Of the pixel, 0…1. */
  readonly share: number;
}
export interface ObjectMask {
  readonly widthPx: number;
  readonly heightPx: number;
  /** How much of each pixel the object is, 0…255, row by row. */
  readonly shares: Uint8Array;
}

const LAYER = 'CryptoObject';
const isOfIds = (channel: string): boolean => channel.startsWith(LAYER);
/** Channels of an id and of what it covers, pair by pair. */
const PAIRS = [0, 1, 2].flatMap((k) => [
  [`${LAYER}0${k}.R`, `${LAYER}0${k}.G`] as const,
  [`${LAYER}0${k}.B`, `${LAYER}0${k}.A`] as const,
]);
/** Less is what ids cannot tell. */
const LEAST_SHARE = 0.002;

/** By name the id of each object, as bits; undefined where the file has no such layer. */
export const objectIds = async (source: ExrSource): Promise<ReadonlyMap<string, number> | undefined> =>
  idsIn(await readExrAbout(source));

function idsIn({ texts, channels }: ExrAbout): ReadonlyMap<string, number> | undefined {
  if (!channels.some(isOfIds)) return undefined;
  const key = [...texts]
    .find(([name, value]) => name.endsWith('/name') && value === LAYER)?.[0]
    .slice(0, -'name'.length);
  const manifest = key === undefined ? undefined : texts.get(`${key}manifest`);
  if (manifest === undefined) return undefined;
  const named = Object.entries(JSON.parse(manifest) as Record<string, string>);
  return new Map(named.map(([name, id]) => [name, Number.parseInt(id, 16) >>> 0]));
}

/** What covers a pixel, most of it first. @param at in shares of the picture's width and height, 0…1 */
export async function objectsAt(source: ExrSource, at: readonly [number, number]): Promise<ShownObject[] | undefined> {
  const about = await readExrAbout(source);
  const ids = idsIn(about);
  if (!ids) return undefined;
  const names = new Map([...ids].map(([name, id]) => [id, name]));
  const { widthPx, heightPx } = about;
  const place = (share: number, size: number) => Math.min(size - 1, Math.max(0, Math.floor(share * size)));
  const x = place(at[0], widthPx);
  const found: ShownObject[] = [];
  const take = (_: number, lines: ReadonlyMap<string, Float32Array>) => {
    for (const [id, covers] of PAIRS) {
      const share = lines.get(covers)?.[x] ?? 0;
      const line = lines.get(id);
      const path = line && names.get(bitsOf(line)[x]!);
      if (share > LEAST_SHARE && path !== undefined) found.push({ path, share });
    }
  };
  await readExrLines(source, isOfIds, () => take, place(at[1], heightPx));
  return found.sort((a, b) => b.share - a.share);
}

/** Where an object is. @param mostWidthPx wider pictures are averaged over squares of pixels until they are not */
export async function objectMask(source: ExrSource, id: number, mostWidthPx: number): Promise<ObjectMask> {
  let mask: ObjectMask | undefined;
  let sums = new Float32Array(0);
  await readExrLines(source, isOfIds, ({ widthPx, heightPx }) => {
    const by = Math.max(1, Math.ceil(widthPx / mostWidthPx));
    const width = Math.ceil(widthPx / by);
    const height = Math.ceil(heightPx / by);
    sums = new Float32Array(width * height);
    mask = { widthPx: width, heightPx: height, shares: new Uint8Array(width * height) };
    const squareAt = (at: number, size: number) => Math.min(by, size - at * by);
    return (row, lines) => {
      const to = Math.floor(row / by) * width;
      for (const [name, covers] of PAIRS) {
        const line = lines.get(name);
        const shares = lines.get(covers);
        if (!line || !shares) continue;
        const bits = bitsOf(line);
        for (let x = 0; x < widthPx; x++) if (bits[x] === id) sums[to + Math.floor(x / by)]! += shares[x]!;
      }
      const y = Math.floor(row / by);
      if (row !== Math.min(heightPx, (y + 1) * by) - 1) return;
      for (let x = 0; x < width; x++) {
        const pixels = squareAt(x, widthPx) * squareAt(y, heightPx);
        mask!.shares[to + x] = Math.round((255 * sums[to + x]!) / pixels);
      }
    };
  });
  return mask!;
}

/** Ids are bits, never numbers. */
const bitsOf = (line: Float32Array): Uint32Array => new Uint32Array(line.buffer, line.byteOffset, line.length);
