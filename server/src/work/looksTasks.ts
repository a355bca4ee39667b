// What the thread that knows scenes and looks is asked, and answers.
import type { CullAsked, StandIn } from '@variscen/core/cull';
import type { SharedTrace } from './sharedTraces.ts';
import type { LookRemarks, LooksFile, LooksMatch, ByHand, Difference, Inputs } from '@variscen/core/looks';

export interface CellRef {
  readonly cameraId: string;
  readonly variantId: string;
}
/** A picture of a cell. @see TraceCell.frame */
export interface PictureRef extends CellRef {
  readonly frame: number | null;
}
export const cellKey = (r: CellRef): string => `${r.cameraId} ${r.variantId}`;
export const pictureKey = (r: PictureRef): string => `${cellKey(r)} ${r.frame ?? ''}`;
/** By cell its pictures, cells and pictures in the order in which they stand. */
export function byCell<P extends PictureRef>(pictures: readonly P[]): Map<string, P[]> {
  const cells = new Map<string, P[]>();
  for (const p of pictures) {
    const known = cells.get(cellKey(p));
    if (known) known.push(p);
    else cells.set(cellKey(p), [p]);
  }
  return cells;
}
export interface NotSound {
  readonly hash: string;
  readonly fault: 'gone' | 'damaged';
}
export type LooksAsk =
  /**
   * The hash of every picture as it would be rendered now, and what differs from its last render, of any profile or of
   * one; of one cell, or of all. Of a sequence it is said for the first picture that differs.
   */
  | {
      readonly kind: 'board';
      readonly projectId: string;
      readonly profileId: string | null;
      readonly cell: CellRef | null;
    }
  /** What some pictures would be rendered from now. */
  | {
      readonly kind: 'cells';
      readonly projectId: string;
      readonly refs: readonly PictureRef[];
      /** Absent: it is not asked which of them one trace can serve. */
      readonly sharing?: {
        /** Of each picture: only what has the same may share a trace. */
        readonly apart: readonly string[];
        readonly mostParts: number;
      };
    }
  /**
   * How many cells there are but those that are left out, and the renders of each of those whose pictures are all as
   * they would be now.
   */
  | { readonly kind: 'counts'; readonly projectId: string }
  /** What a camera leaves out, by what was measured of it, stored among the content. */
  | {
      readonly kind: 'cullPlan';
      readonly projectId: string;
      readonly asked: CullAsked;
      readonly evidence: readonly MeasuredLook[];
      readonly standIns: Readonly<Record<string, StandIn>>;
    }
  /** Meshes that may be simplified for a camera. */
  | {
      readonly kind: 'standIns';
      readonly projectId: string;
      readonly asked: CullAsked;
      readonly evidence: readonly MeasuredLook[];
    }
  /** Evidence put together, as JSON. */
  | { readonly kind: 'evidence'; readonly projectId: string; readonly evidence: readonly MeasuredLook[] }
  /** What pictures would be rendered from now, and which stored picture differs from that in its grade alone. */
  | { readonly kind: 'develop'; readonly projectId: string; readonly refs: readonly PictureRef[] }
  /** In what the inputs of two renders differ, in the words of the scene of the second. */
  | { readonly kind: 'renders'; readonly was: string; readonly is: string }
  | { readonly kind: 'pack'; readonly projectId: string; readonly from: string; readonly optionIds: readonly string[] }
  | { readonly kind: 'match'; readonly projectId: string; readonly looks: LooksFile; readonly byHand: ByHand };
/** A file of evidence, with the name of the variant that it is of. */
export interface MeasuredLook {
  readonly file: string;
  readonly variant: string;
  /** What whole renders of it may have met (core/cull/metNodes); null: there is none. */
  readonly met: string | null;
}
export interface LooksAnswers {
  readonly board: readonly (PictureRef & {
    readonly hash: string;
    /** Since the last render only what none of its rays met has changed. */
    readonly stands: boolean;
    readonly differences: readonly Difference[];
  })[];
  readonly cells: {
    readonly cells: readonly {
      readonly inputs: Inputs;
      readonly hash: string;
      readonly traceHash: string;
      readonly remarks: LookRemarks;
    }[];
    /** Places of pictures, one for each hash of a trace, that one trace can serve. */
    readonly shared: readonly SharedTrace[];
    /** Of the scene's content and of the files that the looks bring, what is not as it was stored. */
    readonly notSound: readonly NotSound[];
  };
  readonly counts: { readonly total: number; readonly current: readonly (readonly string[])[] };
  /** Hashes of the plan, of what it leaves out, pins and simplifies; null where that is nothing. */
  readonly cullPlan: {
    readonly plan: string;
    readonly leaveOut: string | null;
    readonly keep: string | null;
    readonly standIns: string | null;
  };
  /** Hashes of meshes, with the exponents of how far off they may be. */
  readonly standIns: { readonly sceneHash: string; readonly wanted: readonly (readonly [string, number])[] };
  readonly evidence: string;
  readonly renders: readonly Difference[];
  readonly develop: readonly {
    readonly inputs: Inputs;
    readonly hash: string;
    /** null: there is none with its light in a file. */
    readonly renderId: string | null;
    /** Its own latest picture is as it would be. */
    readonly isCurrent: boolean;
  }[];
  readonly pack: LooksFile;
  readonly match: LooksMatch;
}
export interface LooksSetup {
  readonly databaseUrl: string;
  readonly assets: string;
}
export type LooksReply =
  | { readonly id: number; readonly value: unknown }
  | { readonly id: number; readonly code: string; readonly message: string };
