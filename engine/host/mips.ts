// Mip levels of textures: sizes, bytes, and the averaging that makes them. Levels above a cap are left out of memory.
export interface MipSize {
  readonly width: number;
  readonly height: number;
}

/** Sizes of the levels kept: the first has at most capPx texels a side, the last is 1 × 1. */
export function mipSizes(width: number, height: number, capPx = Infinity): MipSize[] {
  const out: MipSize[] = [];
  for (let w = width, h = height; ; w = Math.max(1, w >> 1), h = Math.max(1, h >> 1)) {
    if (Math.max(w, h) <= capPx || (w === 1 && h === 1)) out.push({ width: w, height: h });
    if (w === 1 && h === 1) return out;
  }
}

/** Linear values of 8-bit sRGB codes (IEC 61966-2-1). */
export const SRGB = Float32Array.from({ length: 256 }, (_, i) =>
  i / 255 <= 0.04045 ? i / 255 / 12.92 : ((i / 255 + 0.055) / 1.055) ** 2.4,
);
const encode = (x: number): number => 255 * (x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055);

/**
 * Halves an RGBA image, rounding sizes down; colours of an sRGB image are averaged as light. At odd sizes the last row
 * or column joins the one before.
 */
export function halve<T extends Uint8Array | Uint16Array>(src: T, width: number, height: number, srgb: boolean): T {
  const w = Math.max(1, width >> 1);
  const h = Math.max(1, height >> 1);
  const out = new (src.constructor as new (n: number) => T)(w * h * 4);
  const light = srgb && src instanceof Uint8Array;
  for (let y = 0; y < h; y++) {
    const y0 = Math.min(y * 2, height - 1);
    const y1 = y === h - 1 ? height - 1 : y * 2 + 1;
    for (let x = 0; x < w; x++) {
      const x0 = Math.min(x * 2, width - 1);
      const x1 = x === w - 1 ? width - 1 : x * 2 + 1;
      for (let c = 0; c < 4; c++) {
        let sum = 0;
        let n = 0;
        for (let yy = y0; yy <= y1; yy++)
          for (let xx = x0; xx <= x1; xx++) {
            const v = src[(yy * width + xx) * 4 + c]!;
            sum += light && c < 3 ? SRGB[v]! : v;
            n++;
          }
        out[(y * w + x) * 4 + c] = Math.round(light && c < 3 ? encode(sum / n) : sum / n);
      }
    }
  }
  return out;
}
