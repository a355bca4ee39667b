// The queue as people see it, a page at a time. What a trace is made from (its inputs, those of its cells) stays in the
// database.
import type { EndedTraces, Queue, QueueBatch, QueueTrace, TraceState } from '@variscen/contract';
import type { DataSource } from 'typeorm';
import { priorityOf } from './queueActions.ts';
import type { TraceQueue } from './traceQueue.ts';

const ENDED: readonly TraceState[] = ['done', 'failed', 'undelivered', 'cancelled'];
/** Of the first look: enough for a screen. */
const FIRST_OPEN = 60;
const FIRST_ENDED = 50;

type Row = Omit<
  QueueTrace,
  'stage' | 'previewVersion' | 'slices' | 'priority' | 'createdAt' | 'startedAt' | 'finishedAt'
> & {
  readonly priority: number;
  readonly createdAt: Date;
  readonly startedAt: Date | null;
  readonly finishedAt: Date | null;
};
/**
 * Of a sequence, traces that are in the same state for the same reason stand in one row; one that renders stands alone.
 *
 * @returns whether a trace stands in one row with trace t
 */
const alike = (o: string): string =>
  `(${o}.sequence_id = t.sequence_id AND ${o}.state = t.state AND t.state <> 'rendering' AND ${o}.priority = t.priority
    AND ${o}.error IS NOT DISTINCT FROM t.error)`;
/** @param order whether trace o comes before trace t in the list: the first stands for its row */
const isFirst = (order: string): string =>
  `(t.sequence_id IS NULL OR NOT EXISTS (SELECT 1 FROM trace o WHERE ${alike('o')} AND ${order}))`;
/** Of a trace that serves many. */
const CELLS_TOLD = 4;
/** What is shown is looked up of the traces of the page alone. @param where and order: of trace t, project p */
const rowsOf = (where: string, order: string, page: string): string => `
  SELECT t.id, t.batch_id "batchId", t.project_id "projectId", coalesce(p.name, '') "projectName", t.state, t.priority,
    t.profile->>'name' "profileName", (t.profile->>'samples')::int samples,
    (SELECT jsonb_agg(jsonb_build_object(
        'cameraName', c.cell->'cameraName', 'variantName', c.cell->'variantName', 'version', c.cell->'version')
        ORDER BY c.n)
      FROM jsonb_array_elements(t.cells) WITH ORDINALITY c(cell, n) WHERE c.n <= ${CELLS_TOLD}) cells,
    jsonb_array_length(t.cells) "cellCount",
    t.width_px "widthPx", t.height_px "heightPx", t.fraction, t.samples_done "samplesDone", t.node_name "nodeName",
    t.attempts, t.error, t.planned_bytes "plannedBytes",
    coalesce(alike.peak, (t.result->>'peakBytes')::float8) "peakBytes",
    coalesce(alike.seconds, (t.result->>'seconds')::float8) seconds,
    coalesce(alike.expected, t.expected_s) "expectedS", r.id "renderId",
    t.created_at "createdAt", t.started_at "startedAt", t.finished_at "finishedAt",
    t.frame, t.sequence_id "sequenceId", alike.frames "framesAlike"
  FROM (
    SELECT t.id FROM trace t LEFT JOIN project p ON p.id = t.project_id WHERE ${where} ORDER BY ${order} ${page}
  ) shown
  JOIN trace t ON t.id = shown.id
  LEFT JOIN project p ON p.id = t.project_id
  LEFT JOIN LATERAL (
    SELECT jsonb_agg(o.frame ORDER BY o.frame) frames,
      CASE WHEN count(*) = count(o.expected_s) THEN sum(o.expected_s) END expected,
      sum((o.result->>'seconds')::float8) seconds, max((o.result->>'peakBytes')::float8) peak
    FROM trace o WHERE ${alike('o')}
  ) alike ON true
  LEFT JOIN LATERAL (SELECT id FROM render WHERE trace_id = t.id LIMIT 1) r ON true
  ORDER BY ${order}`;
const COUNTED = `count(*) FILTER (WHERE state = 'waiting')::int waiting, count(*) FILTER (WHERE state = 'paused')::int paused,
  count(*) FILTER (WHERE state = 'rendering')::int rendering,
  count(*) FILTER (WHERE state IN ('failed', 'undelivered'))::int failed`;

export interface EndedWish {
  readonly after?: string;
  readonly limit: number;
  readonly state?: TraceState;
  readonly projectId?: string;
  readonly text?: string;
}

export class QueueView {
  constructor(
    private readonly db: DataSource,
    private readonly queue: TraceQueue,
  ) {}

