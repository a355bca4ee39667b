// Reads a look-up table in the .cube format.
import { FloatType } from 'three';
import { LUTCubeLoader } from 'three/examples/jsm/loaders/LUTCubeLoader.js';
import type { Lut } from '../image/index.ts';
import { ImportError } from '../scene/index.ts';

const MOST_SIDE = 129;

/**
 * Checked line by line before the reader gets it, which takes whatever numbers come. @throws ImportError with the line
 */
export function importLut(text: string, fileName: string): Lut {
  const failed = (why: string) => new ImportError('UNREADABLE', `“${fileName}” ${why}`);
  let size = 0;
  let rows = 0;
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = raw.trim();
    if (!line || line.startsWith('#') || line.startsWith('TITLE')) continue;
    const [word, ...rest] = line.split(/\s+/) as [string, ...string[]];
    if (word === 'LUT_1D_SIZE')
      throw failed('is a one-dimensional table. Three-dimensional ones are read: save it as LUT_3D_SIZE.');
    if (word === 'LUT_3D_SIZE') {
      size = Number(rest[0]);
      if (!Number.isInteger(size) || size < 2 || size > MOST_SIDE)
        throw failed(`says a size of ${rest[0] ?? 'nothing'} in line ${i + 1}; from 2 to ${MOST_SIDE} are read.`);
      continue;
    }
    if (word === 'DOMAIN_MIN' || word === 'DOMAIN_MAX') {
      const wanted = word === 'DOMAIN_MIN' ? 0 : 1;
      if (rest.some((x) => Number(x) !== wanted))
        throw failed(`has a ${word} of ${rest.join(' ')}. Tables from 0 to 1 are read.`);
      continue;
    }
    if (/^[A-Z_]+$/.test(word)) continue;
    const values = [word, ...rest].map(Number);
    if (values.length !== 3 || values.some((v) => !Number.isFinite(v)))
      throw failed(`is damaged in line ${i + 1}: a row is three numbers.`);
    rows++;
  }
  if (size === 0) throw failed('does not say its LUT_3D_SIZE.');
  if (rows !== size ** 3) throw failed(`has ${rows} rows instead of ${size ** 3}: it is cut short or too long.`);
  const loader = new LUTCubeLoader();
  loader.setType(FloatType);
  const rgba = (loader.parse(text) as { texture3D: { image: { data: Float32Array } } }).texture3D.image.data;
  const data = new Float32Array(size ** 3 * 3);
  for (let k = 0; k < size ** 3; k++) for (let c = 0; c < 3; c++) data[k * 3 + c] = rgba[k * 4 + c]!;
  return { size, data };
}
