// Radiance HDR and OpenEXR pictures into environment maps: latitude-longitude, linear, in nits as they are stored.
import { type EnvironmentMap, smallerMap } from '../environment/index.ts';
import { ImportError } from '../scene/index.ts';
import { isExr, readExr } from './readExr.ts';
import { isHdr, readHdr } from './readHdr.ts';

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
  if (!isExr(bytes) && !isHdr(bytes))
    throw new ImportError('UNKNOWN_FORMAT', `“${fileName}” is neither a Radiance HDR nor an OpenEXR picture.`);
  const read = isExr(bytes) ? readExr(fileName, bytes, MAX_PIXELS) : readHdr(fileName, bytes, MAX_PIXELS);
  const { width, height, data } = read;
  const channels = data.length / (width * height);
  const remarks = [...read.remarks];
  if (!Number.isInteger(channels))
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
