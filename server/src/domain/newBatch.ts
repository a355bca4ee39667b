// A batch as it is queued: its traces, their promised outputs and their entries, in one transaction.
import { randomUUID } from 'node:crypto';
import { AppError } from '@variscen/contract';
import { pathOfPicture } from '@variscen/core/plan';
import type { EntityManager } from 'typeorm';
import { type BatchRow, type TraceRow, Batches, Outputs, Traces } from '../db/entities/index.ts';
import type { Context } from './context.ts';
import { isTaken } from './edits.ts';

export type NewTrace = Pick<
  TraceRow,
  'inputs' | 'profile' | 'widthPx' | 'heightPx' | 'plannedBytes' | 'expectedS' | 'frame' | 'sequenceId' | 'cells'
>;
export type NewBatch = Pick<BatchRow, 'id' | 'projectId' | 'profile'>;

/** Rows of one statement, which may hold so many values at most. */
const ROWS_AT_ONCE = 500;

/** All of it or nothing. @throws AppError WRONG_STATE where another one was promised the same outputs meanwhile */
export async function queueBatch(c: Context, batch: NewBatch, traces: readonly NewTrace[]): Promise<void> {
  try {
    await c.db.transaction((m) => insert(c, m, batch, traces));
  } catch (e) {
    throw isTaken(e)
      ? new AppError(
          'WRONG_STATE',
          'Another batch with the same cells was queued at the same moment.',
          'Look at the board, then render again if it is still needed.',
        )
      : e;
  }
  c.events.emit({ type: 'queue' });
  c.events.emit({ type: 'project', projectId: batch.projectId });
}

async function insert(c: Context, m: EntityManager, batch: NewBatch, traces: readonly NewTrace[]): Promise<void> {
  const createdAt = c.now();
  const { id: batchId, projectId } = batch;
  await m.insert(Batches, { ...batch, createdAt });
  const rows = traces.map((t, ordinal) => ({
    ...t,
    id: randomUUID(),
    batchId,
    projectId,
    ordinal,
    state: 'waiting' as const,
    attempts: 0,
    fraction: 0,
    samplesDone: 0,
    createdAt,
  }));
  for (let from = 0; from < rows.length; from += ROWS_AT_ONCE)
    await m.insert(Traces, rows.slice(from, from + ROWS_AT_ONCE) as never);
  const outputs = rows.flatMap((row) =>
    row.cells.map(({ cameraId, variantId, frame = null, version, path }) => ({
      id: randomUUID(),
      traceId: row.id,
      cameraId,
      variantId,
      frame,
      version,
      path: pathOfPicture(path),
    })),
  );
  for (let from = 0; from < outputs.length; from += ROWS_AT_ONCE)
    await m.insert(Outputs, outputs.slice(from, from + ROWS_AT_ONCE));
  await c.queue.entries.add(
    m,
    rows.map((r) => r.id),
  );
}
