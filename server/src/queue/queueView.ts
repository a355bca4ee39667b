// The queue as people see it. What a trace is made from (its inputs, those of its cells) stays in the database.
import type { Queue, QueueTrace, TraceState } from '@variscen/contract';
import type { DataSource } from 'typeorm';
import type { TraceQueue } from './traceQueue.ts';

const OPEN: readonly TraceState[] = ['waiting', 'rendering'];
const ENDED: readonly TraceState[] = ['done', 'failed', 'undelivered', 'cancelled'];
const MOST_ENDED = 200;

type Row = Omit<QueueTrace, 'stage' | 'previewVersion' | 'slices' | 'createdAt' | 'startedAt' | 'finishedAt'> & {
  readonly createdAt: Date;
  readonly startedAt: Date | null;
  readonly finishedAt: Date | null;
};
const ROWS = `
  SELECT t.id, t.project_id "projectId", coalesce(p.name, '') "projectName", t.state,
    t.profile->>'name' "profileName", (t.profile->>'samples')::int samples,
    (SELECT jsonb_agg(jsonb_build_object(
        'cameraName', c.cell->'cameraName', 'variantName', c.cell->'variantName', 'version', c.cell->'version')
        ORDER BY c.n)
      FROM jsonb_array_elements(t.cells) WITH ORDINALITY c(cell, n)) cells,
    t.width_px "widthPx", t.height_px "heightPx", t.fraction, t.samples_done "samplesDone", t.node_name "nodeName",
    t.attempts, t.error, t.planned_bytes "plannedBytes", (t.result->>'peakBytes')::float8 "peakBytes",
    (t.result->>'seconds')::float8 seconds, r.id "renderId",
    t.created_at "createdAt", t.started_at "startedAt", t.finished_at "finishedAt"
  FROM trace t
  LEFT JOIN project p ON p.id = t.project_id
  LEFT JOIN LATERAL (SELECT id FROM render WHERE trace_id = t.id LIMIT 1) r ON true
  WHERE t.state = ANY($1)`;

export async function viewOfQueue(db: DataSource, queue: TraceQueue): Promise<Queue> {
  const rows = [
    ...(await db.query<Row[]>(`${ROWS} ORDER BY t.created_at, t.ordinal`, [OPEN])),
    ...(await db.query<Row[]>(`${ROWS} ORDER BY t.finished_at DESC LIMIT ${MOST_ENDED}`, [ENDED])),
  ];
  const rendering = rows.filter((r) => r.state === 'rendering').map((r) => r.id);
  const slices = await queue.slices.view(rendering);
  return {
    traces: rows.map((row) => ({
      ...row,
      stage: queue.stage(row.id),
      previewVersion: queue.previewVersion(row.id),
      slices: slices.get(row.id) ?? [],
      createdAt: row.createdAt.toISOString(),
      startedAt: row.startedAt?.toISOString() ?? null,
      finishedAt: row.finishedAt?.toISOString() ?? null,
    })),
    nodes: queue.nodes.view(),
    pausedFor: queue.pausedFor,
  };
}
