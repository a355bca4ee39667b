// Which objects lie wholly outside a camera's frame, widened by a margin. Decided from boxes alone: such an object
// cannot be seen directly, but its shadow, its reflection and its bounced light go with it; the verdict says so.
// Whatever gives light stays.
import {
  type CameraSettings,
  type Matrix,
  type Rgb,
  type SceneDocument,
  boundsOf,
  determinant,
  halfHeightOf,
  lensRadiusM,
  placements,
  transformPoint,
} from '../scene/index.ts';

export type KeepReason = 'in-frame' | 'gives-light' | 'not-culled' | 'hidden';
export interface Verdict {
  /** Index of the node. */
  readonly node: number;
  readonly keep: boolean;
  readonly reason: KeepReason | 'off-frame';
}
/** What a person loses with a dropped object, until evidence decides. */
export const LOST_WITH_DROPPED =
  'Dropped objects also lose their shadow, their reflection and their bounced light in this picture.';

/** A plane a·p + d ≥ 0 is inside. */
interface Plane {
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

/** Whether a box placed by m, and all within grownM of it, lies wholly on the outer side of one plane. */
export function outside(planes: readonly Plane[], min: Rgb, max: Rgb, m: Matrix, grownM = 0): boolean {
  const corners = Array.from({ length: 8 }, (_, i) =>
    transformPoint(m, [i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2]]),
  );
  return planes.some(({ normal, d }) =>
    corners.every((p) => normal[0] * p[0] + normal[1] * p[1] + normal[2] * p[2] + d < -grownM),
  );
}

export interface CullInput {
  readonly document: SceneDocument;
  readonly world: readonly Matrix[];
  readonly camera: CameraSettings;
  /** Node index → whether the look shows it. */
  readonly shown: (node: number) => boolean;
  /** Node index → whether any of its materials gives light in this look. */
  readonly emits: (node: number) => boolean;
  /** How far beyond its box a node's surface may reach, metres. */
  readonly grownM?: (node: number) => number;
}

/** A verdict for every object, in scene order. document: as posed. */
export function cullOffFrame({ document, world, camera, shown, emits, grownM }: CullInput): Verdict[] {
  const planes = camera.cullMarginPct === null ? undefined : framePlanes(camera, camera.cullMarginPct);
  const placed = placements(document, world);
  const out: Verdict[] = [];
  document.nodes.forEach((n, node) => {
    if (!n.parts || determinant(placed[node]!) === 0) return;
    if (!shown(node)) out.push({ node, keep: false, reason: 'hidden' });
    else if (!planes) out.push({ node, keep: true, reason: 'not-culled' });
    else if (emits(node)) out.push({ node, keep: true, reason: 'gives-light' });
    else if (
      n.parts.every((p) => {
        const { min, max } = boundsOf(document, node, p.mesh, world);
        return outside(planes, min, max, placed[node]!, grownM?.(node));
      })
    )
      out.push({ node, keep: false, reason: 'off-frame' });
    else out.push({ node, keep: true, reason: 'in-frame' });
  });
  return out;
}
