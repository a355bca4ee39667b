// File names from a template. Two files with one path are an error with a suggestion, never an overwrite.
import { AOVS } from './profile.ts';

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
  /** Of an animated scene; with parts of a frame it is the one before. */
  readonly frame: number;
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
  'frame',
  'width',
  'height',
  'date',
  'time',
  'aov',
] as const;
export type NameToken = (typeof NAME_TOKENS)[number];
/** Stays in a rendered path until a file fills it in. */
export const AOV_PLACE = '{aov}';
export const DEFAULT_TEMPLATE = '{project}/{camera}/{variant}_{version}';
const TOKEN = /\{([^{}]*)\}/g;
/** {frame:6} has six digits, {frame} four. */
const PADDED_FRAME = /^frame:([1-9])$/;
const FRAME_DIGITS = 4;

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
  const unknown = [...template.matchAll(TOKEN)]
    .map((m) => m[1]!)
    .filter((t) => !(NAME_TOKENS as readonly string[]).includes(t) && !PADDED_FRAME.test(t));
  if (unknown.length)
    return `There is no token {${unknown[0]}}. Known are ${NAME_TOKENS.map((t) => `{${t}}`).join(' ')}.`;
  if (/[{}]/.test(template.replace(/\{[^{}]*\}/g, ''))) return 'A brace is not closed.';
  if (/[\\:*?"<>|\u0000-\u001f]/.test(template.replace(TOKEN, '')))
    return 'The template has a character that file names may not have: \\ : * ? " < > |';
  const unsafe = template.split('/').find((folder) => faultOfName(folder) !== undefined);
  if (template.startsWith('/') || template.split('/').some((p) => p.trim() === '' || /^\.+$/.test(p.trim())))
    return 'A folder in the template is empty or leads out of the output folder.';
  if (unsafe !== undefined) return faultOfName(unsafe);
  return undefined;
}

/** Most bytes of a file's or folder's name, on every system in use. */
const MOST_NAME_BYTES = 255;
const MOST_PATH_BYTES = 1000;
const MOST_FOLDER_CHARACTERS = 500;
/** Of what is written beside a picture: “.geometricNormal.exr”. */
const LONGEST_EXTENSION_BYTES = 20;
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;

/** Why a file or folder cannot be called so on every system, or undefined. */
function faultOfName(name: string): string | undefined {
  if (RESERVED.test(name)) return `“${name}” is a name that some systems keep for devices. Use another.`;
  if (name.startsWith('.'))
    return `“${name}” begins with a dot, as hidden files do and what Variscen has not finished.`;
  if (/[. ]$/.test(name)) return `“${name}” ends with a dot or a space, which some systems leave out.`;
  return undefined;
}

const bytes = (s: string): number => new TextEncoder().encode(s).length;
function faultOfLength(name: string, more = 0): string | undefined {
  const own = bytes(name) + more;
  if (own <= MOST_NAME_BYTES) return undefined;
  return `“${shortened(name)}” is a name of ${own} bytes, and disks take ${MOST_NAME_BYTES}. Give shorter names, or use fewer tokens between two slashes of the template.`;
}

const LONGEST_AOV = AOVS.reduce((a, b) => (b.length > a.length ? b : a));

/** Why a rendered path cannot be written on every system, with the remedy, or undefined. */
export function faultOfPath(rendered: string): string | undefined {
  const path = rendered.replaceAll(AOV_PLACE, LONGEST_AOV);
  const steps = path.split('/');
  for (const [i, step] of steps.entries()) {
    const fault = faultOfName(step) ?? faultOfLength(step, i === steps.length - 1 ? LONGEST_EXTENSION_BYTES : 0);
    if (fault) return fault;
  }
  if (bytes(path) > MOST_PATH_BYTES)
    return `“${shortened(path)}” is a path of ${bytes(path)} bytes, more than ${MOST_PATH_BYTES}. Use fewer tokens in the template.`;
  return undefined;
}
const shortened = (text: string): string => (text.length <= 60 ? text : `${text.slice(0, 40)}…${text.slice(-15)}`);

/** Why files cannot be put into a folder that is called so, in words; undefined where they can. */
export function faultOfFolder(folder: string): string | undefined {
  if (folder.length > MOST_FOLDER_CHARACTERS)
    return `The output folder is longer than ${MOST_FOLDER_CHARACTERS} characters.`;
  const steps = (folder.startsWith('/') ? folder.slice(1) : folder).split('/');
  if (steps.some((s) => s.trim() === '' || /^\.+$/.test(s)))
    return 'A step of the output folder is empty or leads out of it. Write for example “finals” or “/mnt/pictures/finals”.';
  if (/[\\:*?"<>|{}\u0000-\u001f]/.test(folder))
    return 'The output folder has a character that folders may not have: \\ : * ? " < > | { }';
  return steps.map((s) => faultOfName(s) ?? faultOfLength(s)).find((f) => f !== undefined);
}

/** The path of a profile's file. @param folder of the profile; none: the application's own */
export const inFolder = (folder: string | null | undefined, name: string): string =>
  folder ? `${folder}/${name}` : name;

/**
 * Path without extension, with / between folders; {aov} stays, for each file to fill in. The template must have passed
 * faultOfTemplate.
 */
export function renderName(template: string, v: NameValues): string {
  return template.replace(TOKEN, (_, t: string) => {
    const padded = PADDED_FRAME.exec(t);
    return padded ? paddedFrame(v.frame, Number(padded[1])) : TOKEN_VALUES[t as NameToken](v);
  });
}
const paddedFrame = (frame: number, digits: number): string => String(Math.floor(frame)).padStart(digits, '0');

/** The template for pictures of a sequence, whose names must tell the frames apart. */
export const sequenceTemplate = (template: string): string =>
  [...template.matchAll(TOKEN)].some(([, t]) => t === 'frame' || PADDED_FRAME.test(t!))
    ? template
    : `${template}_{frame}`;

const TOKEN_VALUES: Readonly<Record<NameToken, (v: NameValues) => string>> = {
  project: (v) => slug(v.project),
  camera: (v) => slug(v.camera),
  variant: (v) => slug(v.variant),
  lighting: (v) => slug(v.lighting || 'base'),
  environment: (v) => slug(v.environment || 'base'),
  materials: (v) => slug(v.materials || 'base'),
  visibility: (v) => slug(v.visibility || 'base'),
  placement: (v) => slug(v.placement || 'base'),
  grade: (v) => slug(v.grade || 'base'),
  profile: (v) => slug(v.profile),
  version: (v) => `v${String(v.version).padStart(3, '0')}`,
  frame: (v) => paddedFrame(v.frame, FRAME_DIGITS),
  width: (v) => String(v.widthPx),
  height: (v) => String(v.heightPx),
  date: (v) => v.at.slice(0, 10),
  time: (v) => v.at.slice(11, 19).replaceAll(':', '-'),
  aov: () => AOV_PLACE,
};

export interface NamedFile {
  readonly path: string;
  readonly owner: string;
  readonly values: NameValues;
}
export interface NameClash {
  readonly path: string;
  readonly owners: readonly string[];
  /** What would help, as a sentence. */
  readonly remedy: string;
}

/** Tokens that may tell files apart, the most telling first. */
const TELLING: readonly NameToken[] = [
  'camera',
  'variant',
  'version',
  'frame',
  'lighting',
  'environment',
  'materials',
  'visibility',
  'placement',
  'grade',
  'profile',
  'width',
  'height',
  'time',
];

/**
 * Paths that more than one owner would write, and those that exist already. Compared without regard to case, as some
 * file systems do. @param folder in which the template's names lie
 */
export function findClashes(
  files: readonly NamedFile[],
  exists: (path: string) => boolean,
  template: string,
  folder: string | null | undefined = null,
): NameClash[] {
  const byPath = new Map<string, NamedFile[]>();
  for (const f of files) {
    const key = f.path.toLowerCase();
    const same = byPath.get(key);
    if (same) same.push(f);
    else byPath.set(key, [f]);
  }
  return [...byPath.values()]
    .filter((same) => same.length > 1 || exists(same[0]!.path))
    .map((same) => ({
      path: same[0]!.path,
      owners: same.map((f) => f.owner),
      remedy: remedyOf(same, exists, template, folder),
    }));
}

/** The shortest addition to the template under which these files differ from each other and from what is there. */
function remedyOf(
  same: readonly NamedFile[],
  exists: (path: string) => boolean,
  template: string,
  folder: string | null | undefined,
): string {
  const missing = TELLING.filter((t) => !template.includes(`{${t}}`));
  const helps = (longer: string) => {
    const paths = same.map((f) => inFolder(folder, renderName(longer, f.values)).toLowerCase());
    return new Set(paths).size === paths.length && !paths.some(exists);
  };
  const additions = [...missing.map((t) => [t]), ...missing.flatMap((a, i) => missing.slice(i + 1).map((b) => [a, b]))];
  for (const tokens of additions) {
    const longer = `${template}_${tokens.map((t) => `{${t}}`).join('_')}`;
    if (helps(longer) && !faultOfTemplate(longer))
      return `The token ${tokens.map((t) => `{${t}}`).join(' and ')} is missing. Use for example the template ${longer}`;
  }
  if (same.length > 1)
    return `No token tells them apart: as file names ${same.map((f) => f.owner).join(' and ')} are the same. Rename one of them.`;
  return 'Move that file away, or rename the camera or the variant.';
}
