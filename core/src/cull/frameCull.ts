// What a camera leaves out of the objects of a scene in a look: by its rules, and by what people or evidence have
// named. Whatever gives light stays, then what is pinned.
import { type CameraSettings, type Matrix, type SceneDocument, determinant, placements } from '../scene/index.ts';
import { type Box, boxOf } from './box.ts';
import type { NamedObjects } from './cullPlan.ts';
import { isFartherThan } from './rules/fartherThan.ts';
import { type Plane, framePlanes, isOutsideFrame } from './rules/outsideFrame.ts';
import { isOutsidePlanes } from './rules/outsidePlanes.ts';
import { isSmallerThan } from './rules/smallerThan.ts';
import { LEAVE_REASONS, type LeaveReason, type Verdict, type VerdictReason } from './verdict.ts';

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
interface Known extends Box {
  readonly emits: boolean;
}

/** Whether a camera may leave anything out. */
export const culls = ({ cullMarginPct, cull }: CameraSettings): boolean =>
  cullMarginPct !== null ||
  cull?.fartherThanM !== undefined ||
  cull?.smallerThanPx !== undefined ||
  cull?.outsidePlanes === true ||
  cull?.leaveOut !== undefined ||
  cull?.standIns !== undefined;
/** The camera as it would be if it left nothing out. */
export const uncut = ({ cull: _, ...camera }: CameraSettings): CameraSettings => ({ ...camera, cullMarginPct: null });

/** The objects of a scene in a look, for any number of cameras. */
export class FrameCull {
  /** Objects that have a volume, in scene order. */
  private readonly objects: readonly number[];
  private readonly placed: readonly Matrix[];
  /** By place among the objects. */
  private readonly known: Known[] = [];
  private uncut: readonly Verdict[] | undefined;

  constructor(private readonly scene: CullScene) {
    this.placed = placements(scene.document, scene.world);
    this.objects = scene.document.nodes.flatMap((n, node) =>
      n.parts && determinant(this.placed[node]!) !== 0 ? [node] : [],
    );
  }

  /**
   * A verdict for every object, in scene order; the same list where the camera culls nothing.
   * @param named what people and evidence have named for this camera
   */
  verdicts(camera: CameraSettings, named?: NamedObjects): readonly Verdict[] {
    if (!culls(camera))
      return (this.uncut ??= this.objects.map((node) =>
        verdict(node, this.scene.shown(node) ? 'not-culled' : 'hidden'),
      ));
    const rules = rulesOf(camera);
    return this.objects.map((node, i) => verdict(node, this.reasonOf(node, i, rules, named)));
  }
  private reasonOf(node: number, i: number, rules: readonly Rule[], named: NamedObjects | undefined): VerdictReason {
    if (!this.scene.shown(node)) return 'hidden';
    const object = this.of(node, i);
    if (object.emits) return 'gives-light';
    const { path } = this.scene.document.nodes[node]!;
    if (named?.keep.has(path)) return 'pinned';
    if (named?.byHand.has(path)) return 'by-hand';
    if (named?.byEvidence.has(path)) return 'evidence';
    const left = rules.find((rule) => rule.leavesOut(object));
    if (left) return left.reason;
    if (named && this.hasMeshOf(named.standIns, node)) return 'simplified';
    return named && this.hasMeshOf(named.pieces, node) ? 'in-part' : 'in-frame';
  }
  /** Some mesh of it is among those; what is displaced is made anew for the picture. */
  private hasMeshOf(named: ReadonlyMap<string, unknown>, node: number): boolean {
    const { document, grownM } = this.scene;
    if (!named.size || (grownM?.(node) ?? 0) > 0) return false;
    return document.nodes[node]!.parts!.some((p) => named.has(document.meshes[p.mesh]!.blob));
  }
  private of(node: number, i: number): Known {
    const { document, world, emits, grownM } = this.scene;
    return (this.known[i] ??= {
      ...boxOf(document, node, world, this.placed, grownM?.(node) ?? 0),
      emits: emits(node),
    });
  }

  /** Whether an object that is shown, and of which `counts` says so, may be in the frame itself. */
  showsAny(camera: CameraSettings, counts: (node: number) => boolean): boolean {
    const planes = framePlanes(camera, 0);
    return this.objects.some(
      (node, i) => this.scene.shown(node) && counts(node) && !isOutsideFrame(this.of(node, i), planes),
    );
  }
}

interface Rule {
  readonly reason: LeaveReason;
  readonly leavesOut: (box: Box) => boolean;
}
/** Those that a camera has, in the order in which they are told. */
function rulesOf(camera: CameraSettings): Rule[] {
  const { cullMarginPct, cull = {} } = camera;
  const { fartherThanM, smallerThanPx, outsidePlanes } = cull;
  const planes: readonly Plane[] = cullMarginPct === null ? [] : framePlanes(camera, cullMarginPct);
  const rules: Rule[] = [];
  if (cullMarginPct !== null) rules.push({ reason: 'off-frame', leavesOut: (b) => isOutsideFrame(b, planes) });
  if (outsidePlanes) rules.push({ reason: 'outside-planes', leavesOut: (b) => isOutsidePlanes(b, camera) });
  if (fartherThanM !== undefined)
    rules.push({ reason: 'farther', leavesOut: (b) => isFartherThan(b, camera, fartherThanM) });
  if (smallerThanPx !== undefined)
    rules.push({ reason: 'smaller', leavesOut: (b) => isSmallerThan(b, camera, smallerThanPx) });
  return rules;
}

const NOT_KEPT: ReadonlySet<VerdictReason> = new Set(['hidden', ...LEAVE_REASONS]);
const verdict = (node: number, reason: VerdictReason): Verdict => ({ node, keep: !NOT_KEPT.has(reason), reason });
