// Tiles of finished pictures as numbers, in a thread: asked of the server, unpacked, and kept while there is room.
import { type TileAt, levelsOf, tileFromBytes, tileSize } from '@variscen/core/image';
import type { LayerPixels } from '@variscen/core/review';
import { pathOf } from '@variscen/contract';
import type { OpenedLayer } from './messages.ts';

const MOST_BYTES = 160e6;

export class TileValues {
  private readonly kept = new Map<string, { readonly pixels: Promise<LayerPixels>; bytes: number }>();
  private bytes = 0;

  constructor(private readonly load: (of: OpenedLayer, at: TileAt) => Promise<Uint8Array> = loadTile) {}

  tile(of: OpenedLayer, at: TileAt): Promise<LayerPixels> {
    const key = `${of.renderId} ${of.layer} ${at.level}.${at.x}.${at.y}`;
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return known.pixels;
    }
    const entry = { pixels: this.read(of, at), bytes: 0 };
    this.kept.set(key, entry);
    entry.pixels.then(
      ({ values }) => {
        entry.bytes = values.byteLength;
        this.bytes += entry.bytes;
        this.makeRoom();
      },
      () => this.kept.delete(key), // it is asked for again
    );
    return entry.pixels;
  }
  private async read(of: OpenedLayer, at: TileAt): Promise<LayerPixels> {
    const { widthPx, heightPx } = tileSize(levelsOf(of)[at.level]!, at.x, at.y);
    const values = tileFromBytes(await this.load(of, at), widthPx, of.channels);
    return { widthPx, heightPx, channels: of.channels, values };
  }
  private makeRoom(): void {
    for (const [key, { bytes }] of this.kept) {
      if (this.bytes <= MOST_BYTES) return;
      if (bytes === 0) continue; // it is being read
      this.kept.delete(key);
      this.bytes -= bytes;
    }
  }
}

async function loadTile(opened: OpenedLayer, { level, x, y }: TileAt): Promise<Uint8Array> {
  const { renderId, layer, widthPx, heightPx, isLinear } = opened;
  const of = `${widthPx}x${heightPx}-${isLinear ? 'light' : 'shown'}`;
  const answer = await fetch(`${pathOf('tiles', { renderId, layer })}?at=${level}.${x}.${y}&of=${of}`);
  if (!answer.ok) {
    const said = (await answer.json().catch(() => ({}))) as { message?: string; remedy?: string };
    throw new Error([said.message ?? 'The picture could not be read.', said.remedy].filter(Boolean).join(' '));
  }
  const packed = new Uint8Array(await answer.arrayBuffer()).subarray(4);
  const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream('deflate-raw'));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}
