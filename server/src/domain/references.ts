// Pictures of others, opened in a project to be compared with.
import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError, type Reference } from '@variscen/contract';
import { type ReferenceRow, References } from '../db/entities/index.ts';
import { runTask } from '../work/run.ts';
import type { Context } from './context.ts';
import type { ProjectService } from './projects.ts';

const MOST = 200;
const LONGEST_NAME = 255;

export class ReferenceService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  async list(projectId: string): Promise<Reference[]> {
    await this.projects.row(projectId);
    const rows = await this.rows().find({ where: { projectId }, order: { name: 'ASC', createdAt: 'ASC' } });
    return rows.map(referenceOf);
  }

  /** Reads a file in a task's process. The same file under the same name is there once. */
  async open(projectId: string, file: string, fileName: string, signal: AbortSignal): Promise<Reference> {
    await this.projects.row(projectId);
    if ((await this.rows().countBy({ projectId })) >= MOST)
      throw new AppError('INVALID', `There are ${MOST} references already. Close some first.`);
    const found = await runTask({ kind: 'reference', assets: this.c.assetsFolder, file, fileName }, undefined, signal);
    const name = fileName.slice(0, LONGEST_NAME);
    const known = await this.rows().findOneBy({ projectId, name, hash: found.hash });
    if (known) return referenceOf(known);
    const { hash, widthPx, heightPx, isLinear, remarks } = found;
    const row: ReferenceRow = {
      id: randomUUID(),
      projectId,
      name,
      hash,
      kind: isLinear ? 'exr' : 'shown',
      widthPx,
      heightPx,
      remarks: [...remarks],
      createdAt: this.c.now(),
    };
    await this.rows().insert(row);
    this.c.events.emit({ type: 'project', projectId });
    return referenceOf(row);
  }

  /** What was made of it to be looked at goes; its content when nothing refers to it. */
  async close(projectId: string, id: string): Promise<{ name: string }> {
    const row = await this.rows().findOneBy({ id, projectId });
    if (!row) throw new AppError('NOT_FOUND', 'There is no such reference.');
    await this.rows().delete({ id });
    await rm(join(this.c.picturesFolder, id), { recursive: true, force: true });
    this.c.events.emit({ type: 'project', projectId });
    return { name: row.name };
  }

  private rows() {
    return this.c.db.getRepository(References);
  }
}

const referenceOf = ({ id, name, widthPx, heightPx, kind, remarks, createdAt }: ReferenceRow): Reference => ({
  id,
  name,
  widthPx,
  heightPx,
  isLinear: kind === 'exr',
  remarks,
  createdAt: createdAt.toISOString(),
});
