// A part of a picture at another number of pixels, for holding pictures of several sizes against each other.
import type { LayerPixels } from './show.ts';

/**
 * Between the middles of pixels, in a straight line; beyond the edge, as the edge.
 * @param scale pixels of it a pixel
 */
export function resampled(
  of: LayerPixels,
  { left, top, widthPx, heightPx }: { left: number; top: number; widthPx: number; heightPx: number },
  scale: readonly [number, number],
): LayerPixels {
  const { channels } = of;
  const values = new Float32Array(widthPx * heightPx * channels);
  for (let y = 0, to = 0; y < heightPx; y++) {
    const v = (top + y + 0.5) * scale[1] - 0.5;
    const [y0, y1] = pair(v, of.heightPx);
    const fy = Math.min(1, Math.max(0, v - Math.floor(v)));
    for (let x = 0; x < widthPx; x++) {
      const u = (left + x + 0.5) * scale[0] - 0.5;
      const [x0, x1] = pair(u, of.widthPx);
      const fx = u - Math.floor(u);
      for (let k = 0; k < channels; k++, to++) {
        const at = (px: number, py: number) => of.values[(py * of.widthPx + px) * channels + k]!;
        const above = at(x0, y0) + (at(x1, y0) - at(x0, y0)) * fx;
        const below = at(x0, y1) + (at(x1, y1) - at(x0, y1)) * fx;
        values[to] = above + (below - above) * fy;
      }
    }
  }
  return { widthPx, heightPx, channels, values };
}
function pair(at: number, most: number): readonly [number, number] {
  const first = Math.floor(at);
  const within = (i: number) => Math.min(most - 1, Math.max(0, i));
  return [within(first), within(first + 1)];
}
