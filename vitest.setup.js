// Property tests draw the same cases in every run, so that what was green stays green until the code changes. Others: VARISCEN_SEED=123 ./test; more of each that sets no number itself: VARISCEN_RUNS=10000.
import fc from 'fast-check';

const number = (name, otherwise) => {
  const given = process.env[name] ?? otherwise;
  if (!/^\d+$/.test(given)) throw new Error(`${name} is a whole number, not “${given}”.`);
  return Number(given);
};
fc.configureGlobal({ seed: number('VARISCEN_SEED', '20261127'), numRuns: number('VARISCEN_RUNS', '100') });
