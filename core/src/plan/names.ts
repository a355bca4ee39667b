// File names from a template. Two files with one path are an error with a suggestion, never an overwrite.

export interface NameValues {
  readonly project: string;
  readonly camera: string;
  readonly variant: string;
  readonly lighting: string;
  readonly environment: string;
  readonly materials: string;
  readonly visibility: string;
  readonly placement: string;
  readonly grade: string;
  readonly profile: string;
  readonly version: number;
  readonly widthPx: number;
  readonly heightPx: number;
  /** ISO 8601, as given by the caller's clock. */
  readonly at: string;
}

export const NAME_TOKENS = [
  'project',
  'camera',
  'variant',
  'lighting',
  'environment',
  'materials',
  'visibility',
  'placement',
  'grade',
  'profile',
  'version',
  'width',
  'height',
  'date',
  'time',
] as const;
export type NameToken = (typeof NAME_TOKENS)[number];
export const DEFAULT_TEMPLATE = '{project}/{camera}/{variant}_{version}';

/** Lower case, letters and digits of any script, everything else a hyphen; never empty. */
export function slug(text: string): string {
  const s = text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80);
  return s || 'unnamed';
}

/** Says what is wrong with a template, or undefined. */
export function faultOfTemplate(template: string): string | undefined {
  if (!template.trim()) return 'The template is empty. Write for example {camera}/{variant}_{version}.';
  if (template.length > 300) return 'The template is longer than 300 characters.';
  const unknown = [...template.matchAll(/\{([^{}]*)\}/g)]
    .map((m) => m[1]!)
    .filter((t) => !(NAME_TOKENS as readonly string[]).includes(t));
  if (unknown.length)
    return `There is no token {${unknown[0]}}. Known are ${NAME_TOKENS.map((t) => `{${t}}`).join(' ')}.`;
  if (/[{}]/.test(template.replace(/\{[^{}]*\}/g, ''))) return 'A brace is not closed.';
  if (/[\\:*?"<>|\u0000-\u001f]/.test(template))
    return 'The template has a character that file names may not have: \\ : * ? " < > |';
  if (template.startsWith('/') || template.split('/').some((p) => p.trim() === '' || /^\.+$/.test(p.trim())))
    return 'A folder in the template is empty or leads out of the output folder.';
  return undefined;
}

/** Path without extension, with / between folders. The template must have passed faultOfTemplate. */
export function renderName(template: string, v: NameValues): string {
  const values: Record<NameToken, string> = {
    project: slug(v.project),
    camera: slug(v.camera),
    variant: slug(v.variant),
    lighting: slug(v.lighting || 'base'),
    environment: slug(v.environment || 'base'),
    materials: slug(v.materials || 'base'),
    visibility: slug(v.visibility || 'base'),
    placement: slug(v.placement || 'base'),
    grade: slug(v.grade || 'base'),
    profile: slug(v.profile),
    version: `v${String(v.version).padStart(3, '0')}`,
    width: String(v.widthPx),
    height: String(v.heightPx),
    date: v.at.slice(0, 10),
    time: v.at.slice(11, 19).replaceAll(':', '-'),
  };
  return template.replace(/\{([^{}]*)\}/g, (_, t: NameToken) => values[t]);
}

export interface NameClash {
  readonly path: string;
  readonly owners: readonly string[];
  readonly suggestion: string;
}

/**
 * Paths that more than one owner would write, and those that exist already. Compared without regard to case, as some
 * file systems do.
 */
export function findClashes(
  files: readonly { readonly path: string; readonly owner: string }[],
  exists: (path: string) => boolean,
  template: string,
): NameClash[] {
  const byPath = new Map<string, { path: string; owners: string[] }>();
  for (const f of files) {
    const key = f.path.toLowerCase();
    const entry = byPath.get(key) ?? { path: f.path, owners: [] };
    entry.owners.push(f.owner);
    byPath.set(key, entry);
  }
  const missing = (['camera', 'variant', 'version'] as const)
    .filter((t) => !template.includes(`{${t}}`))
    .map((t) => `{${t}}`);
  const suggestion = missing.length ? `${template}_${missing.join('_')}` : DEFAULT_TEMPLATE;
  return [...byPath.values()]
    .filter((e) => e.owners.length > 1 || exists(e.path))
    .map((e) => ({ path: e.path, owners: e.owners, suggestion }));
}
