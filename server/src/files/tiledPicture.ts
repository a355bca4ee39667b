// A file of a picture's tiles: packed tiles one after another, then what tells where each lies, then how long that is.
// It is written line by line and read tile by tile, so that of a picture of any size little is in memory.
import { type FileHandle, open } from 'node:fs/promises';
import { type PictureSize, type TileAt, levelsOf, tileIndex } from '@variscen/core/image';

const TAIL_BYTES = 8;
const MAGIC = 0x5653_5459;

/** What a picture is, apart from its pixels. */
export interface TiledAbout extends PictureSize {
  readonly channels: number;
  /** Of each tile, as `tileIndex` counts them, where it begins and how many bytes it has. */
  readonly tiles: readonly (readonly [from: number, bytes: number])[];
}

/** What stands behind the tiles. */
export function tailOf(about: TiledAbout): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(about));
  const out = new Uint8Array(text.length + TAIL_BYTES);
  out.set(text);
  const view = new DataView(out.buffer);
  view.setUint32(text.length, text.length, true);
  view.setUint32(text.length + 4, MAGIC, true);
  return out;
}

/** @throws where it is not whole */
export async function readAbout(path: string): Promise<TiledAbout> {
  const file = await open(path);
  try {
    const { size } = await file.stat();
    const tail = new DataView((await part(file, size - TAIL_BYTES, TAIL_BYTES)).buffer);
    if (tail.getUint32(4, true) !== MAGIC) throw new Error('it is no picture in tiles');
    const length = tail.getUint32(0, true);
    const text = new TextDecoder().decode(await part(file, size - TAIL_BYTES - length, length));
    return JSON.parse(text) as TiledAbout;
  } finally {
    await file.close();
  }
}

/** Packed tiles. @param wanted tiles that there are */
export async function readTiles(path: string, about: TiledAbout, wanted: readonly TileAt[]): Promise<Uint8Array[]> {
  const levels = levelsOf(about);
  const file = await open(path);
  try {
    const out: Uint8Array[] = [];
    for (const tile of wanted) out.push(await part(file, ...about.tiles[tileIndex(levels, tile)]!));
    return out;
  } finally {
    await file.close();
  }
}

async function part(file: FileHandle, from: number, bytes: number): Promise<Uint8Array> {
  if (from < 0) throw new Error('it is cut short');
  const out = new Uint8Array(bytes);
  const { bytesRead } = await file.read(out, 0, bytes, from);
  if (bytesRead < bytes) throw new Error('it is cut short');
  return out;
}
