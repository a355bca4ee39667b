// When a batch ends, what came of it, and that it is told: to open pages, and by the webhook.
import { AppError, type BatchSummary } from '@variscen/contract';
import type { DataSource } from 'typeorm';
import { Batches } from '../db/entities/index.ts';
import type { Events } from '../events.ts';
import type { Webhook } from './webhook.ts';

/** States of traces of which something is to come, as SQL has them. */
export const OPEN = `('waiting', 'paused', 'rendering')`;
/** What could not be told for so long is told no more. */
const TOLD_WITHIN_HOURS = 24;
/** A trace's time within so much of what was expected is expected well. */
const WELL = 0.25;
const FAILED_NAMED = 100;

interface Row {
  readonly id: string;
  readonly projectId: string;
  readonly projectName: string;
  readonly profileName: string;
  readonly createdAt: Date;
  readonly endedAt: Date | null;
  readonly done: number;
  readonly failed: number;
  readonly cancelled: number;
  readonly open: number;
  readonly tookS: number;
  readonly estimates: BatchSummary['estimates'];
  readonly peakBytes: number;
  readonly fileBytes: number;
}

export class BatchEnds {
  private telling: Promise<void> = Promise.resolve();
  constructor(
    private readonly db: DataSource,
    private readonly events: Events,
    private readonly webhook: Webhook,
    private readonly now: () => Date,
    private readonly log: (message: string, error?: unknown) => void,
  ) {}

  /** Batches of which nothing is to come any more end; those that go on, since people asked for it, are open again. */
  async sweep(): Promise<void> {
    await this.db.query(
      `UPDATE batch b SET ended_at = NULL, told_at = NULL WHERE ended_at IS NOT NULL
        AND id IN (SELECT batch_id FROM trace WHERE state IN ${OPEN})`,
    );
    const [ended] = await this.db.query<[{ id: string }[]]>(
      `UPDATE batch b SET ended_at = $1 WHERE ended_at IS NULL
        AND NOT EXISTS (SELECT 1 FROM trace t WHERE t.batch_id = b.id AND t.state IN ${OPEN})
        AND EXISTS (SELECT 1 FROM trace t WHERE t.batch_id = b.id) RETURNING id`,
      [this.now()],
    );
    for (const { id } of ended) await this.show(id);
    this.telling = this.telling.then(() => this.tellAll()).catch((e: unknown) => this.log('webhook', e));
  }
  /** Until what is being told has been. */
  settled(): Promise<void> {
    return this.telling;
  }

  private async show(id: string): Promise<void> {
    const { projectId, text, cells } = await this.summary(id);
    if (cells.done + cells.failed > 0) this.events.emit({ type: 'batch-ended', batchId: id, projectId, text });
    this.events.emit({ type: 'queue' });
  }
  /** Ended and not told yet, also by a server before this one. */
  private async tellAll(): Promise<void> {
    const rows = await this.db.query<{ id: string; late: boolean }[]>(
      `SELECT id, ended_at < now() - interval '${TOLD_WITHIN_HOURS} hours' late FROM batch
        WHERE ended_at IS NOT NULL AND told_at IS NULL ORDER BY ended_at`,
    );
    for (const { id, late } of rows) {
      const summary = await this.summary(id);
      const isWorthIt = !late && summary.cells.done + summary.cells.failed > 0;
      if (isWorthIt && !(await this.webhook.tell(summary))) return; // again at a later look
      await this.db.getRepository(Batches).update({ id }, { toldAt: this.now() });
    }
  }

  /** The batches that ended last, the latest first. */
  async lately(limit: number): Promise<BatchSummary[]> {
    const rows = await this.db.query<{ id: string }[]>(
      'SELECT id FROM batch WHERE ended_at IS NOT NULL ORDER BY ended_at DESC LIMIT $1',
      [limit],
    );
    return Promise.all(rows.map((r) => this.summary(r.id)));
  }

