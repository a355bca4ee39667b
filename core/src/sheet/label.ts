// Words beside a picture, by a template: “{camera} · {variant}”.

export interface LabelValues {
  readonly camera: string;
  readonly variant: string;
  readonly lighting: string;
  readonly environment: string;
  readonly materials: string;
  readonly visibility: string;
  readonly placement: string;
  readonly grade: string;
  readonly version: string;
  readonly frame: string;
  readonly profile: string;
  readonly size: string;
  readonly samples: string;
  readonly time: string;
  readonly date: string;
  readonly verdict: string;
  readonly note: string;
}
export const LABEL_TOKENS = [
  'camera',
  'variant',
  'lighting',
  'environment',
  'materials',
  'visibility',
  'placement',
  'grade',
  'version',
  'frame',
  'profile',
  'size',
  'samples',
  'time',
  'date',
  'verdict',
  'note',
] as const satisfies readonly (keyof LabelValues)[];
const TOKEN = /\{([^{}]*)\}/g;
const MOST_LENGTH = 300;

/** Says what is wrong with a template, or undefined. An empty one is fine: no words. */
export function faultOfLabel(template: string): string | undefined {
  if (template.length > MOST_LENGTH) return `The label is longer than ${MOST_LENGTH} characters.`;
  const unknown = [...template.matchAll(TOKEN)].map((m) => m[1]!).find((t) => !isToken(t));
  if (unknown !== undefined)
    return `There is no token {${unknown}}. Known are ${LABEL_TOKENS.map((t) => `{${t}}`).join(' ')}.`;
  return /[{}]/.test(template.replace(TOKEN, '')) ? 'A brace is not closed.' : undefined;
}
const isToken = (t: string): t is keyof LabelValues => (LABEL_TOKENS as readonly string[]).includes(t);

/** Lines of a label, those left out that come to nothing. The template must have passed faultOfLabel. */
export const labelLines = (template: string, values: LabelValues): string[] =>
  template
    .split('\n')
    .map((line) =>
      line
        .replace(TOKEN, (_, t: string) => (isToken(t) ? values[t] : ''))
        // what stood between tokens that say nothing goes with them
        .replace(/(\s*[·,–-]\s*)+$/u, '')
        .replace(/^(\s*[·,–-]\s*)+/u, '')
        .replace(/\s+/g, ' ')
        .trim(),
    )
    .filter(Boolean);
