// The board: for each cell the latest render, whether it is still what would be rendered now, and if not, what changed.
import type { Board, BoardCell, CellCounts, CellStatus, FileFault, Render, TraceState } from '@variscen/contract';
import { DRAWING } from '@variscen/engine';
import { type ProfileException, profileDifferences, profileFor } from '@variscen/core/plan';
import { In } from 'typeorm';
import { type RenderRow, Renders } from '../db/entities.ts';
import type { Context } from './context.ts';
import type { ProfileService } from './profiles.ts';
import type { ProjectService } from './projects.ts';

const LOOKED_AT_ONCE = 16;

export class BoardService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
    private readonly profiles: ProfileService,
  ) {}

  /** @param profileId cells are as they are in this profile; absent: by their latest render, whatever its profile */
  async board(projectId: string, profileId?: string): Promise<Board> {
    const p = await this.projects.get(projectId);
    if (!p.revision) return { cells: [] };
    const profile = profileId === undefined ? null : await this.profiles.find(p, profileId);
    const exceptions = p.exceptions as readonly ProfileException[];
    const now = await this.c.looks.ask({ kind: 'board', projectId, profileId: profileId ?? null });
    const latest = new Map<string, RenderRow>();
    const key = (r: { cameraId: string; variantId: string }) => `${r.cameraId} ${r.variantId}`;
    const rows = await this.c.db
      .getRepository(Renders)
      .createQueryBuilder('r')
      .select(WITHOUT_INPUTS.map((k) => `r.${k}`))
      .distinctOn(['r.cameraId', 'r.variantId'])
      .where('r.projectId = :projectId', { projectId })
      .andWhere(`(:profileId::text IS NULL OR r.profile->>'id' = :profileId)`, { profileId: profileId ?? null })
      .orderBy({ 'r.cameraId': 'ASC', 'r.variantId': 'ASC', 'r.version': 'DESC' })
      .getMany();
    for (const r of rows) latest.set(key(r), r);
    const open = await this.c.db.query<CellTrace[]>(CELL_TRACES, [projectId, profileId ?? null]);
    const traces = new Map(open.map((t) => [key(t), t]));
    const faults = await this.faultsOf([...latest.values()]);
    return {
      // an edit between the two readings may have taken a variant away
      cells: now
        .filter((n) => p.variants.some((v) => v.id === n.variantId))
        .map(({ hash, differences, ...ref }): BoardCell => {
          const variant = p.variants.find((v) => v.id === ref.variantId)!;
          const render = latest.get(key(ref));
          const found = traces.get(key(ref));
          // a failure counts until something newer was rendered
          const trace = found && (isToCome(found) || !render || render.createdAt < found.createdAt) ? found : undefined;
          const isExcluded = variant.excludedCameraIds.includes(ref.cameraId);
          const fileFault = (render && faults.get(render.id)) ?? null;
          const otherwise =
            profile && render ? profileDifferences(render.profile, profileFor(profile, exceptions, ref)) : [];
          const drawn = render ? drawnOtherwise(render) : [];
          const isAsPlanned = render?.hash === hash && !otherwise.length && !drawn.length && !fileFault;
          const status = isExcluded ? 'excluded' : statusOf(trace, render, isAsPlanned);
          return {
            ...ref,
            status,
            hash,
            render: render ? renderOf(render) : null,
            fileFault,
            differences: [
              ...(render && render.hash !== hash ? differences : []),
              ...drawn,
              ...otherwise.map((d) => ({ subject: `Profile ${profile?.name}`, ...d })),
            ],
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
    const { revision } = await this.projects.get(projectId);
    if (!revision) return { total: 0, current: 0 };
    const { total, currentRenderIds } = await this.c.looks.ask({ kind: 'counts', projectId });
    const rows = await this.c.db
      .getRepository(Renders)
      .find({ select: { id: true, files: true, result: true }, where: { id: In([...currentRenderIds]) } });
    const asNow = rows.filter((r) => !drawnOtherwise(r).length);
    return { total, current: asNow.length - (await this.faultsOf(asNow)).size };
  }

  /** By render the first of its files that is gone or is not what was stored. */
  private async faultsOf(rows: readonly Pick<RenderRow, 'id' | 'files'>[]): Promise<Map<string, FileFault>> {
    const out = new Map<string, FileFault>();
    const queue = [...rows];
    const one = async () => {
      for (let r = queue.pop(); r; r = queue.pop())
        for (const file of r.files) {
          const fault = await this.c.output.faultOf(file);
          if (fault && !out.has(r.id)) out.set(r.id, { path: file.path, fault });
        }
    };
    await Promise.all(Array.from({ length: LOOKED_AT_ONCE }, one));
    return out;
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

/** Pictures from before it was recorded are of the first. */
const FIRST_DRAWING = 1;
/** Whether the engine draws otherwise than it did when a picture was rendered. */
function drawnOtherwise({ result }: Pick<RenderRow, 'result'>): BoardCell['differences'] {
  const was = result.drawing ?? FIRST_DRAWING;
  return was === DRAWING ? [] : [{ subject: 'Engine', what: 'way of drawing', was: `${was}`, is: `${DRAWING}` }];
}

/** The last trace of each cell that is not done, without what it is made from. */
interface CellTrace {
  readonly id: string;
  readonly cameraId: string;
  readonly variantId: string;
  readonly state: TraceState;
  readonly createdAt: Date;
  readonly fraction: number;
  readonly samplesDone: number;
  readonly error: string | null;
}
const CELL_TRACES = `
  SELECT DISTINCT ON (c.cell->>'cameraId', c.cell->>'variantId')
    t.id, c.cell->>'cameraId' "cameraId", c.cell->>'variantId' "variantId", t.state, t.created_at "createdAt",
    t.fraction, t.samples_done "samplesDone", t.error
  FROM trace t, jsonb_array_elements(t.cells) c(cell)
  WHERE t.project_id = $1 AND t.state IN ('waiting', 'paused', 'rendering', 'failed', 'undelivered')
    AND ($2::text IS NULL OR t.profile->>'id' = $2)
  ORDER BY c.cell->>'cameraId', c.cell->>'variantId', t.created_at DESC, t.ordinal DESC`;

/** Waits, at once or when somebody says so, or renders. */
const isToCome = ({ state }: CellTrace): boolean => state === 'waiting' || state === 'paused' || state === 'rendering';

function statusOf(trace: CellTrace | undefined, render: RenderRow | undefined, isAsPlanned: boolean): CellStatus {
  if (trace?.state === 'rendering') return 'rendering';
  if (trace) return isToCome(trace) ? 'waiting' : 'failed';
  if (!render) return 'never';
  return isAsPlanned ? 'current' : 'outdated';
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
