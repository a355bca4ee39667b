// What has ended is rendered again from what it was planned with: the look, the camera and the profile of then.
import { randomUUID } from 'node:crypto';
import { AppError, type Batch, type Project, type TraceState } from '@variscen/contract';
import { In } from 'typeorm';
import { type TraceCell, type TraceRow, Traces } from '../db/entities/index.ts';
import type { PictureRef } from '../work/looksTasks.ts';
import type { Context } from './context.ts';
import { type NewTrace, queueBatch } from './newBatch.ts';
import { type NamedCell, PlannedNames } from './plannedNames.ts';
import type { ProjectService } from './projects.ts';
import { sequenceIds } from './sequences.ts';

const ENDED: readonly TraceState[] = ['done', 'failed', 'cancelled'];

export class RerunService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  /** As one batch, under new versions. @throws AppError where one is to come anyway, or its cell is no longer there */
  async rerun(traceIds: readonly string[], ofSequences: readonly string[]): Promise<Batch> {
    const rows = [...(await this.ended([...new Set(traceIds)])), ...(await this.doneOf(ofSequences))];
    mustBeOfOne(rows);
    const { profile, projectId } = rows[0]!;
    const p = await this.projects.get(projectId);
    mustBeThere(p, rows);
    const served = rows.flatMap((row) => row.cells.map((cell) => ({ row, ref: refOf(cell) })));
    const { cells: named, faults } = await new PlannedNames(this.c, p, profile).of(
      served.map((x) => x.ref),
      served.map((x) => x.row.profile),
    );
    if (faults[0]) throw new AppError('PLAN_HAS_ERRORS', faults[0].message);
    const sequences = sequenceIds(rows.map((r) => ({ cells: r.cells.map(refOf) })));
    const next = named.values();
    const traces = rows.map((row, i): NewTrace => {
      const { inputs, widthPx, heightPx, plannedBytes, expectedS, frame } = row;
      const cells = row.cells.map((cell) => ({ ...cell, ...namesOf(next.next().value!) }));
      const same = { inputs, profile: row.profile, widthPx, heightPx, plannedBytes, expectedS, frame };
      return { ...same, sequenceId: sequences[i]!, cells };
    });
    const id = randomUUID();
    await queueBatch(this.c, { id, projectId, profile }, traces);
    return { id, traces: traces.length, cells: served.length };
  }

  private doneOf(ids: readonly string[]): Promise<TraceRow[]> {
    if (!ids.length) return Promise.resolve([]);
    return this.c.db
      .getRepository(Traces)
      .find({ where: { sequenceId: In([...ids]), state: 'done' }, order: { ordinal: 'ASC' } });
  }

  /** In the order in which they are asked for. */
  private async ended(ids: readonly string[]): Promise<TraceRow[]> {
    const found = new Map(
      (await this.c.db.getRepository(Traces).findBy({ id: In([...ids]) })).map((row) => [row.id, row]),
    );
    if (found.size < ids.length) throw new AppError('NOT_FOUND', 'One of these traces is no longer there.');
    const rows = ids.map((id) => found.get(id)!);
    const coming = rows.find((r) => !ENDED.includes(r.state));
    if (coming) throw new AppError('WRONG_STATE', `A trace is ${coming.state}, so that it comes anyway.`);
    return rows;
  }
}

/** @throws AppError where there is none, or they are of several projects */
function mustBeOfOne(rows: readonly TraceRow[]): void {
  const projects = new Set(rows.map((r) => r.projectId));
  if (projects.size === 0) throw new AppError('NOT_FOUND', 'None of these traces is done.');
  if (projects.size > 1)
    throw new AppError(
      'INVALID',
      'These traces are of several projects.',
      'Render those of each project by themselves.',
    );
}

const refOf = ({ cameraId, variantId, frame = null }: TraceCell): PictureRef => ({ cameraId, variantId, frame });
const namesOf = ({
  cameraName,
  variantName,
  version,
  path,
}: NamedCell): Pick<TraceCell, 'cameraName' | 'variantName' | 'version' | 'path'> => ({
  cameraName,
  variantName,
  version,
  path,
});

/** A picture has its place by its camera and variant. */
function mustBeThere(p: Project, rows: readonly TraceRow[]): void {
  const known = new Set([...p.cameras, ...p.variants].map((x) => x.id));
  const gone = rows.flatMap((r) => r.cells).find((c) => !known.has(c.cameraId) || !known.has(c.variantId));
  if (gone)
    throw new AppError(
      'NOT_FOUND',
      `“${gone.cameraName}” in “${gone.variantName}” is no longer in the project.`,
      'Undo its deletion, then render it again.',
    );
}
