import type { Project } from '@variscen/contract';
import type { Api } from '../api.ts';
import { oneOf } from '../find.ts';

/** Of the project, those that come with Variscen, or the library, by its name or id. */
export async function findProfile(api: Api, p: Project, called: string): Promise<{ id: string; name: string }> {
  const { own, library } = await api.call('profiles', {});
  const byId = new Map([...p.profiles, ...own, ...library].map((x) => [x.id, { id: x.id, name: x.name }]));
  return oneOf([...byId.values()], called, 'profile');
}
