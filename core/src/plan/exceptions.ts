// What is rendered otherwise for one camera or one cell: exceptions from a profile.
import type { Profile, ProfileSettings } from './profile.ts';

export interface ProfileException {
  readonly cameraId: string;
  /** Null: for the camera in every variant. */
  readonly variantId: string | null;
  /** Null: from every profile. */
  readonly profileId: string | null;
  readonly settings: Partial<Omit<ProfileSettings, 'nameTemplate' | 'outputFolder'>>;
}

/** More particular ones later: of a camera before of a cell, from every profile before from this one. */
export function exceptionsOf(
  all: readonly ProfileException[],
  profileId: string,
  { cameraId, variantId }: { readonly cameraId: string; readonly variantId: string },
): ProfileException[] {
  const rank = (e: ProfileException) => (e.variantId === null ? 0 : 2) + (e.profileId === null ? 0 : 1);
  return all
    .filter((e) => e.cameraId === cameraId && (e.variantId ?? variantId) === variantId)
    .filter((e) => (e.profileId ?? profileId) === profileId)
    .sort((a, b) => rank(a) - rank(b));
}

/** The profile as it holds for a cell; it keeps its name. */
export function profileFor(
  profile: Profile,
  all: readonly ProfileException[],
  cell: { readonly cameraId: string; readonly variantId: string },
): Profile {
  return exceptionsOf(all, profile.id, cell).reduce((p, e) => ({ ...p, ...e.settings }), profile);
}
