// Profiles: those that come with Variscen, the library's, a project's own; and exceptions from them.
import { AppError, type ProfileException, type Project } from '@variscen/contract';
import { PROFILES, type Profile, faultOfTemplate } from '@variscen/core/plan';
import { Projects, Settings } from '../db/entities/index.ts';
import type { Context } from './context.ts';
import type { ProjectService } from './projects.ts';

/** The setting that holds the library's profiles. */
const LIBRARY = 'library.profiles';
const MOST = 200;

export class ProfileService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  async library(): Promise<Profile[]> {
    const row = await this.c.db.getRepository(Settings).findOneBy({ key: LIBRARY });
    return (row?.value ?? []) as Profile[];
  }
  async putInLibrary(profile: Profile): Promise<void> {
    await this.writeLibrary((all) => withProfile(all, profile));
  }
  async removeFromLibrary(id: string): Promise<void> {
    await this.writeLibrary((all) => without(all, id));
  }
  private async writeLibrary(change: (all: readonly Profile[]) => Profile[]): Promise<void> {
    await this.c.db.transaction(async (m) => {
      await m.query('LOCK TABLE setting IN SHARE ROW EXCLUSIVE MODE');
      const row = await m.findOneBy(Settings, { key: LIBRARY });
      await m.upsert(Settings, { key: LIBRARY, value: change((row?.value ?? []) as Profile[]) as never }, ['key']);
    });
    this.c.events.emit({ type: 'library' });
  }

  /** @throws AppError INVALID where there is none of this id */
  async find(p: Pick<Project, 'profiles'>, id: string): Promise<Profile> {
    const profile = [...PROFILES, ...(p.profiles as readonly Profile[]), ...(await this.library())].find(
      (x) => x.id === id,
    );
    if (!profile) throw new AppError('INVALID', `There is no profile “${id}”. It may have been deleted.`);
    return profile;
  }

  put(projectId: string, profile: Profile): Promise<Project> {
    return this.projects.write(projectId, `Set up profile ${profile.name}`, async (m) => {
      const row = await m.findOneByOrFail(Projects, { id: projectId });
      await m.update(Projects, { id: projectId }, { profiles: withProfile(row.profiles, profile) as never });
    });
  }
  remove(projectId: string, id: string): Promise<Project> {
    return this.projects.write(projectId, 'Delete a profile', async (m) => {
      const row = await m.findOneByOrFail(Projects, { id: projectId });
      const exceptions = row.exceptions.filter((e) => e.profileId !== id);
      await m.update(Projects, { id: projectId }, { profiles: without(row.profiles, id), exceptions } as never);
      return `Delete profile ${row.profiles.find((p) => p.id === id)?.name ?? ''}`;
    });
  }

  /** One that sets nothing goes. */
  putExceptions(projectId: string, set: readonly ProfileException[]): Promise<Project> {
    const label = set.length === 1 ? 'Change an exception' : `Change ${set.length} exceptions`;
    return this.projects.write(projectId, label, async (m) => {
      const row = await m.findOneByOrFail(Projects, { id: projectId });
      const changed = new Set(set.map(placeOf));
      const kept = row.exceptions.filter((e) => !changed.has(placeOf(e)));
      const added = set.filter((e) => Object.keys(e.settings).length > 0);
      await m.update(Projects, { id: projectId }, { exceptions: [...kept, ...added] as never });
    });
  }
}

const placeOf = (e: Pick<ProfileException, 'cameraId' | 'variantId' | 'profileId'>): string =>
  `${e.cameraId} ${e.variantId ?? ''} ${e.profileId ?? ''}`;

/** @throws AppError */
function withProfile(all: readonly Profile[], profile: Profile): Profile[] {
  const fault = profile.nameTemplate === null ? undefined : faultOfTemplate(profile.nameTemplate);
  if (fault) throw new AppError('INVALID', fault);
  const others = [...PROFILES, ...all].filter((p) => p.id !== profile.id);
  if (others.some((p) => p.name.toLowerCase() === profile.name.toLowerCase()))
    throw new AppError('NAME_TAKEN', `There is a profile “${profile.name}” already.`);
  if (!all.some((p) => p.id === profile.id)) {
    if (all.length >= MOST) throw new AppError('INVALID', `There are ${MOST} profiles already. Delete one first.`);
    return [...all, profile];
  }
  return all.map((p) => (p.id === profile.id ? profile : p));
}
/** @throws AppError NOT_FOUND */
function without(all: readonly Profile[], id: string): Profile[] {
  const rest = all.filter((p) => p.id !== id);
  if (rest.length === all.length) throw new AppError('NOT_FOUND', 'There is no such profile.');
  return rest;
}
