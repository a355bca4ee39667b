// What has ended is rendered again from what it was planned with: the look, the camera and the profile of then.
import { randomUUID } from 'node:crypto';
import { AppError, type Batch, type Project, type TraceState } from '@variscen/contract';
import { In } from 'typeorm';
import { type TraceRow, Traces } from '../db/entities.ts';
import type { Context } from './context.ts';
import { queueBatch } from './newBatch.ts';
import { PlannedNames } from './plannedNames.ts';
import type { ProjectService } from './projects.ts';
import { sequenceIds } from './sequences.ts';

const ENDED: readonly TraceState[] = ['done', 'failed', 'cancelled'];

export class RerunService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  /** As one batch, under new versions. @throws AppError where one is to come anyway, or its cell is no longer there */
  async rerun(traceIds: readonly string[]): Promise<Batch> {
    const ids = [...new Set(traceIds)];
    const found = new Map((await this.c.db.getRepository(Traces).findBy({ id: In(ids) })).map((row) => [row.id, row]));
    const rows = ids.map((id) => found.get(id));
    if (!rows.every((r) => r !== undefined)) throw new AppError('NOT_FOUND', 'One of these traces is no longer there.');
    const [first] = rows as [TraceRow];
    if (rows.some((r) => r.projectId !== first.projectId))
      throw new AppError(
        'INVALID',
        'These traces are of several projects.',
        'Render those of each project by themselves.',
      );
    const coming = rows.find((r) => !ENDED.includes(r.state));
    if (coming) throw new AppError('WRONG_STATE', `A trace is ${coming.state}, so that it comes anyway.`);
    const p = await this.projects.get(first.projectId);
    mustBeThere(p, rows);
    const { cells, faults } = await new PlannedNames(this.c, p, first.profile).of(
      rows.flatMap((r) => r.cells.map(({ cameraId, variantId, frame = null }) => ({ cameraId, variantId, frame }))),
      rows.flatMap((r) => r.cells.map(() => r.profile)),
    );
    if (faults[0]) throw new AppError('PLAN_HAS_ERRORS', faults[0].message);
    const named = cells.values();
    const traces = rows.map((r) => ({
      ...r,
      cells: r.cells.map((cell) => ({ ...cell, ...namesOf(named.next().value!) })),
    }));
    const sequences = sequenceIds(
      traces.map(({ cells: of }) => ({ cells: of.map((x) => ({ ...x, frame: x.frame ?? null })) })),
    );
    const batch = { id: randomUUID(), projectId: p.id, profile: first.profile };
    await queueBatch(
      this.c,
      batch,
      traces.map(({ inputs, profile, widthPx, heightPx, plannedBytes, expectedS, frame, cells: of }, i) => ({
        inputs,
        profile,
        widthPx,
        heightPx,
        plannedBytes,
        expectedS,
        frame,
        sequenceId: sequences[i]!,
        cells: of,
      })),
    );
    return { id: batch.id, traces: traces.length, cells: cells.length };
  }
}

const namesOf = ({
  cameraName,
  variantName,
  version,
  path,
}: Awaited<ReturnType<PlannedNames['of']>>['cells'][number]) => ({
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
