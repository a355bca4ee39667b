// OpenEXR 2.0 scan-line files with half or float channels, ZIP compression in blocks of 16 lines. Written here because the packages at hand write one RGBA layer only.
// Format: openexr.com, "OpenEXR File Layout"; the ZIP filter reorders bytes into even and odd halves and stores differences.
import { zlibSync } from 'fflate';
import { toHalf } from './half.ts';

export interface ExrChannel {
  /** "R", "G", "depth.Z" … */
  readonly name: string;
  readonly type: 'half' | 'float';
  /** width × height values, top row first. */
  readonly data: Float32Array;
}
export interface ExrImage {
  readonly width: number;
  readonly height: number;
  readonly channels: readonly ExrChannel[];
  /** Where this picture lies in a larger frame; absent: it is the frame. */
  readonly within?: { readonly left: number; readonly top: number; readonly width: number; readonly height: number };
  /** Text attributes; names must be plain identifiers. */
  readonly metadata?: Readonly<Record<string, string>>;
}

const LINES = 16;

export function writeExr({ width, height, channels, metadata = {}, within = { left: 0, top: 0, width, height } }: ExrImage): Uint8Array {
  if (!channels.length) throw new RangeError('An OpenEXR file needs a channel.');
  for (const c of channels) if (c.data.length !== width * height) throw new RangeError(`Channel ${c.name} has ${c.data.length} values for ${width * height} pixels.`);
  const sorted = [...channels].sort((a, b) => (a.name < b.name ? -1 : 1)); // the format wants channels in alphabetical order
  const header = new Writer();
  header.u32(20000630).u32(2);
  header.attribute('channels', 'chlist', (w) => { for (const c of sorted) w.text(c.name).u32(c.type === 'half' ? 1 : 2).u32(0).u32(1).u32(1); w.u8(0); });
  header.attribute('compression', 'compression', (w) => w.u8(3));
  header.attribute('dataWindow', 'box2i', (w) => w.u32(within.left).u32(within.top).u32(within.left + width - 1).u32(within.top + height - 1));
  header.attribute('displayWindow', 'box2i', (w) => w.u32(0).u32(0).u32(within.width - 1).u32(within.height - 1));
  header.attribute('lineOrder', 'lineOrder', (w) => w.u8(0));
  header.attribute('pixelAspectRatio', 'float', (w) => w.f32(1));
  header.attribute('screenWindowCenter', 'v2f', (w) => w.f32(0).f32(0));
  header.attribute('screenWindowWidth', 'float', (w) => w.f32(1));
  for (const [name, value] of Object.entries(metadata)) header.attribute(name, 'string', (w) => w.bytes(new TextEncoder().encode(value)));
  header.u8(0);
  const blocks = Math.ceil(height / LINES), start = header.length + blocks * 8, chunks: Uint8Array[] = [], offsets = new Writer();
  let at = start;
  for (let b = 0; b < blocks; b++) {
    const y0 = b * LINES, y1 = Math.min(height, y0 + LINES), data = compress(scanLines(sorted, width, y0, y1)), head = new Uint8Array(8);
    new DataView(head.buffer).setUint32(0, within.top + y0, true); new DataView(head.buffer).setUint32(4, data.length, true);
    offsets.u64(at);
    at += 8 + data.length;
    chunks.push(head, data);
  }
  return concat([header.done(), offsets.done(), ...chunks]);
}

function scanLines(channels: readonly ExrChannel[], width: number, y0: number, y1: number): Uint8Array {
  const size = channels.reduce((n, c) => n + (c.type === 'half' ? 2 : 4), 0) * width * (y1 - y0), out = new Uint8Array(size), view = new DataView(out.buffer);
  let at = 0;
  for (let y = y0; y < y1; y++) for (const c of channels) for (let x = 0; x < width; x++) {
    const v = c.data[y * width + x]!;
    if (c.type === 'half') { view.setUint16(at, toHalf(v), true); at += 2; } else { view.setFloat32(at, v, true); at += 4; }
  }
  return out;
}

function compress(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length), half = (raw.length + 1) >> 1;
  for (let i = 0; i < raw.length; i++) out[(i & 1 ? half : 0) + (i >> 1)] = raw[i]!;
  for (let i = out.length - 1; i > 0; i--) out[i] = (out[i]! - out[i - 1]! + 384) & 255;
  const packed = zlibSync(out, { level: 6 });
  return packed.length < raw.length ? packed : raw; // blocks that do not shrink are stored as they are
}

class Writer {
  private readonly parts: number[] = [];
  get length(): number { return this.parts.length; }
  u8(x: number): this { this.parts.push(x & 255); return this; }
  u32(x: number): this { for (let i = 0; i < 4; i++) this.parts.push((x >>> (8 * i)) & 255); return this; }
  u64(x: number): this { return this.u32(x >>> 0).u32(Math.floor(x / 2 ** 32)); }
  f32(x: number): this { return this.bytes(new Uint8Array(new Float32Array([x]).buffer)); }
  text(s: string): this { return this.bytes(new TextEncoder().encode(s)).u8(0); }
  bytes(b: Uint8Array): this { for (const x of b) this.parts.push(x); return this; }
  attribute(name: string, type: string, fill: (w: Writer) => void): void {
    const value = new Writer();
    fill(value);
    this.text(name).text(type).u32(value.length).bytes(value.done());
  }
  done(): Uint8Array { return Uint8Array.from(this.parts); }
}
function concat(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) { out.set(p, at); at += p.length; }
  return out;
}
