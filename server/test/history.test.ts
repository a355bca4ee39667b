// Edits of every kind at random: taken back one by one they give the old rows, done again the new ones, wherever one
// stops on the way.
import type { Project } from '@variscen/contract';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Fixture, projectWithScene, startFixture } from './fixture.ts';

let f: Fixture, at: string;
beforeAll(async () => {
  f = await startFixture();
});
afterAll(async () => {
  await f?.close();
});

const now = () => f.ok<Project>('GET', at);
/** What a person made: all but where the history stands. */
const made = async (): Promise<Omit<Project, 'history'>> => {
  const { history: _, ...rest } = await now();
  return rest;
};

/**
 * One edit; `n` chooses what it is about. Some may be refused (nothing to delete, a name that is taken): then nothing
 * changes.
 */
type Edit = (n: number) => Promise<{ status: number }>;
const pickOf = <T>(list: readonly T[], n: number): T | undefined => (list.length ? list[n % list.length] : undefined);
const NOTHING = Promise.resolve({ status: 409 });
const EDITS: Readonly<Record<string, Edit>> = {
  'make an option': (n) =>
    f.call('POST', `${at}/options`, {
      facet: (['lighting', 'visibility', 'grade'] as const)[n % 3],
      name: `Option ${n}`,
    }),
  'rename an option': async (n) => {
    const o = pickOf((await now()).options, n);
    return o ? f.call('PATCH', `${at}/options/${o.id}`, { name: `Renamed ${n}` }) : NOTHING;
  },
  'note an option': async (n) => {
    const o = pickOf((await now()).options, n);
    return o ? f.call('PATCH', `${at}/options/${o.id}`, { notes: `Note ${n}`, tag: 'amber' }) : NOTHING;
  },
  'duplicate an option': async (n) => {
    const o = pickOf((await now()).options, n);
    return o ? f.call('POST', `${at}/options/${o.id}/duplicate`, {}) : NOTHING;
  },
  'delete an option': async (n) => {
    const o = pickOf((await now()).options, n);
    return o ? f.call('DELETE', `${at}/options/${o.id}?fromVariants=yes`) : NOTHING;
  },
  'order options': async (n) => {
    const same = (await now()).options.filter((o) => o.facet === 'lighting').map((o) => o.id);
    return f.call('PUT', `${at}/options/order`, {
      optionIds: n % 2 ? same.reverse() : [...same.slice(1), ...same.slice(0, 1)],
    });
  },
  'try something': (n) =>
    f.call('POST', `${at}/pending`, {
      destination: 'base',
      set: [
        { target: 'light:Lamp', property: 'light.intensity', value: n },
        ...(n % 2 ? [{ target: 'object:Sheet', property: 'object.shown', value: n % 4 === 1 }] : []),
      ],
    }),
  'discard something': () =>
    f.call('POST', `${at}/pending`, {
      destination: 'base',
      clear: [{ target: 'light:Lamp', property: 'light.intensity' }],
    }),
  'keep what was tried': () => f.call('POST', `${at}/pending/keep`, { destination: 'base' }),
  'keep it as an option': (n) =>
    f.call('POST', `${at}/pending/keep`, { destination: 'base', as: [{ facet: 'lighting', name: `Kept ${n}` }] }),
  'record in an option': async (n) => {
    const o = (await now()).options.find((x) => x.facet === 'lighting');
    return o
      ? f.call('POST', `${at}/recorded`, {
          destination: `option:${o.id}`,
          set: [{ target: 'light:Lamp', property: 'light.on', value: n % 2 === 0 }],
        })
      : NOTHING;
  },
  'record for a camera': async (n) => {
    const p = await now();
    const c = pickOf(p.cameras, n)!;
    return f.call('POST', `${at}/recorded`, {
      destination: `camera:${c.id}`,
      set: [{ target: 'object:Sheet', property: 'object.shown', value: n % 2 === 0 }],
    });
  },
  'make a variant': async (n) =>
    f.call('POST', `${at}/variants`, {
      optionIds: (await now()).options
        .filter((_, i) => (n >> i) & 1)
        .map((o) => o.id)
        .slice(0, 5),
    }),
  'name a variant': async (n) => {
    const v = pickOf((await now()).variants.slice(1), n);
    return v ? f.call('PATCH', `${at}/variants/${v.id}`, { name: n % 2 ? `Called ${n}` : null }) : NOTHING;
  },
  'leave a camera out': async (n) => {
    const p = await now();
    const v = pickOf(p.variants, n)!;
    return f.call('PATCH', `${at}/variants/${v.id}`, { excludedCameraIds: n % 2 ? [p.cameras[0]!.id] : [] });
  },
  'delete a variant': async (n) => {
    const v = pickOf((await now()).variants.slice(1), n);
    return v ? f.call('DELETE', `${at}/variants/${v.id}`) : NOTHING;
  },
  'add a camera': async (n) => {
    const c = (await now()).cameras[0]!;
    return f.call('POST', `${at}/cameras`, { name: `Camera ${n}`, settings: { ...c.settings, focalLengthMm: 20 + n } });
  },
  'change cameras': async (n) =>
    f.call('PATCH', `${at}/cameras`, {
      cameraIds: (await now()).cameras.map((c) => c.id),
      settings: { fStop: n % 3 ? 2 + n : null },
      handling: { notes: `Step ${n}` },
    }),
  'order cameras': async () =>
    f.call('PUT', `${at}/cameras/order`, { cameraIds: (await now()).cameras.map((c) => c.id).reverse() }),
  'delete a camera': async (n) => {
    const c = pickOf((await now()).cameras.slice(1), n);
    return c ? f.call('DELETE', `${at}/cameras/${c.id}`) : NOTHING;
  },
  'name a selection': (n) =>
    f.call('PUT', `${at}/sets`, { sets: n % 2 ? [{ name: `Ware ${n}`, paths: ['Sheet'] }] : [] }),
  'rename the project': (n) => f.call('PATCH', at, { name: `History ${n}` }),
  'change templates': (n) =>
    f.call('PATCH', at, {
      nameTemplate: `{camera}/{variant}_{version}_${n}`,
      variantTemplate: n % 2 ? '{options}' : '{lighting} {grade}',
    }),
};