  /** @throws AppError NOT_FOUND */
  async summary(id: string): Promise<BatchSummary> {
    const [row] = await this.db.query<Row[]>(
      `SELECT b.id, b.project_id "projectId", coalesce(p.name, '') "projectName", b.profile->>'name' "profileName",
          b.created_at "createdAt", b.ended_at "endedAt", x.*,
          (SELECT coalesce(sum((f->>'bytes')::float8), 0) FROM render r JOIN trace t ON t.id = r.trace_id,
            jsonb_array_elements(r.files) f WHERE t.batch_id = b.id) "fileBytes"
        FROM batch b LEFT JOIN project p ON p.id = b.project_id CROSS JOIN LATERAL (
          SELECT coalesce(sum(n) FILTER (WHERE state = 'done'), 0)::int done,
            coalesce(sum(n) FILTER (WHERE state IN ('failed', 'undelivered')), 0)::int failed,
            coalesce(sum(n) FILTER (WHERE state = 'cancelled'), 0)::int cancelled,
            coalesce(sum(n) FILTER (WHERE state IN ${OPEN}), 0)::int "open",
            coalesce(sum(took), 0) "tookS",
            jsonb_build_object(
              'traces', count(*) FILTER (WHERE took IS NOT NULL AND expected IS NOT NULL),
              'expectedS', coalesce(sum(expected) FILTER (WHERE took IS NOT NULL), 0),
              'tookS', coalesce(sum(took) FILTER (WHERE expected IS NOT NULL), 0),
              'well', count(*) FILTER (WHERE abs(expected - took) <= ${WELL} * took)) estimates,
            coalesce(max(peak), 0) "peakBytes"
          FROM (SELECT state, jsonb_array_length(cells) n, expected_s expected, (result->>'seconds')::float8 took,
              (result->>'peakBytes')::float8 peak FROM trace WHERE batch_id = b.id) t) x
        WHERE b.id = $1`,
      [id],
    );
    if (!row) throw new AppError('NOT_FOUND', 'There is no such batch.');
    const { done, failed, cancelled, open, createdAt, endedAt, ...rest } = row;
    const wallS = ((endedAt ?? this.now()).getTime() - createdAt.getTime()) / 1000;
    const cells = { done, failed, cancelled, open };
    return {
      ...rest,
      createdAt: createdAt.toISOString(),
      endedAt: endedAt?.toISOString() ?? null,
      cells,
      failed: await this.failedOf(id),
      wallS,
      text: textOf(rest.projectName, rest.profileName, cells, wallS),
    };
  }
  private failedOf(id: string): Promise<BatchSummary['failed']> {
    return this.db.query(
      `SELECT t.id "traceId", coalesce(error, 'It was not said why.') error, (
          SELECT string_agg((c->>'cameraName') || ' in ' || (c->>'variantName') || coalesce(', frame ' || (c->>'frame'), ''), ', ')
            FROM jsonb_array_elements(t.cells) c) cells
        FROM trace t WHERE batch_id = $1 AND state IN ('failed', 'undelivered') ORDER BY ordinal LIMIT ${FAILED_NAMED}`,
      [id],
    );
  }
}

function textOf(
  project: string,
  profile: string,
  { done, failed, cancelled, open }: BatchSummary['cells'],
  wallS: number,
): string {
  const all = done + failed + cancelled + open;
  const rest = [
    ...(failed ? [`${failed} failed`] : []),
    ...(cancelled ? [`${cancelled} ${cancelled === 1 ? 'was' : 'were'} cancelled`] : []),
    ...(open ? [`${open} ${open === 1 ? 'is' : 'are'} to come`] : []),
  ];
  const what = `${done} of ${all} ${all === 1 ? 'cell' : 'cells'} ${done === 1 ? 'is' : 'are'} done`;
  return `${project}, ${profile}: ${[what, ...rest].join(', ')}, in ${timeOf(wallS)}.`;
}
function timeOf(s: number): string {
  const t = Math.round(s);
  if (t < 60) return `${t} s`;
  if (t < 3600) return `${Math.floor(t / 60)} min ${t % 60} s`;
  return `${Math.floor(t / 3600)} h ${Math.floor((t % 3600) / 60)} min`;
}
