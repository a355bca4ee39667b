// Lights that looks add, as a project has them: each is called the same wherever anything is recorded of it.
import { AppError, type Project } from '@variscen/contract';
import { type Change, addedName, addedPath, lightTarget, parseAdded } from '@variscen/core/looks';
import type { EntityManager } from 'typeorm';
import { Options, Patches, Pendings, Projects } from '../db/entities/index.ts';
import type { ProjectService } from './projects.ts';

/** @returns the same list where nothing of it changes */
type ChangeList = (list: readonly Change[]) => readonly Change[];

export class AddedLightService {
  constructor(private readonly projects: ProjectService) {}

  async rename(projectId: string, path: string, name: string): Promise<{ project: Project; path: string }> {
    const { type, name: was } = parseAdded(path)!;
    const clean = addedName(name);
    if (!clean) throw new AppError('INVALID', 'A light’s name has at least one letter or digit.');
    const now = addedPath(type, clean);
    const [from, to] = [lightTarget(path), lightTarget(now)];
    const project = await this.projects.write(projectId, `Rename light ${was}`, async (m) => {
      const lists = new Lists(m, projectId);
      if (now !== path && (await lists.have(to)))
        throw new AppError('NAME_TAKEN', 'That name is taken in this project.');
      if (!(await lists.have(from))) throw new AppError('NOT_FOUND', 'There is no such light.');
      await lists.change((list) =>
        list.some((c) => c.target === from) ? list.map((c) => (c.target === from ? { ...c, target: to } : c)) : list,
      );
    });
    return { project, path: now };
  }

  remove(projectId: string, paths: readonly string[], destination: string | undefined): Promise<Project> {
    const gone = new Set(paths.map(lightTarget));
    const label = paths.length === 1 ? `Remove light ${parseAdded(paths[0]!)!.name}` : `Remove ${paths.length} lights`;
    return this.projects.write(projectId, label, async (m) => {
      const without: ChangeList = (list) =>
        list.some((c) => gone.has(c.target)) ? list.filter((c) => !gone.has(c.target)) : list;
      const changed = await new Lists(m, projectId).change(without, destination);
      if (!changed) throw new AppError('NOT_FOUND', 'There is no such light.', 'It may have been removed already.');
    });
  }
}

/** Everything that a project records or has pending, by destination. */
class Lists {
  constructor(
    private readonly m: EntityManager,
    private readonly projectId: string,
  ) {}

  async have(target: string): Promise<boolean> {
    let found = false;
    await this.change((list) => {
      found ||= list.some((c) => c.target === target);
      return list;
    });
    return found;
  }

  /**
   * @param only of one destination
   * @returns whether anything was changed
   */
  async change(change: ChangeList, only?: string): Promise<boolean> {
    const { m, projectId } = this;
    let changed = false;
    const changeOne = async (
      destination: string,
      was: readonly Change[],
      put: (now: Change[]) => Promise<unknown>,
    ): Promise<void> => {
      const now = only === undefined || only === destination ? change(was) : was;
      if (now === was) return;
      changed = true;
      await put([...now]);
    };
    const { base } = await m.findOneByOrFail(Projects, { id: projectId });
    await changeOne('base', base, (now) => m.update(Projects, { id: projectId }, { base: now }));
    for (const { id, changes } of await m.findBy(Options, { projectId }))
      await changeOne(`option:${id}`, changes, (now) => m.update(Options, { id }, { changes: now }));
    for (const { id, cameraId, variantId, changes } of await m.findBy(Patches, { projectId })) {
      const destination = variantId === null ? `camera:${cameraId}` : `cell:${cameraId}:${variantId}`;
      await changeOne(destination, changes, (now) =>
        now.length ? m.update(Patches, { id }, { changes: now }) : m.delete(Patches, { id }),
      );
    }
    for (const { destination, changes } of await m.findBy(Pendings, { projectId }))
      await changeOne(destination, changes, (now) =>
        now.length
          ? m.update(Pendings, { projectId, destination }, { changes: now })
          : m.delete(Pendings, { projectId, destination }),
      );
    return changed;
  }
}
