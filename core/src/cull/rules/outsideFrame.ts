// Which boxes lie wholly outside a camera's frame, widened by a margin.
import { type CameraSettings, type Matrix, type Rgb, halfHeightOf, lensRadiusM } from '../../scene/index.ts';
import { type Box, cornersOf } from '../box.ts';

/** A plane a·p + d ≥ 0 is inside. */
export interface Plane {
  readonly normal: Rgb;
  readonly d: number;
}

/**
 * The four sides of the frame widened by marginPct per cent of its size on each side, and the plane behind the camera.
 * World space.
 */
export function framePlanes(c: CameraSettings, marginPct: number): Plane[] {
  const axis = (k: number): Rgb => {
    const v: Rgb = [c.matrix[k * 4]!, c.matrix[k * 4 + 1]!, c.matrix[k * 4 + 2]!];
    const l = Math.hypot(...v) || 1;
    return [v[0] / l, v[1] / l, v[2] / l];
  };
  const right = axis(0);
  const up = axis(1);
  const back = axis(2);
  const eye: Rgb = [c.matrix[12]!, c.matrix[13]!, c.matrix[14]!];
  const grow = 1 + (2 * marginPct) / 100;
  const y = halfHeightOf(c) * grow;
  const x = ((halfHeightOf(c) * c.widthPx) / c.heightPx) * grow;
  const lens = lensRadiusM(c);
  const plane = (normal: Rgb, offset: number): Plane => ({
    normal,
    d: offset - (normal[0] * eye[0] + normal[1] * eye[1] + normal[2] * eye[2]),
  });
  const mix = (a: Rgb, s: number, b: Rgb, t: number): Rgb => [
    a[0] * s + b[0] * t,
    a[1] * s + b[1] * t,
    a[2] * s + b[2] * t,
  ];
  const behind = plane(mix(back, -1, back, 0), lens);
  // the frame goes from low to high, off the axis by the lens shift
  const ends = (half: number, shift: number): readonly [number, number] => [
    2 * shift * (half / grow) - half,
    2 * shift * (half / grow) + half,
  ];
  const [left, rightmost] = ends(x, c.shiftX ?? 0);
  const [bottom, top] = ends(y, c.shiftY ?? 0);
  if (c.projection === 'orthographic')
    return [
      plane(right, -left),
      plane(mix(right, -1, right, 0), rightmost),
      plane(up, -bottom),
      plane(mix(up, -1, up, 0), top),
      behind,
    ];
  // a point at depth z is inside where low·z ≤ side ≤ high·z; the lens, and what it blurs beyond the focus, widens each
  // side
  const side = (a: Rgb, low: number, high: number) => {
    const l = Math.hypot(1, low);
    const h = Math.hypot(1, high);
    return [
      plane(mix(a, 1 / l, back, low / l), lens * (1 + Math.abs(low))),
      plane(mix(a, -1 / h, back, -high / h), lens * (1 + Math.abs(high))),
    ];
  };
  return [...side(right, left, rightmost), ...side(up, bottom, top), behind];
}

/** Whether all corners, and all within grownM of them, lie on the outer side of one plane. */
function cornersOutside(planes: readonly Plane[], corners: Float64Array, grownM: number): boolean {
  for (const { normal, d } of planes) {
    let isOut = true;
    for (let i = 0; i < 24 && isOut; i += 3)
      isOut = normal[0] * corners[i]! + normal[1] * corners[i + 1]! + normal[2] * corners[i + 2]! + d < -grownM;
    if (isOut) return true;
  }
  return false;
}
/** Whether a box placed by m, and all within grownM of it, lies wholly on the outer side of one plane. */
export const outside = (planes: readonly Plane[], min: Rgb, max: Rgb, m: Matrix, grownM = 0): boolean =>
  cornersOutside(planes, cornersOf(min, max, m), grownM);

export const isOutsideFrame = (
  { corners, grownM }: Pick<Box, 'corners' | 'grownM'>,
  planes: readonly Plane[],
): boolean => corners.every((c) => cornersOutside(planes, c, grownM));
