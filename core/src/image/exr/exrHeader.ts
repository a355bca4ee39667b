// The header of an OpenEXR 2.0 scan-line file, and the table of offsets behind it.
// Format: openexr.com, "OpenEXR File Layout". All numbers are little-endian.
import { type ExrImage, inFileOrder } from './exrImage.ts';

const MAGIC = 20000630;
const VERSION = 2;
const PIXEL_TYPES = { half: 1, float: 2 } as const;
const COMPRESSIONS = { none: 0, zips: 2, zip: 3 } as const;
const INCREASING_Y = 0;
/** x and y of red, green, blue and white of Rec. ITU-R BT.709: what the engine's RGB is. */
const CHROMATICITIES = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329];

export function exrHeader({
  width,
  height,
  channels,
  metadata = {},
  within,
  compression = 'zip',
}: ExrImage): Uint8Array {
  const frame = within ?? { left: 0, top: 0, width, height };
  const header = new HeaderWriter();
  header.u32(MAGIC).u32(VERSION);
  header.attribute('channels', 'chlist', (w) => {
    for (const channel of inFileOrder(channels)) {
      w.text(channel.name).u32(PIXEL_TYPES[channel.type]);
      w.u32(0).u32(1).u32(1); // not perceptually linear; a value for every pixel across and down
    }
    w.u8(0);
  });
  header.attribute('chromaticities', 'chromaticities', (w) => CHROMATICITIES.forEach((x) => w.f32(x)));
  header.attribute('compression', 'compression', (w) => w.u8(COMPRESSIONS[compression]));
  header.attribute('dataWindow', 'box2i', (w) => {
    w.u32(frame.left).u32(frame.top);
    w.u32(frame.left + width - 1).u32(frame.top + height - 1);
  });
  header.attribute('displayWindow', 'box2i', (w) => {
    w.u32(0).u32(0);
    w.u32(frame.width - 1).u32(frame.height - 1);
  });
  header.attribute('lineOrder', 'lineOrder', (w) => w.u8(INCREASING_Y));
  header.attribute('pixelAspectRatio', 'float', (w) => w.f32(1));
  header.attribute('screenWindowCenter', 'v2f', (w) => w.f32(0).f32(0));
  header.attribute('screenWindowWidth', 'float', (w) => w.f32(1));
  for (const [name, value] of Object.entries(metadata)) {
    header.attribute(name, 'string', (w) => w.bytes(new TextEncoder().encode(value)));
  }
  return header.u8(0).done();
}

/** @param offsets where each block begins, bytes from the beginning of the file */
export function exrOffsets(offsets: readonly number[]): Uint8Array {
  const view = new DataView(new ArrayBuffer(offsets.length * 8));
  offsets.forEach((offset, block) => view.setBigUint64(block * 8, BigInt(offset), true));
  return new Uint8Array(view.buffer);
}

class HeaderWriter {
  private readonly parts: number[] = [];

  u8(x: number): this {
    this.parts.push(x & 255);
    return this;
  }
  u32(x: number): this {
    for (let i = 0; i < 4; i++) this.u8(x >>> (8 * i));
    return this;
  }
  f32(x: number): this {
    return this.bytes(new Uint8Array(new Float32Array([x]).buffer));
  }
  text(s: string): this {
    return this.bytes(new TextEncoder().encode(s)).u8(0);
  }
  bytes(bytes: Uint8Array): this {
    for (const x of bytes) this.parts.push(x);
    return this;
  }
  attribute(name: string, type: string, fill: (w: HeaderWriter) => void): void {
    const value = new HeaderWriter();
    fill(value);
    this.text(name).text(type).u32(value.parts.length).bytes(value.done());
  }
  done(): Uint8Array {
    return Uint8Array.from(this.parts);
  }
}
