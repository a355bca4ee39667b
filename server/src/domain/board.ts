// The board: for each cell the latest render, whether it is still what would be rendered now, and if not, what changed.
import type { Board, BoardCell, CellCounts, CellStatus, Render } from '@variscen/contract';
import { In } from 'typeorm';
import { type RenderRow, Renders, type TraceRow, Traces } from '../db/entities.ts';
import type { Context } from './context.ts';
import type { ProjectService } from './projects.ts';

export class BoardService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  async board(projectId: string): Promise<Board> {
    const p = await this.projects.get(projectId);
    if (!p.revision) return { cells: [] };
    const now = await this.c.looks.ask({ kind: 'board', projectId });
    const latest = new Map<string, RenderRow>();
    const key = (r: { cameraId: string; variantId: string }) => `${r.cameraId} ${r.variantId}`;
    const rows = await this.c.db
      .getRepository(Renders)
      .createQueryBuilder('r')
      .select(WITHOUT_INPUTS.map((k) => `r.${k}`))
      .distinctOn(['r.cameraId', 'r.variantId'])
      .where('r.projectId = :projectId', { projectId })
      .orderBy({ 'r.cameraId': 'ASC', 'r.variantId': 'ASC', 'r.version': 'DESC' })
      .getMany();
    for (const r of rows) latest.set(key(r), r);
    const traces = new Map<string, TraceRow>();
    for (const t of await this.c.db.getRepository(Traces).find({
      where: { projectId, state: In(['waiting', 'rendering', 'failed', 'undelivered']) },
      order: { createdAt: 'ASC', ordinal: 'ASC' },
    }))
      for (const cell of t.cells) traces.set(key(cell), t);
    return {
      // an edit between the two readings may have taken a variant away
      cells: now
        .filter((n) => p.variants.some((v) => v.id === n.variantId))
        .map(({ hash, differences, ...ref }): BoardCell => {
          const variant = p.variants.find((v) => v.id === ref.variantId)!;
          const render = latest.get(key(ref));
          const found = traces.get(key(ref));
          // a failure counts until something newer was rendered
          const trace =
            found &&
            (found.state === 'waiting' || found.state === 'rendering' || !render || render.createdAt < found.createdAt)
              ? found
              : undefined;
          const isExcluded = variant.excludedCameraIds.includes(ref.cameraId);
          const status = isExcluded ? 'excluded' : statusOf(trace, render, hash);
          return {
            ...ref,
            status,
            hash,
            render: render ? renderOf(render) : null,
            differences: render && render.hash !== hash ? [...differences] : [],
            trace: trace
              ? {
                  id: trace.id,
                  fraction: trace.fraction,
                  samplesDone: trace.samplesDone,
                  previewVersion: this.c.queue.previewVersion(trace.id),
                  error: trace.error,
                }
              : null,
          };
        }),
    };
  }

  async counts(projectId: string): Promise<CellCounts> {
    const { cells } = await this.board(projectId);
    const total = cells.filter((c) => c.status !== 'excluded').length;
    return { total, current: cells.filter((c) => c.status === 'current').length };
  }

  async history(projectId: string, cameraId: string, variantId: string): Promise<Render[]> {
    await this.projects.row(projectId);
    return (
      await this.c.db
        .getRepository(Renders)
        .find({ where: { projectId, cameraId, variantId }, order: { version: 'DESC' } })
    ).map(renderOf);
  }
}

function statusOf(trace: TraceRow | undefined, render: RenderRow | undefined, hash: string): CellStatus {
  if (trace) return trace.state === 'waiting' || trace.state === 'rendering' ? trace.state : 'failed';
  if (!render) return 'never';
  return render.hash === hash ? 'current' : 'outdated';
}

/** What a picture was made from may be thousands of values, which the board's own thread looks at. */
const WITHOUT_INPUTS = [
  'id',
  'projectId',
  'traceId',
  'cameraId',
  'variantId',
  'version',
  'hash',
  'profile',
  'widthPx',
  'heightPx',
  'files',
  'result',
  'createdAt',
] as const;

export const renderOf = (r: RenderRow): Render => ({
  id: r.id,
  cameraId: r.cameraId,
  variantId: r.variantId,
  version: r.version,
  hash: r.hash,
  profile: r.profile,
  widthPx: r.widthPx,
  heightPx: r.heightPx,
  files: r.files,
  createdAt: r.createdAt.toISOString(),
  samples: r.result.samples,
  seconds: r.result.seconds,
  rays: r.result.rays,
  plannedBytes: r.result.plannedBytes,
  peakBytes: r.result.peakBytes,
  droppedObjects: r.result.droppedObjects,
});