it('any edits, taken back and done again, give the same rows at every step', async () => {
  let taken = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.constantFrom(...Object.keys(EDITS)), fc.integer({ min: 0, max: 30 })), {
        minLength: 6,
        maxLength: 14,
      }),
      async (edits) => {
        const p = await projectWithScene(f, 'History');
        at = `/api/projects/${p.id}`;
        // states by the step of the history that they come after: edits that join (a slider that is drawn) share one
        const states = new Map<string, unknown>();
        const label = async () => String((await now()).history.undo);
        const steps: string[] = [];
        const stepOf = async () =>
          (await f.ok<{ id: string; state: string }[]>('GET', `${at}/history`)).find((s) => s.state === 'done')?.id ??
          '0';
        states.set(await stepOf(), await made());
        steps.push(await stepOf());
        for (const [name, n] of edits) {
          const before = await made();
          const { status } = await EDITS[name]!(n);
          expect(status, name).toBeLessThan(500);
          if (status !== 200) expect(await made(), `${name} was refused`).toEqual(before);
          const step = await stepOf();
          if (step !== steps.at(-1)) steps.push(step);
          states.set(step, await made());
        }
        taken += steps.length - 1; // now and then all edits of a run are refused
        for (let i = steps.length - 1; i > 0; i--) {
          expect(await stepOf()).toBe(steps[i]);
          expect(await made(), `at ${await label()}`).toEqual(states.get(steps[i]!));
          await f.ok('POST', `${at}/undo`);
        }
        expect(await made()).toEqual(states.get(steps[0]!));
        for (let i = 1; i < steps.length; i++) {
          await f.ok('POST', `${at}/redo`);
          expect(await made(), `again ${await label()}`).toEqual(states.get(steps[i]!));
        }
        // straight to any of them, and back to the end
        for (const i of [0, steps.length >> 1, steps.length - 1]) {
          await f.ok('POST', `${at}/history/${steps[i]!}`, {});
          expect(await made()).toEqual(states.get(steps[i]!));
        }
        await f.ok('DELETE', at);
      },
    ),
    { numRuns: 10 },
  );
  expect(taken).toBeGreaterThan(5);
});
