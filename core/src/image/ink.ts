// A drawn look: flat steps of a surface's own colour by how much light it gets, with ink lines where objects, surfaces
// or depths part. Made from the finished film and its layers, since light has no steps before its noise is gone.

import { luminanceAt } from './luminance.ts';

export interface InkLayers {
  readonly width: number;
  readonly height: number;
  /** r, g, b, coverage. */
  readonly rgba: Float32Array;
  /** Three floats a pixel each. */
  readonly albedo: Float32Array;
  readonly emission: Float32Array;
  readonly normal: Float32Array;
  /** Metres. */
  readonly depth: Float32Array;
  /** Which object most of the pixel shows; any number that tells objects apart. */
  readonly object: Uint32Array;
  /** 0…1: how much of the pixel is drawn. */
  readonly drawn: Float32Array;
}
export interface InkOptions {
  /** Shares of the bright light at which the next step begins, rising. */
  readonly steps?: readonly number[];
  /** Brightness of each step, one more than steps. */
  readonly levels?: readonly number[];
  readonly lineWidthPx?: number;
  /** Cosine between neighbouring normals below which a line is drawn. */
  readonly crease?: number;
  /** Bend of depth over three pixels, as a share of depth, above which a line is drawn. */
  readonly depthBend?: number;
}
export const INK_DEFAULTS: Required<InkOptions> = {
  steps: [0.12, 0.42],
  levels: [0.16, 0.5, 1],
  lineWidthPx: 2,
  crease: 0.55,
  depthBend: 0.03,
};
/** Share of drawn pixels that get less light than the bright reference. */
const BRIGHT = 0.9;
const INK = 0.012;

/** The film with what is drawn replaced; coverage stays. */
export function drawInk(l: InkLayers, options: InkOptions = {}): Float32Array {
  const o = { ...INK_DEFAULTS, ...options };
  const { width, height } = l;
  const n = width * height;
  const out = l.rgba.slice();
  const light = new Float32Array(n);
  const bright: number[] = [];
  for (let i = 0; i < n; i++) {
    if (!(l.drawn[i]! > 0)) continue;
    light[i] =
      Math.max(0, luminanceAt(l.rgba, i * 4) - luminanceAt(l.emission, i * 3)) /
      Math.max(0.02, luminanceAt(l.albedo, i * 3));
    bright.push(light[i]!);
  }
  if (!bright.length) return out;
  bright.sort((a, b) => a - b);
  const reference = Math.max(1e-6, bright[Math.min(bright.length - 1, Math.floor(bright.length * BRIGHT))]!);
  const lines = inkLines(l, o);
  for (let i = 0; i < n; i++) {
    const share = l.drawn[i]!;
    if (!(share > 0)) continue;
    const step = o.steps.filter((s) => light[i]! / reference >= s).length;
    const level = (lines[i] ? INK : o.levels[step]!) * reference;
    for (let c = 0; c < 3; c++)
      out[i * 4 + c] =
        out[i * 4 + c]! * (1 - share) +
        (l.albedo[i * 3 + c]! * level + (lines[i] ? 0 : l.emission[i * 3 + c]!)) * share;
  }
  return out;
}

/** 1 where a line goes: within the line's width of a border between objects, of a crease or of a bend in depth. */
function inkLines(l: InkLayers, o: Required<InkOptions>): Uint8Array {
  const { width, height } = l;
  const edge = new Uint8Array(width * height);
  const thick = new Uint8Array(width * height);
  const parts = (i: number, j: number) =>
    l.object[i] !== l.object[j] ||
    l.normal[i * 3]! * l.normal[j * 3]! +
      l.normal[i * 3 + 1]! * l.normal[j * 3 + 1]! +
      l.normal[i * 3 + 2]! * l.normal[j * 3 + 2]! <
      o.crease;
  const bends = (i: number, step: number) =>
    Math.abs(l.depth[i - step]! - 2 * l.depth[i]! + l.depth[i + step]!) > o.depthBend * l.depth[i]!;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (!(l.drawn[i]! > 0)) continue;
      if (
        (x + 1 < width && parts(i, i + 1)) ||
        (y + 1 < height && parts(i, i + width)) ||
        (x > 0 && x + 1 < width && bends(i, 1)) ||
        (y > 0 && y + 1 < height && bends(i, width))
      )
        edge[i] = 1;
    }
  const before = Math.floor((o.lineWidthPx - 1) / 2);
  const after = o.lineWidthPx - 1 - before;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (!edge[y * width + x]) continue;
      for (let dy = -before; dy <= after; dy++)
        for (let dx = -before; dx <= after; dx++)
          if (x + dx >= 0 && y + dy >= 0 && x + dx < width && y + dy < height) thick[(y + dy) * width + x + dx] = 1;
    }
  return thick;
}