  async look(): Promise<Queue> {
    // one after the other: what ends between the two is in both, and never in neither
    const open = await this.open(0, FIRST_OPEN);
    const ended = await this.ended({ limit: FIRST_ENDED });
    const isEnded = new Set(ended.traces.map((t) => t.id));
    const [[counts], batches] = await Promise.all([
      this.db.query<[Queue['counts']]>(
        `SELECT ${COUNTED} FROM trace WHERE state IN ('waiting', 'paused', 'rendering', 'failed', 'undelivered')`,
      ),
      this.batches(),
    ]);
    return {
      traces: [...open.filter((t) => !isEnded.has(t.id)), ...ended.traces],
      counts,
      batches,
      nodes: this.queue.nodes.view(this.queue.hours),
      pausedFor: this.queue.pause.reason,
      isHeld: this.queue.pause.isHeld,
    };
  }

  /** What renders first, then what waits or is paused, in its order. */
  async open(offset: number, limit: number): Promise<QueueTrace[]> {
    const rows = await this.db.query<Row[]>(
      rowsOf(
        `t.state IN ('waiting', 'paused', 'rendering') AND ${isFirst('(o.position, o.id) < (t.position, t.id)')}`,
        `t.state = 'rendering' DESC, t.priority DESC, t.position, t.id`,
        'LIMIT $1 OFFSET $2',
      ),
      [limit, offset],
    );
    return this.traces(rows);
  }

  async ended({ after, limit, state, projectId, text }: EndedWish): Promise<EndedTraces> {
    const [at, id] = after?.split('~') ?? [null, null];
    const rows = await this.db.query<Row[]>(
      rowsOf(
        `t.state = ANY($1) AND ${isFirst('(o.finished_at, o.id) > (t.finished_at, t.id)')}
        AND ($2::timestamptz IS NULL OR (t.finished_at, t.id) < ($2, $3::uuid))
        AND ($4::uuid IS NULL OR t.project_id = $4)
        AND ($5::text IS NULL OR position(lower($5) IN lower(coalesce(p.name, ''))) > 0 OR EXISTS (
          SELECT 1 FROM jsonb_array_elements(t.cells) c(cell)
            WHERE position(lower($5) IN lower(c.cell->>'cameraName' || ' ' || (c.cell->>'variantName'))) > 0))`,
        't.finished_at DESC, t.id DESC',
        'LIMIT $6',
      ),
      [state ? [state] : ENDED, at, id, projectId ?? null, text?.trim() || null, limit],
    );
    const last = rows.length === limit ? rows.at(-1)! : null;
    return {
      traces: await this.traces(rows),
      next: last?.finishedAt ? `${last.finishedAt.toISOString()}~${last.id}` : null,
    };
  }

  /** Those with something to come, the next first. */
  private async batches(): Promise<QueueBatch[]> {
    const rows = await this.db.query<
      (Omit<QueueBatch, 'createdAt' | 'counts'> & QueueBatch['counts'] & { createdAt: Date })[]
    >(
      `SELECT b.id, b.project_id "projectId", p.name "projectName", b.profile->>'name' "profileName", b.created_at "createdAt", x.*
        FROM (SELECT batch_id, ${COUNTED}, count(*) FILTER (WHERE state = 'done')::int done,
            count(*) FILTER (WHERE state = 'cancelled')::int cancelled,
            min(position) FILTER (WHERE state IN ('waiting', 'paused', 'rendering')) first,
            CASE WHEN bool_or(expected_s IS NULL AND state IN ('waiting', 'paused', 'rendering')) THEN NULL
              ELSE sum(expected_s * (1 - fraction)) FILTER (WHERE state IN ('waiting', 'paused', 'rendering')) END "leftS"
          FROM trace WHERE batch_id IN (SELECT batch_id FROM trace WHERE state IN ('waiting', 'paused', 'rendering'))
          GROUP BY batch_id) x
        JOIN batch b ON b.id = x.batch_id JOIN project p ON p.id = b.project_id ORDER BY x.first`,
    );
    return rows.map(({ id, projectId, projectName, profileName, createdAt, leftS, ...n }) => ({
      id,
      projectId,
      projectName,
      profileName,
      createdAt: createdAt.toISOString(),
      counts: {
        waiting: n.waiting,
        paused: n.paused,
        rendering: n.rendering,
        done: n.done,
        failed: n.failed,
        cancelled: n.cancelled,
      },
      leftS,
    }));
  }

  private async traces(rows: readonly Row[]): Promise<QueueTrace[]> {
    const sliced = rows.filter((r) => r.state === 'rendering' || r.state === 'paused').map((r) => r.id);
    const slices = await this.queue.slices.view(sliced);
    return rows.map((row) => ({
      ...row,
      priority: priorityOf(row.priority),
      ...this.queue.running.lastReport(row.id),
      previewVersion: this.queue.running.previewVersion(row.id),
      slices: slices.get(row.id) ?? [],
      createdAt: row.createdAt.toISOString(),
      startedAt: row.startedAt?.toISOString() ?? null,
      finishedAt: row.finishedAt?.toISOString() ?? null,
    }));
  }
}
