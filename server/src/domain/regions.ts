// Parts of cameras' frames that are measured in all of their pictures.
import { AppError, type Region, MOST_REGIONS } from '@variscen/contract';
import { type RegionRow, Cameras, Regions } from '../db/entities/index.ts';
import type { Context } from './context.ts';
import type { Edits } from './edits.ts';
import type { ProjectService } from './projects.ts';

export class RegionService {
  constructor(
    private readonly c: Context,
    private readonly edits: Edits,
    private readonly projects: ProjectService,
  ) {}

  /** In the order in which they were kept. */
  async list(projectId: string): Promise<Region[]> {
    await this.projects.row(projectId);
    const rows = await this.c.db.getRepository(Regions).find({ where: { projectId }, order: { createdAt: 'ASC' } });
    return rows.map(({ id, cameraId, name, corners: { from, to } }) => ({ id, cameraId, name, from, to }));
  }

  /** Keeps a new one, or changes one. @throws AppError NOT_FOUND, INVALID */
  async keep(projectId: string, id: string, { cameraId, name, from, to }: Omit<Region, 'id'>): Promise<void> {
    if (!(await this.c.db.getRepository(Cameras).existsBy({ id: cameraId, projectId })))
      throw new AppError('NOT_FOUND', 'There is no such camera.');
    if (from[0] === to[0] || from[1] === to[1]) throw new AppError('INVALID', 'A region has an area.');
    const known = await this.c.db.getRepository(Regions).findOneBy({ id });
    if (known && known.projectId !== projectId) throw new AppError('NOT_FOUND', 'There is no such region.');
    await this.edits.write(projectId, labelOf(known, name), async (m) => {
      const table = m.getRepository(Regions);
      if (known) {
        await table.update({ id }, { cameraId, name, corners: { from, to } } as never);
        return;
      }
      if ((await table.countBy({ cameraId })) >= MOST_REGIONS)
        throw new AppError('INVALID', `A camera has at most ${MOST_REGIONS} regions. Drop some first.`);
      const createdAt = this.c.now();
      await table.insert({ id, projectId, cameraId, name, corners: { from, to }, createdAt } as never);
    });
  }

  async drop(projectId: string, id: string): Promise<void> {
    const known = await this.c.db.getRepository(Regions).findOneBy({ id, projectId });
    if (!known) throw new AppError('NOT_FOUND', 'There is no such region.');
    await this.edits.write(projectId, `Drop region ${known.name}`, async (m) => {
      await m.getRepository(Regions).delete({ id });
    });
  }
}

function labelOf(known: RegionRow | null, name: string): string {
  if (!known) return `Keep region ${name}`;
  return known.name === name ? `Change region ${name}` : `Rename region ${known.name} to ${name}`;
}
