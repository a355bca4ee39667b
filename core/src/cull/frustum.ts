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

/** Corners of a box that is placed by m: x y z, eight times. */
function cornersOf(min: Rgb, max: Rgb, m: Matrix): Float64Array {
  const out = new Float64Array(24);
  for (let i = 0; i < 8; i++)
    out.set(transformPoint(m, [i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2]]), i * 3);
  return out;
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

export interface CullScene {
  /** As posed. */
  readonly document: SceneDocument;
  readonly world: readonly Matrix[];
  /** Node index → whether the look shows it. */
  readonly shown: (node: number) => boolean;
  /** Node index → whether any of its materials gives light in this look. */
  readonly emits: (node: number) => boolean;
  /** How far beyond its box a node's surface may reach, metres. */
  readonly grownM?: (node: number) => number;
}
/** A shown object, and what is known of it once a frame was asked about. */
interface Box {
  readonly corners: readonly Float64Array[];
  readonly grownM: number;
  readonly emits: boolean;
}

/** The objects of a scene in a look, for any number of cameras. */
export class FrameCull {
  /** Objects that have a volume, in scene order. */
  private readonly objects: readonly number[];
  private readonly placed: readonly Matrix[];
  /** By place among the objects. */
  private readonly boxes: Box[] = [];
  private uncut: readonly Verdict[] | undefined;

  constructor(private readonly scene: CullScene) {
    this.placed = placements(scene.document, scene.world);
    this.objects = scene.document.nodes.flatMap((n, node) =>
      n.parts && determinant(this.placed[node]!) !== 0 ? [node] : [],
    );
  }

  /** A verdict for every object, in scene order; the same list where the camera culls nothing. */
  verdicts(camera: CameraSettings): readonly Verdict[] {
    if (camera.cullMarginPct === null)
      return (this.uncut ??= this.objects.map((node) =>
        verdict(node, this.scene.shown(node) ? 'not-culled' : 'hidden'),
      ));
    const planes = framePlanes(camera, camera.cullMarginPct);
    return this.objects.map((node, i) => verdict(node, this.reasonOf(node, i, planes)));
  }
  private reasonOf(node: number, i: number, planes: readonly Plane[]): Verdict['reason'] {
    if (!this.scene.shown(node)) return 'hidden';
    const box = this.boxOf(node, i);
    if (box.emits) return 'gives-light';
    return isInFrame(box, planes) ? 'in-frame' : 'off-frame';
  }
  private boxOf(node: number, i: number): Box {
    const { document, world, emits, grownM } = this.scene;
    return (this.boxes[i] ??= {
      corners: document.nodes[node]!.parts!.map((p) => {
        const { min, max } = boundsOf(document, node, p.mesh, world);
        return cornersOf(min, max, this.placed[node]!);
      }),
      grownM: grownM?.(node) ?? 0,
      emits: emits(node),
    });
  }

  /** Whether an object that is shown, and of which `counts` says so, may be in the frame itself. */
  showsAny(camera: CameraSettings, counts: (node: number) => boolean): boolean {
    const planes = framePlanes(camera, 0);
    return this.objects.some(
      (node, i) => this.scene.shown(node) && counts(node) && isInFrame(this.boxOf(node, i), planes),
    );
  }
}

const verdict = (node: number, reason: Verdict['reason']): Verdict => ({
  node,
  keep: reason !== 'hidden' && reason !== 'off-frame',
  reason,
});
const isInFrame = ({ corners, grownM }: Box, planes: readonly Plane[]): boolean =>
  corners.some((c) => !cornersOutside(planes, c, grownM));
