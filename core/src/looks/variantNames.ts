// What a variant is called that nobody named by hand: made of its options' names by the project's template, so that
// renaming an option renames it.
import { FACETS, FACET_NAMES, type Facet } from './facets.ts';

export const VARIANT_TOKENS = ['options', ...FACETS] as const;
type VariantToken = (typeof VARIANT_TOKENS)[number];
export const DEFAULT_VARIANT_TEMPLATE = '{options}';
const BETWEEN = ' · ';
const LONGEST = 120;

/** Says what is wrong with a template, or undefined. */
export function faultOfVariantTemplate(template: string): string | undefined {
  const tokens = [...template.matchAll(/\{([^{}]*)\}/g)].map((m) => m[1]!);
  const unknown = tokens.find((t) => !(VARIANT_TOKENS as readonly string[]).includes(t));
  if (unknown !== undefined)
    return `There is no token {${unknown}}. Known are ${VARIANT_TOKENS.map((t) => `{${t}}`).join(' ')}.`;
  if (/[{}]/.test(template.replace(/\{[^{}]*\}/g, ''))) return 'A brace is not closed.';
  if (tokens.length === 0)
    return 'The template needs a token, or all variants have one name: write for example {options}.';
  return template.length > 300 ? 'The template is longer than 300 characters.' : undefined;
}

/**
 * {options}: the names of all options in the order of the facets; {lighting} and so on: of that facet alone. A token of
 * nothing goes, with the words between it and the token before. A variant of no options is “Base”. At most 120
 * characters.
 */
export function variantName(
  template: string,
  options: readonly { readonly facet: Facet; readonly name: string }[],
): string {
  const of = (facet: Facet) =>
    options
      .filter((o) => o.facet === facet)
      .map((o) => o.name)
      .join(' + ');
  const value = (t: VariantToken) => (t === 'options' ? FACETS.map(of).filter(Boolean).join(BETWEEN) : of(t));
  let out = '';
  let between = '';
  let first = true;
  let any = false;
  for (const [i, part] of template.split(/\{([^{}]*)\}/).entries()) {
    if (i % 2 === 0) {
      between = part;
      if (first) out = part;
      first = false;
      continue;
    }
    const v = value(part as VariantToken);
    if (!v) continue;
    out += (any ? between : '') + v;
    any = true;
    between = '';
  }
  return any ? (out + between).trim().slice(0, LONGEST).trim() : 'Base';
}

/**
 * Where a facet offers no option, its base; null among a facet's choices is the base too. In the order of choice, the
 * last facet turning fastest.
 */
export function combinations(choices: Partial<Readonly<Record<Facet, readonly (string | null)[]>>>): string[][] {
  let all: string[][] = [[]];
  for (const facet of FACETS) {
    const chosen = choices[facet];
    if (chosen?.length) all = all.flatMap((c) => chosen.map((id) => (id === null ? c : [...c, id])));
  }
  return all;
}

/** “Lighting: Paper lanterns” */
export const optionTitle = (o: { readonly facet: Facet; readonly name: string }): string =>
  `${FACET_NAMES[o.facet]}: ${o.name}`;
