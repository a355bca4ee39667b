// All profiles that a project can be rendered with, by where they are kept.
import type { Project } from '@variscen/contract';
import type { Profile } from '@variscen/core/plan';
import { useProfiles } from '../../../api/queries.ts';

export type ProfileHome = 'own' | 'project' | 'library';
export const HOME_WORDS: Readonly<Record<ProfileHome, string>> = {
  own: 'Variscen',
  project: 'This project',
  library: 'Library',
};
export interface KeptProfile {
  readonly profile: Profile;
  readonly home: ProfileHome;
}

export function useProfileList(project: Project): readonly KeptProfile[] {
  const { data } = useProfiles();
  const kept = (home: ProfileHome, profiles: readonly unknown[]): KeptProfile[] =>
    profiles.map((profile) => ({ profile: profile as Profile, home }));
  return [
    ...kept('own', data?.own ?? []),
    ...kept('project', project.profiles),
    ...kept('library', data?.library ?? []),
  ];
}
/** For a list to select from, in groups. */
export const grouped = (all: readonly KeptProfile[]) =>
  (Object.keys(HOME_WORDS) as ProfileHome[])
    .map((home) => ({
      group: HOME_WORDS[home],
      items: all.filter((x) => x.home === home).map(({ profile }) => ({ value: profile.id, label: profile.name })),
    }))
    .filter((g) => g.items.length > 0);
