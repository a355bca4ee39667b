// A project's cameras: made from the scene's or by hand, then independent of it.
import { randomUUID } from 'node:crypto';
import { AppError, cameraSettingsSchema } from '@variscen/contract';
import { type CameraHandling, type CameraSettings, PLAIN_HANDLING } from '@variscen/core/scene';
import type { EntityManager } from 'typeorm';
import { type CameraRow, Cameras } from '../db/entities.ts';
import { type Edits, dropUndefined, namedFirst, nextOrdinal, putInOrder, removeOne } from './edits.ts';

type Cleared<T> = { readonly [K in keyof T]?: T[K] | null | undefined };

export class CameraService {
  constructor(private readonly edits: Edits) {}

  async create(
    projectId: string,
    name: string,
    settings: CameraSettings,
    handling: CameraHandling = PLAIN_HANDLING,
    afterId?: string,
  ): Promise<string> {
    const id = randomUUID();
    await this.edits.write(projectId, `Add camera ${name}`, async (m) => {
      await m.insert(Cameras, {
        id,
        projectId,
        name,
        settings,
        handling,
        ordinal: await nextOrdinal(m, Cameras, projectId),
      });
      if (afterId !== undefined) {
        const ids = (await inOrder(m, projectId)).map((c) => c.id).filter((x) => x !== id);
        ids.splice(ids.indexOf(afterId) + 1, 0, id);
        await putInOrder(m, Cameras, projectId, ids);
      }
    });
    return id;
  }

  update(
    projectId: string,
    id: string,
    set: Partial<Pick<CameraRow, 'name' | 'settings' | 'handling'>>,
  ): Promise<void> {
    const what =
      set.name !== undefined && !set.settings && !set.handling
        ? `Rename a camera to ${set.name}`
        : `Change camera ${set.name ?? ''}`.trim();
    return this.edits.write(
      projectId,
      what,
      async (m) => {
        const camera = await m.findOneBy(Cameras, { id, projectId });
        if (!camera) throw new AppError('NOT_FOUND', 'There is no such camera.');
        if (
          set.settings &&
          camera.handling.locked &&
          set.handling?.locked !== false &&
          set.settings.matrix.some((x, i) => x !== camera.settings.matrix[i])
        )
          throw new AppError('WRONG_STATE', `Camera “${camera.name}” is locked.`, 'Unlock it, then move it.');
        await m.update(Cameras, { id }, dropUndefined(set) as never);
      },
      { drawn: true },
    );
  }

  /** The same values for several cameras; null clears one that need not be set. */
  updateMany(
    projectId: string,
    ids: readonly string[],
    settings: Cleared<CameraSettings> | undefined,
    handling: Partial<CameraHandling> | undefined,
  ): Promise<void> {
    return this.edits.write(
      projectId,
      `Change ${ids.length === 1 ? 'a camera' : `${ids.length} cameras`}`,
      async (m) => {
        for (const id of new Set(ids)) {
          const camera = await m.findOneBy(Cameras, { id, projectId });
          if (!camera) throw new AppError('NOT_FOUND', 'One of these cameras is no longer there.');
          const next = Object.fromEntries(
            Object.entries({ ...camera.settings, ...dropUndefined(settings ?? {}) }).filter(
              ([k, v]) => v !== null || k === 'fStop' || k === 'cullMarginPct',
            ),
          );
          const checked = cameraSettingsSchema.safeParse(next);
          if (!checked.success) throw new AppError('INVALID', `“${camera.name}”: ${checked.error.issues[0]!.message}`);
          await m.update(
            Cameras,
            { id },
            {
              settings: checked.data as never,
              handling: { ...camera.handling, ...dropUndefined(handling ?? {}) } as never,
            },
          );
        }
      },
      { drawn: true },
    );
  }

  order(projectId: string, ids: readonly string[]): Promise<void> {
    return this.edits.write(projectId, 'Put the cameras in order', async (m) => {
      await putInOrder(
        m,
        Cameras,
        projectId,
        namedFirst(
          (await inOrder(m, projectId)).map((c) => c.id),
          ids,
        ),
      );
    });
  }

  remove(projectId: string, id: string): Promise<void> {
    return this.edits.write(projectId, 'Delete a camera', async (m) => {
      const name = (await m.findOneBy(Cameras, { id, projectId }))?.name ?? '';
      await removeOne(m, Cameras, { id, projectId }, 'camera');
      await m.query(`DELETE FROM pending WHERE project_id = $1 AND (destination = $2 OR destination LIKE $3)`, [
        projectId,
        `camera:${id}`,
        `cell:${id}:%`,
      ]);
      return `Delete camera ${name}`;
    });
  }
}

const inOrder = (m: EntityManager, projectId: string): Promise<CameraRow[]> =>
  m.find(Cameras, { where: { projectId }, order: { ordinal: 'ASC' } });
