// Property tests draw the same cases in every run, so that what was green stays green until the code changes. Others:
// VARISCEN_SEED=123 ./test; more of each that sets no number itself: VARISCEN_RUNS=10000.
import fc from 'fast-check';
import { expect } from 'vitest';

const number = (name, otherwise) => {
  const given = process.env[name] ?? otherwise;
  if (!/^\d+$/.test(given)) throw new Error(`${name} is a whole number, not “${given}”.`);
  return Number(given);
};
fc.configureGlobal({ seed: number('VARISCEN_SEED', '20261127'), numRuns: number('VARISCEN_RUNS', '100') });

// Arrays of the same bytes are equal. To find that out element by element took a third of some of the engine's tests.
const bytesOf = (view) => Buffer.from(view.buffer, view.byteOffset, view.byteLength);
expect.addEqualityTesters([
  (a, b) => {
    const isSame =
      ArrayBuffer.isView(a) &&
      ArrayBuffer.isView(b) &&
      a.constructor === b.constructor &&
      bytesOf(a).equals(bytesOf(b));
    return isSame || undefined; // where they are not, what is asked for decides
  },
]);
