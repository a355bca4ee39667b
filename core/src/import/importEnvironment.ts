// Radiance HDR and OpenEXR pictures into environment maps: latitude-longitude, linear, in nits as they are stored.
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { type EnvironmentMap, smallerMap } from '../environment/index.ts';
import { ImportError } from '../scene/index.ts';

/** Rows kept: 8 million texels take 200 MB in a trace, and blurred light needs no more. */
const MAX_MAP_HEIGHT = 1024;
const MAX_PIXELS = 16384 * 8192;

export interface EnvironmentImport {
  readonly map: EnvironmentMap;
  /** What was mended, in words. */
  readonly remarks: readonly string[];
}

/** @throws ImportError by the name of the file */
export function importEnvironment(fileName: string, bytes: Uint8Array): EnvironmentImport {
  const buffer = bytes.slice().buffer;
  const isExr = bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01;
  const isHdr = bytes[0] === 0x23 && bytes[1] === 0x3f; // 20000630, “#?”
  if (!isExr && !isHdr)
    throw new ImportError('UNKNOWN_FORMAT', `“${fileName}” is neither a Radiance HDR nor an OpenEXR picture.`);
  let read: { width: number; height: number; data: ArrayLike<number>; fromTop: boolean };
  if (isExr && !exrIsWhole(bytes))
    throw new ImportError('UNREADABLE', `“${fileName}” is cut short or damaged. Copy or save it again.`);
  try {
    if (isExr) {
      const t = new EXRLoader().setDataType(FloatType).parse(buffer) as unknown as {
        width: number;
        height: number;
        data: Float32Array;
      };
      read = { ...t, fromTop: false };
    } else {
      const t = new HDRLoader().setDataType(FloatType).parse(buffer) as {
        width: number;
        height: number;
        data: Float32Array;
      };
      read = { ...t, fromTop: true };
    }
  } catch (e) {
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” could not be read: ${e instanceof Error ? e.message.replace(/^THREE\.\w+: ?/, '') : String(e)}. Save it again, with RGB channels.`,
    );
  }
  const { width, height, data } = read;
  const channels = data.length / (width * height);
  const remarks: string[] = [];
  if (!(width > 0 && height > 0) || width * height > MAX_PIXELS || !Number.isInteger(channels))
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” has ${width} × ${height} pixels in ${data.length} values, which cannot be read.`,
    );
  if (Math.abs(width / height - 2) > 0.02)
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” has ${width} × ${height} pixels. An environment map is latitude-longitude: twice as wide as high.`,
    );
  const out = new Float32Array(width * height * 3);
  let bad = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((read.fromTop ? y : height - 1 - y) * width + x) * channels;
      const to = (y * width + x) * 3;
      for (let c = 0; c < 3; c++) {
        const v = data[from + (channels < 3 ? 0 : c)]!;
        if (Number.isFinite(v) && v >= 0) out[to + c] = v;
        else bad++;
      }
    }
  if (bad) remarks.push(`${bad} values of “${fileName}” are negative or not numbers, and were set to black.`);
  const map = smallerMap({ width, height, data: out }, MAX_MAP_HEIGHT);
  if (map.height < height)
    remarks.push(`Brought from ${width} × ${height} to ${map.width} × ${map.height}; its light is the same.`);
  return { map, remarks };
}

/**
 * Whether all that an OpenEXR file's header and offset table speak of is in the file: the reader trusts both, and does
 * not come back from a torn one.
 * "OpenEXR File Layout": magic, version, attributes as name\0 type\0 size value, an empty name, then offsets of chunks;
 * 0 where a chunk was never written.
 */
function exrIsWhole(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const end = bytes.length;
  const flags = end >= 8 ? view.getUint32(4, true) : 0;
  const tiled = (flags & 0x200) !== 0;
  if (end < 8 || flags & 0x1800) return false; // deep and multi-part files are not read
  let at = 8;
  const text = (): boolean => {
    const from = at;
    while (at < end && bytes[at] !== 0 && at - from < 256) at++;
    return at < end && bytes[at++] === 0;
  };
  while (at < end && bytes[at] !== 0) {
    if (!text() || !text() || at + 4 > end) return false;
    const size = view.getUint32(at, true);
    at += 4 + size;
    if (size > end || at > end) return false;
  }
  const table = ++at;
  if (table + 8 > end) return false;
  const offset = (k: number): number => Number(view.getBigUint64(table + k * 8, true));
  const first = offset(0);
  const count = (first - table) / 8;
  const sizeAt = tiled ? 16 : 4;
  if (!Number.isInteger(count) || count < 1 || first > end) return false;
  for (let k = 0; k < count; k++) {
    const o = offset(k);
    if (o < table || o + sizeAt + 4 > end || o + sizeAt + 4 + view.getUint32(o + sizeAt, true) > end) return false;
  }
  return true;
}
