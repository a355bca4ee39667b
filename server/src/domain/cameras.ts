// A project's cameras: made from the scene's or by hand, then independent of it.
import { randomUUID } from 'node:crypto';
import { AppError, cameraSettingsSchema } from '@variscen/contract';
import { type CameraHandling, type CameraSettings, PLAIN_HANDLING } from '@variscen/core/scene';
import type { EntityManager } from 'typeorm';
import { type CameraRow, Cameras } from '../db/entities/index.ts';
import { type Edits, dropUndefined, namedFirst, nextOrdinal, putInOrder, removeOne } from './edits.ts';

/** Null clears a value that need not be set. */
type Cleared<T> = { readonly [K in keyof T]?: T[K] | null | undefined };

/** Of these null is a value of its own: no limit. */
const NULL_MEANS: ReadonlySet<string> = new Set(['fStop', 'cullMarginPct']);

export interface CamerasEdit {
  readonly settings?: Cleared<CameraSettings>;
  readonly handling?: Partial<CameraHandling>;
  readonly guides?: { readonly add: CameraHandling['guides']; readonly remove: CameraHandling['guides'] };
  readonly own?: readonly { readonly cameraId: string; readonly settings: Cleared<CameraSettings> }[];
}

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

  /** One edit of several cameras. @param label of a step of its own; without, it may follow itself as one step */
  updateMany(projectId: string, ids: readonly string[], edit: CamerasEdit, label?: string): Promise<void> {
    const change = `Change ${ids.length === 1 ? 'a camera' : `${ids.length} cameras`}`;
    return this.edits.write(
      projectId,
      label ?? change,
      async (m) => {
        for (const id of new Set(ids)) await changeOne(m, projectId, id, edit);
      },
      { drawn: label === undefined },
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

  remove(projectId: string, ids: readonly string[]): Promise<void> {
    return this.edits.write(projectId, 'Delete cameras', async (m) => {
      const names: string[] = [];
      for (const id of new Set(ids)) names.push(await removeCamera(m, projectId, id));
      return names.length === 1 ? `Delete camera ${names[0]}` : `Delete ${names.length} cameras`;
    });
  }
}

async function changeOne(m: EntityManager, projectId: string, id: string, edit: CamerasEdit): Promise<void> {
  const camera = await m.findOneBy(Cameras, { id, projectId });
  if (!camera) throw new AppError('NOT_FOUND', 'One of these cameras is no longer there.');
  const own = edit.own?.find((x) => x.cameraId === id)?.settings;
  const merged = { ...camera.settings, ...dropUndefined(edit.settings ?? {}), ...dropUndefined(own ?? {}) };
  const isValue = ([key, value]: [string, unknown]) => value !== null || NULL_MEANS.has(key);
  const checked = cameraSettingsSchema.safeParse(Object.fromEntries(Object.entries(merged).filter(isValue)));
  if (!checked.success) throw new AppError('INVALID', `“${camera.name}”: ${checked.error.issues[0]!.message}`);
  const handling = { ...camera.handling, ...dropUndefined(edit.handling ?? {}) };
  const { add = [], remove = [] } = edit.guides ?? {};
  const guides = [...handling.guides.filter((g) => !add.includes(g) && !remove.includes(g)), ...add];
  await m.update(Cameras, { id }, { settings: checked.data as never, handling: { ...handling, guides } as never });
}

/** Returns its name. */
async function removeCamera(m: EntityManager, projectId: string, id: string): Promise<string> {
  const name = (await m.findOneBy(Cameras, { id, projectId }))?.name ?? '';
  await removeOne(m, Cameras, { id, projectId }, 'camera');
  const own = [projectId, `camera:${id}`, `cell:${id}:%`];
  await m.query(`DELETE FROM pending WHERE project_id = $1 AND (destination = $2 OR destination LIKE $3)`, own);
  return name;
}

const inOrder = (m: EntityManager, projectId: string): Promise<CameraRow[]> =>
  m.find(Cameras, { where: { projectId }, order: { ordinal: 'ASC' } });
