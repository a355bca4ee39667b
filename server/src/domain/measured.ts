// What this machine's last traces took, which plans go by.
import { croppedPx } from '@variscen/core/scene';
import { hostBytes, sumOf } from '@variscen/engine';
import type { DataSource } from 'typeorm';
import type { TraceResult } from '@variscen/contract';
import type { Inputs } from '@variscen/core/looks';
import type { TraceRow } from '../db/entities/index.ts';

const LOOKED_AT = 40;
/** Figures are of so many. */
const COUNTED = 10;

/** What figures are made from, of a trace that was done. */
export type DoneTrace = Pick<TraceRow, 'projectId' | 'widthPx' | 'heightPx'> & {
  readonly result: TraceResult;
  /** The part of the frame that was rendered. */
  readonly crop: Inputs['camera']['crop'] | null;
};

/** The last that were done, the latest first. */
export function lastTraces(db: DataSource): Promise<DoneTrace[]> {
  return db.query<DoneTrace[]>(
    `SELECT project_id "projectId", width_px "widthPx", height_px "heightPx", result, inputs->'camera'->'crop' crop
      FROM trace WHERE state = 'done' AND result IS NOT NULL ORDER BY finished_at DESC LIMIT ${LOOKED_AT}`,
  );
}

/**
 * What a node's process takes that follows from no job: the most by which the measured peak of one of the last traces
 * was over what is known of it beforehand. Before the first trace, what a node took when it said hello; null where none
 * did.
 */
export function restBytes(done: readonly DoneTrace[], atHello: number | null): number | null {
  const measured = done.slice(0, COUNTED).map(restOf);
  return measured.length ? Math.max(0, ...measured) : atHello;
}
function restOf({ result, crop, widthPx, heightPx }: DoneTrace): number {
  const { peakBytes, plannedBytes } = result;
  const part = croppedPx({ widthPx, heightPx }, crop ?? undefined);
  return peakBytes - sumOf(plannedBytes) - hostBytes(plannedBytes, part.widthPx * part.heightPx);
}
