// What mattered for a picture, as the kernel has counted it: by instance, and by piece of the meshes that come in pieces.
import * as K from '../kernel/layout/index.ts';
import type { MemoryPlan } from './memoryPlaces.ts';

/** Where the counts of Evidence.widths begin, metres: each next is of rays twice as wide. */
export const WIDTHS_FROM_M = 2 ** K.EVIDENCE.NARROWEST;

/** By kind of event. */
export interface ByKind {
  readonly seen: number;
  readonly reflected: number;
  readonly refracted: number;
  readonly bounced: number;
  readonly shadowed: number;
  readonly lit: number;
}
/**
 * Of an instance, summed over all samples. Seen to bounced: throughput, 1 is that of a camera ray; the others light, in
 * nits to 32 bits.
 */
export interface Evidence extends ByKind {
  /** Light that came from it to the picture, its own or another's, nits. */
  readonly brought: number;
  /**
   * How often rays from elsewhere than the camera that met it, or whose light it stopped, were so wide where they did:
   * a count for each power of two from WIDTHS_FROM_M on.
   */
  readonly widths: readonly number[];
  /** How often: whole numbers, also of what had no weight. All of them nought: no path has met it. */
  readonly times: ByKind;
  /**
   * The instance by way of which more than half of what met it in reflections came, and through glass, the last before
   * it; null: none brought so much for certain.
   */
  readonly mirror: number | null;
  readonly glass: number | null;
}
/** Of a piece of a mesh, wherever that is shown. */
export interface PieceEvidence {
  /** How often, but as a lamp. */
  readonly times: Omit<ByKind, 'lit'>;
  /** Light that came from it to the picture, and that it kept away, nits. */
  readonly brought: number;
  readonly shadowed: number;
}

/** Of several threads: what is left of one's weight, where they differ, is that of the heavier. */
class Vote {
  private by = 0;
  private weight = 0;
  takeFrom(view: DataView, at: number): void {
    const by = view.getUint32(at, true);
    const weight = view.getFloat32(at + 4, true);
    if (by === this.by) this.weight += weight;
    else if (weight > this.weight) [this.by, this.weight] = [by, weight - this.weight];
    else this.weight -= weight;
  }
  /** One had at least as much as is left of its weight. @returns its number */
  majorityOf(all: number): number | null {
    return this.by > 0 && this.weight > all / 2 ? this.by - 1 : null;
  }
}

export function readEvidence(
  memory: WebAssembly.Memory,
  plan: MemoryPlan,
  instances: number,
  threads: number,
): Evidence[] {
  const words = K.EVIDENCE.BYTES / 8;
  const whole = new Float64Array(instances * words);
  const light = new Float64Array(instances * words);
  const { WIDTHS, WIDTH_COUNTS, BY_MIRROR, BY_GLASS } = K.EVIDENCE;
  const mirrors = Array.from({ length: instances }, () => new Vote());
  const glasses = Array.from({ length: instances }, () => new Vote());
  const widths = Array.from({ length: instances }, () => new Array<number>(WIDTH_COUNTS).fill(0));
  for (let t = 0; t < threads; t++) {
    const at = plan.scratch + t * plan.scratchStride + plan.evidenceAt;
    for (const [i, own] of widths.entries()) {
      const counted = new Uint32Array(memory.buffer, at + i * K.EVIDENCE.BYTES + WIDTHS, WIDTH_COUNTS);
      counted.forEach((n, place) => (own[place]! += n));
    }
    const votes = new DataView(memory.buffer, at, instances * K.EVIDENCE.BYTES);
    for (let i = 0; i < instances; i++) {
      mirrors[i]!.takeFrom(votes, i * K.EVIDENCE.BYTES + BY_MIRROR);
      glasses[i]!.takeFrom(votes, i * K.EVIDENCE.BYTES + BY_GLASS);
    }
    const counts = new BigUint64Array(memory.buffer, at, whole.length);
    const nits = new Float64Array(memory.buffer, at, light.length);
    for (let i = 0; i < whole.length; i++) {
      whole[i]! += Number(counts[i]);
      light[i]! += nits[i]!;
    }
  }
  const { SEEN, REFLECTED, REFRACTED, BOUNCED, SHADOWED, LIT, UNIT, COUNTS, BROUGHT } = K.EVIDENCE;
  // sums of floats depend on their order, and so on threads: less is said than they hold
  const nitsAt = (i: number) => Math.fround(light[i]!);
  return Array.from({ length: instances }, (_, i) => {
    const at = i * words;
    const times = at + COUNTS / 8;
    return {
      seen: whole[at + SEEN]! / UNIT,
      reflected: whole[at + REFLECTED]! / UNIT,
      refracted: whole[at + REFRACTED]! / UNIT,
      bounced: whole[at + BOUNCED]! / UNIT,
      shadowed: nitsAt(at + SHADOWED),
      lit: nitsAt(at + LIT),
      brought: nitsAt(at + BROUGHT / 8),
      widths: widths[i]!,
      mirror: mirrors[i]!.majorityOf(whole[at + REFLECTED]! / UNIT),
      glass: glasses[i]!.majorityOf(whole[at + REFRACTED]! / UNIT),
      times: {
        seen: whole[times + SEEN]!,
        reflected: whole[times + REFLECTED]!,
        refracted: whole[times + REFRACTED]!,
        bounced: whole[times + BOUNCED]!,
        shadowed: whole[times + SHADOWED]!,
        lit: whole[times + LIT]!,
      },
    };
  });
}

/** Of all pieces of stored meshes, in their order. @param pieces so many */
export function readPieceEvidence(
  memory: WebAssembly.Memory,
  plan: MemoryPlan,
  pieces: number,
  threads: number,
): PieceEvidence[] {
  const { BYTES, COUNTS, BROUGHT, SHADOWED } = K.PIECE_EVIDENCE;
  const words = BYTES / 4;
  const counts = new Float64Array(pieces * words);
  const nits = new Float64Array((pieces * BYTES) / 8);
  for (let t = 0; t < threads; t++) {
    const at = plan.scratch + t * plan.scratchStride + plan.pieceEvidenceAt;
    const ownCounts = new Uint32Array(memory.buffer, at, counts.length);
    const ownNits = new Float64Array(memory.buffer, at, nits.length);
    for (let i = 0; i < counts.length; i++) counts[i]! += ownCounts[i]!;
    for (let i = 0; i < nits.length; i++) nits[i]! += ownNits[i]!;
  }
  const { SEEN, REFLECTED, REFRACTED, BOUNCED, SHADOWED: STOPPED } = K.EVIDENCE;
  return Array.from({ length: pieces }, (_, i) => {
    const timesOf = (kind: number): number => counts[i * words + COUNTS / 4 + kind]!;
    const nitsOf = (offset: number): number => Math.fround(nits[(i * BYTES + offset) / 8]!);
    return {
      times: {
        seen: timesOf(SEEN),
        reflected: timesOf(REFLECTED),
        refracted: timesOf(REFRACTED),
        bounced: timesOf(BOUNCED),
        shadowed: timesOf(STOPPED),
      },
      brought: nitsOf(BROUGHT),
      shadowed: nitsOf(SHADOWED),
    };
  });
}
