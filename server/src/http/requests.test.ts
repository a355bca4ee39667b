import fc from 'fast-check';
import { AppError } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import * as z from 'zod';
import { checked, checkedBody } from './requests.ts';

const schema = z.object({
  name: z.string().min(1),
  size: z.number().max(10).optional(),
  inside: z.object({ note: z.string() }).optional(),
});
const fault = (work: () => unknown): string => {
  try {
    work();
  } catch (e) {
    expect(e).toBeInstanceOf(AppError);
    expect((e as AppError).code).toBe('INVALID');
    return (e as AppError).message;
  }
  throw new Error('It was not refused.');
};

describe('a request', () => {
  it('that fits comes through as it is', () => {
    expect(checkedBody(schema, { name: 'Kettle', size: 3 }, true)).toEqual({ name: 'Kettle', size: 3 });
  });
  it.each([
    [{}, 'name: It is missing; a text is needed.'],
    [undefined, 'name: It is missing; a text is needed.'],
    [{ name: 'a', size: 11 }, /^size: /],
    [{ name: 'a', inside: {} }, 'inside.note: It is missing; a text is needed.'],
    [{ name: 'a', colour: 'red' }, 'There is no field “colour” here.'],
    [{ name: 'a', one: 1, two: 2 }, 'There is no field “one”, “two” here.'],
    [{ name: 7 }, /^name: .*string/],
  ])('%j is refused with the field and what is wrong', (body, message) => {
    const said = fault(() => checkedBody(schema, body, false));
    if (typeof message === 'string') expect(said).toBe(message);
    else expect(said).toMatch(message);
  });
  it('to change something names something', () => {
    const all = z.object({ name: z.string().optional() });
    expect(fault(() => checkedBody(all, {}, true))).toBe('The request names nothing to change.');
    expect(checkedBody(all, {}, false)).toEqual({});
  });
  it('with a text that the database could not give back is refused wherever the text stands', () => {
    const open = z.record(z.string(), z.unknown());
    for (const [value, at] of [
      [{ a: 'x\u0000y' }, 'a'],
      [{ a: { b: ['fine', '\ud800'] } }, 'a.b.1'],
      [{ 'k\u0000': 1 }, 'k\u0000'],
    ] as const)
      expect(fault(() => checked(open, value))).toBe(
        `${at}: The text has a character in it that cannot be kept (a zero, or half of a pair).`,
      );
    expect(checked(open, { a: 'whole pairs 🫖 and letters ä é 茶' })).toEqual({
      a: 'whole pairs 🫖 and letters ä é 茶',
    });
  });
  it('that is not refused holds no half pair and no zero', () => {
    const open = z.unknown();
    fc.assert(
      fc.property(fc.anything({ values: [fc.string({ unit: 'binary' }), fc.integer()] }), (value) => {
        let taken: unknown;
        try {
          taken = checked(open, value);
        } catch {
          return;
        }
        // what JSON and UTF-8 make of it gives it back
        const text = JSON.stringify(taken) ?? '';
        const back = new TextDecoder().decode(new TextEncoder().encode(text));
        expect(back).toBe(text);
        expect(text).not.toContain('\\u0000');
      }),
    );
  });
});
