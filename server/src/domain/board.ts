// The board: for each cell the latest render, whether it is still what would be rendered now, and if not, what changed.
import type {
  Board,
  BoardCell,
  CellCounts,
  CellFrame,
  CellStatus,
  FileFault,
  FrameCounts,
  Render,
  TraceState,
} from '@variscen/contract';
import { DRAWING } from '@variscen/engine';
import { type ProfileException, profileDifferences, profileFor } from '@variscen/core/plan';
import { Any } from 'typeorm';
import { type RenderRow, Renders } from '../db/entities/index.ts';
import { type CellRef, type PictureRef, byCell, pictureKey } from '../work/looksTasks.ts';
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
    const pictures = await this.pictures(projectId, profileId ?? null);
    return { cells: [...byCell(pictures).values()].map(cellOf) };
  }

  /** Pictures of a sequence; none of a cell that is one picture. */
  async frames(projectId: string, cell: CellRef, profileId?: string): Promise<CellFrame[]> {
    return (await this.sequence(projectId, cell, profileId)).map(
      ({ frame, status, render, fileFault, trace }): CellFrame => ({
        frame,
        status,
        renderId: render?.id ?? null,
        version: render?.version ?? null,
        fileFault,
        trace,
      }),
    );
  }
  /** Renders of a sequence's frames that are there, the first frame first. */
  async rendered(projectId: string, cell: CellRef, profileId?: string): Promise<(Render & { frame: number })[]> {
    return (await this.sequence(projectId, cell, profileId)).flatMap(({ frame, render, fileFault }) =>
      render && fileFault === null ? [{ ...render, frame }] : [],
    );
  }
  private async sequence(projectId: string, cell: CellRef, profileId?: string) {
    const pictures = await this.pictures(projectId, profileId ?? null, cell);
    return pictures.flatMap((p) => (p.frame === null ? [] : [{ ...p, frame: p.frame }]));
  }

  /** Every picture, or those of one cell, as they are now. */
  private async pictures(
    projectId: string,
    profileId: string | null,
    cell: CellRef | null = null,
  ): Promise<readonly Picture[]> {
    const p = await this.projects.get(projectId);
    if (!p.revision) return [];
    const profile = profileId === null ? null : await this.profiles.find(p, profileId);
    const exceptions = p.exceptions as readonly ProfileException[];
    const now = await this.c.looks.ask({ kind: 'board', projectId, profileId, cell });
    const latest = await this.latest(projectId, profileId, cell);
    const open = await this.c.db.query<PictureTrace[]>(PICTURE_TRACES, [projectId, profileId]);
    const traces = new Map(open.map((t) => [pictureKey(t), t]));
    const faults = await this.faultsOf([...latest.values()]);
    const variants = new Map(p.variants.map((v) => [v.id, v]));
    return (
      now
        // an edit between the two readings may have taken a variant away
        .filter((n) => variants.has(n.variantId))
        .map(({ hash, stands, differences, ...ref }): Picture => {
          const render = latest.get(pictureKey(ref));
          const found = traces.get(pictureKey(ref));
          // a failure counts until something newer was rendered
          const trace = found && (isToCome(found) || !render || render.createdAt < found.createdAt) ? found : undefined;
          const isExcluded = variants.get(ref.variantId)!.excludedCameraIds.includes(ref.cameraId);
          const fileFault = (render && faults.get(render.id)) ?? null;
          const otherwise =
            profile && render ? profileDifferences(render.profile, profileFor(profile, exceptions, ref)) : [];
          const drawn = render ? drawnOtherwise(render) : [];
          const isOfThis = render?.hash === hash || stands;
          const isAsPlanned = isOfThis && !otherwise.length && !drawn.length && !fileFault;
          return {
            ...ref,
            status: isExcluded ? 'excluded' : statusOf(trace, render, isAsPlanned),
            hash,
            render: render ? renderOf(render) : null,
            fileFault,
            stands,
            differences: [
              ...(render && render.hash !== hash ? differences : []),
              ...drawn,
              ...otherwise.map((d) => ({ subject: `Profile ${profile?.name}`, ...d })),
            ],
            trace: trace ? this.traceOf(trace) : null,
          };
        })
    );
  }

  /** By picture its latest render. */
  private async latest(
    projectId: string,
    profileId: string | null,
    cell: CellRef | null,
  ): Promise<Map<string, RenderRow>> {
    const wanted = this.c.db
      .getRepository(Renders)
      .createQueryBuilder('r')
      .select(WITHOUT_INPUTS.map((k) => `r.${k}`))
      .distinctOn(['r.cameraId', 'r.variantId', 'r.frame'])
      .where('r.projectId = :projectId', { projectId })
      .andWhere(`(:profileId::text IS NULL OR r.profile->>'id' = :profileId)`, { profileId })
      .orderBy({ 'r.cameraId': 'ASC', 'r.variantId': 'ASC', 'r.frame': 'ASC', 'r.version': 'DESC' });
    if (cell) wanted.andWhere('r.cameraId = :cameraId AND r.variantId = :variantId', { ...cell });
    return new Map((await wanted.getMany()).map((r) => [pictureKey(r), r]));
  }

  private traceOf({ id, fraction, samplesDone, error }: PictureTrace): BoardCell['trace'] {
    return { id, fraction, samplesDone, previewVersion: this.c.queue.running.previewVersion(id), error };
  }

  async counts(projectId: string): Promise<CellCounts> {
    const { revision } = await this.projects.get(projectId);
    if (!revision) return { total: 0, current: 0 };
    const { total, current } = await this.c.looks.ask({ kind: 'counts', projectId });
    const rows = await this.c.db
      .getRepository(Renders)
      .find({ select: { id: true, files: true, result: true }, where: { id: Any(current.flat()) } });
    const asNow = rows.filter((r) => !drawnOtherwise(r).length);
    const faults = await this.faultsOf(asNow);
    const isCurrent = new Set(asNow.map((r) => r.id).filter((id) => !faults.has(id)));
    return { total, current: current.filter((ids) => ids.every((id) => isCurrent.has(id))).length };
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
        .find({ where: { projectId, cameraId, variantId }, order: { version: 'DESC', frame: 'ASC' } })
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

/** A picture as it is now. */
type Picture = PictureRef & Omit<BoardCell, 'frames'>;

/** The last trace of each picture that is not done, without what it is made from. */
interface PictureTrace {
  readonly id: string;
  readonly cameraId: string;
  readonly variantId: string;
  readonly frame: number | null;
  readonly state: TraceState;
  readonly createdAt: Date;
  readonly fraction: number;
  readonly samplesDone: number;
  readonly error: string | null;
}
const PICTURE_TRACES = `
  SELECT DISTINCT ON (c.cell->>'cameraId', c.cell->>'variantId', t.frame)
    t.id, c.cell->>'cameraId' "cameraId", c.cell->>'variantId' "variantId", t.frame, t.state, t.created_at "createdAt",
    t.fraction, t.samples_done "samplesDone", t.error
  FROM trace t, jsonb_array_elements(t.cells) c(cell)
  WHERE t.project_id = $1 AND t.state IN ('waiting', 'paused', 'rendering', 'failed', 'undelivered')
    AND ($2::text IS NULL OR t.profile->>'id' = $2)
  ORDER BY c.cell->>'cameraId', c.cell->>'variantId', t.frame, t.created_at DESC, t.ordinal DESC`;

/** Waits, at once or when somebody says so, or renders. */
const isToCome = ({ state }: PictureTrace): boolean =>
  state === 'waiting' || state === 'paused' || state === 'rendering';

function statusOf(trace: PictureTrace | undefined, render: RenderRow | undefined, isAsPlanned: boolean): CellStatus {
  if (trace?.state === 'rendering') return 'rendering';
  if (trace) return isToCome(trace) ? 'waiting' : 'failed';
  if (!render) return 'never';
  return isAsPlanned ? 'current' : 'outdated';
}

/** The first that holds for any picture holds for the sequence; all that are there and as planned: it is current. */
const WORST: readonly CellStatus[] = ['excluded', 'rendering', 'failed', 'waiting', 'outdated', 'never', 'current'];

/** A cell of its pictures, which stand in the order of their frames. */
function cellOf(pictures: readonly Picture[]): BoardCell {
  const [first] = pictures as [Picture];
  const { cameraId, variantId, frame, hash } = first;
  if (frame === null) return { ...withoutFrame(first), frames: null };
  const counted = { total: pictures.length, never: 0, current: 0, outdated: 0, waiting: 0, rendering: 0, failed: 0 };
  for (const { status } of pictures) if (status !== 'excluded') counted[status]++;
  const isPartly = counted.never > 0 && counted.never < pictures.length;
  const worst = WORST.find((s) => pictures.some((p) => p.status === s))!;
  // what renders is shown, then what failed; else the middle one of those that are there
  const busy = pictures.find((p) => p.status === worst && p.trace);
  const there = pictures.filter((p) => p.render);
  return {
    cameraId,
    variantId,
    status: worst === 'never' && isPartly ? 'outdated' : worst,
    hash,
    render: there[Math.floor(there.length / 2)]?.render ?? null,
    fileFault: pictures.find((p) => p.fileFault)?.fileFault ?? null,
    stands: pictures.some((p) => p.stands) && pictures.every((p) => p.stands || p.hash === p.render?.hash),
    differences: pictures.find((p) => p.differences.length)?.differences ?? [],
    trace: busy?.trace ?? null,
    frames: counted satisfies FrameCounts,
  };
}
const withoutFrame = ({ frame: _, ...cell }: Picture): Omit<BoardCell, 'frames'> => cell;

/** What a picture was made from may be thousands of values, which the board's own thread looks at. */
const WITHOUT_INPUTS = [
  'id',
  'projectId',
  'traceId',
  'cameraId',
  'variantId',
  'frame',
  'version',
  'hash',
  'profile',
  'widthPx',
  'heightPx',
  'files',
  'result',
  'createdAt',
  'cleaningId',
] as const;

export const renderOf = (r: Omit<RenderRow, 'inputs' | 'met'>): Render => ({
  id: r.id,
  cameraId: r.cameraId,
  variantId: r.variantId,
  frame: r.frame,
  version: r.version,
  hash: r.hash,
  profile: r.profile,
  widthPx: r.widthPx,
  heightPx: r.heightPx,
  files: r.files,
  createdAt: r.createdAt.toISOString(),
  isCleaned: r.cleaningId !== null,
  samples: r.result.samples,
  seconds: r.result.seconds,
  rays: r.result.rays,
  plannedBytes: r.result.plannedBytes,
  peakBytes: r.result.peakBytes,
  droppedObjects: r.result.droppedObjects,
  simplifiedObjects: r.result.simplifiedObjects ?? 0,
  inPartObjects: r.result.inPartObjects ?? 0,
  meshes: r.result.meshes ?? null,
  developedFrom: r.result.developedFrom ?? null,
  lightings: r.result.lightings ?? 1,
  noise: r.result.noises?.[0] ?? null,
  leftOut: r.result.leftOut ?? null,
});
