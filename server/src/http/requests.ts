// Requests are checked once, where they come in: their shape by the contract's schemas, and that their texts can be
// kept to the letter.
import { AppError } from '@variscen/contract';
import * as z from 'zod';

/** @throws AppError INVALID that names the field and what is wrong with it */
export function checked(schema: z.ZodType, value: unknown): unknown {
  const given = value ?? {};
  const result = schema.safeParse(given);
  if (result.success) {
    // after the shape, which bounds how deep a value goes
    const bad = unkeepable(result.data);
    if (bad)
      throw new AppError(
        'INVALID',
        `${bad.length ? `${bad.join('.')}: ` : ''}The text has a character in it that cannot be kept (a zero, or half of a pair).`,
        'Leave the character out.',
      );
    return result.data;
  }
  const issue = result.error.issues[0]!;
  const at = issue.path.map(String).join('.');
  throw new AppError('INVALID', `${at ? `${at}: ` : ''}${inWords(issue, given)}`);
}

/**
 * A body: like any other value, but what it names and nobody knows is refused, since it would otherwise be left undone
 * in silence.
 */
export function checkedBody(schema: z.ZodType, value: unknown, changes: boolean): unknown {
  const strict = schema instanceof z.ZodObject ? schema.strict() : schema;
  const body = checked(strict, value);
  if (changes && Object.keys(body as object).length === 0)
    throw new AppError('INVALID', 'The request names nothing to change.', 'Name at least one field.');
  return body;
}

function inWords(issue: z.core.$ZodIssue, given: unknown): string {
  if (issue.code === 'unrecognized_keys')
    return `There is no field ${issue.keys.map((k) => `“${k.slice(0, 60)}”`).join(', ')} here.`;
  if (
    issue.code === 'invalid_type' &&
    issue.path.reduce((v: unknown, k) => (v as Record<PropertyKey, unknown> | undefined)?.[k], given) === undefined
  )
    return `It is missing; ${issue.expected === 'string' ? 'a text' : `a value of the kind “${issue.expected}”`} is needed.`;
  return issue.message;
}

const UNKEEPABLE = /[\u0000\p{Surrogate}]/u;
/** Where in a value a text stands that the database could not give back as it is; undefined where there is none. */
function unkeepable(value: unknown): string[] | undefined {
  if (typeof value === 'string') return UNKEEPABLE.test(value) ? [] : undefined;
  if (!value || typeof value !== 'object') return undefined;
  for (const k in value) {
    if (UNKEEPABLE.test(k)) return [k.slice(0, 60)];
    const found = unkeepable((value as Record<string, unknown>)[k]);
    if (found) return [k.slice(0, 60), ...found];
  }
  return undefined;
}
