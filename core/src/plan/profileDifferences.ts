// In what two profiles differ, as far as a picture shows it.
import type { Profile, ProfileSettings } from './profile.ts';

const WORDS: Readonly<Record<Exclude<keyof ProfileSettings, 'nameTemplate' | 'outputFolder'>, string>> = {
  sizeFactor: 'size',
  widthPx: 'width',
  integrator: 'light',
  samples: 'samples',
  timeLimitS: 'time limit',
  maxBounces: 'bounces',
  clampIndirect: 'clamp',
  noise: 'noise',
  denoise: 'denoise',
  textureCapPx: 'textures',
  displacement: 'displacement',
  aovs: 'AOVs',
  floatAovs: 'AOVs as floats',
  lightGroups: 'light kept apart',
  files: 'files',
};
export interface ProfileDifference {
  readonly what: string;
  readonly was: string;
  readonly is: string;
}

export function profileDifferences(was: Profile, is: Profile): ProfileDifference[] {
  return (Object.keys(WORDS) as (keyof typeof WORDS)[])
    .map((key) => ({ what: WORDS[key], was: ofCell(key, was), is: ofCell(key, is) }))
    .filter((d) => canonical(d.was) !== canonical(d.is))
    .map(({ what, was: before, is: now }) => ({ what, was: said(what, before), is: said(what, now) }));
}
const said = (what: string, value: unknown): string =>
  value === null && what === WORDS.lightGroups ? 'all' : shown(value);

/** Whether cells share a file says nothing of what is in it; what an older profile did not say yet is as before. */
function ofCell(key: keyof typeof WORDS, profile: Profile): unknown {
  if (key !== 'files' || !profile.files.exr) return profile[key] ?? null;
  const { perCell: _, ...exr } = profile.files.exr;
  return { ...profile.files, exr };
}

/** The same whatever order its keys are in: a database gives them in one of its own. */
function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join()}]`;
  if (value === null || typeof value !== 'object') return JSON.stringify(value);
  const entries = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([k, v]) => `${k}:${canonical(v)}`).join()}}`;
}

function shown(value: unknown): string {
  if (value === null) return 'none';
  if (Array.isArray(value)) return value.join(', ') || 'none';
  if (typeof value === 'number') return String(Number(value.toPrecision(4)));
  if (typeof value !== 'object') return String(value);
  return Object.entries(value)
    .filter(([, v]) => v !== null && v !== false)
    .map(([k, v]) => (v === true ? k : `${k} ${typeof v === 'object' ? shown(v) : String(v)}`))
    .join(', ');
}
