// A kettle, turned and joined from its parts.
import type { V3 } from '../builder.ts';
import { lathe, moved, tube, merge } from '../shapes.ts';
import type { Quality } from './quality.ts';

export function kettle(q: Quality, size: number): Parameters<typeof merge>[0] {
  const s = size;
  const a = q(64, 12);
  const body = lathe(
    [
      [0.0, 0],
      [0.62 * s, 0],
      [0.92 * s, 0.22 * s],
      [1 * s, 0.55 * s],
      [0.86 * s, 0.92 * s],
      [0.5 * s, 1.16 * s],
      [0.42 * s, 1.2 * s],
    ],
    a,
    q(40, 8),
  );
  const lid = moved(
    lathe(
      [
        [0.46 * s, 0],
        [0.44 * s, 0.05 * s],
        [0.2 * s, 0.14 * s],
        [0.06 * s, 0.17 * s],
        [0.05 * s, 0.22 * s],
        [0.13 * s, 0.3 * s],
        [0.1 * s, 0.37 * s],
        [0, 0.4 * s],
      ],
      a,
      q(28, 8),
    ),
    0,
    1.18 * s,
    0,
  );
  const spout = tube(
    [
      [0.8 * s, 0.5 * s, 0],
      [1.15 * s, 0.66 * s, 0],
      [1.3 * s, 0.98 * s, 0],
      [1.55 * s, 1.2 * s, 0],
    ],
    (t) => (0.2 - 0.11 * t) * s,
    q(32, 6),
    q(36, 5),
  );
  const handle = tube(
    Array.from({ length: 9 }, (_, i): V3 => {
      const t = (i / 8) * Math.PI;
      return [Math.cos(t) * 0.72 * s, 1.05 * s + Math.sin(t) * 0.95 * s, 0];
    }),
    () => 0.055 * s,
    q(24, 5),
    q(48, 8),
  );
  return [body, lid, spout, handle];
}
