// Edits of every kind at random: taken back one by one they give the old rows, done again the new ones, wherever one
// stops on the way.
import type { Project } from '@variscen/contract';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Fixture, projectWithScene, smallScene, startFixture } from './fixture.ts';

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

it('an import is a step: undone, the project has no scene; redone, it has it again, whatever was done before', async () => {
  const p = await f.ok<Project>('POST', '/api/projects', { name: 'Import undone' });
  at = `/api/projects/${p.id}`;
  await f.ok('PATCH', at, { name: 'Import undone and redone' });
  const renamed = await made();
  await f.ok('POST', `${at}/scene?fileName=small.glb`, await smallScene());
  const imported = await made();
  expect(imported.revision?.number).toBe(1);
  expect(imported.cameras.length).toBeGreaterThan(0);
  await f.ok('POST', `${at}/undo`);
  expect(await made()).toEqual(renamed);
  await f.ok('POST', `${at}/undo`);
  expect((await made()).name).toBe('Import undone');
  await f.ok('POST', `${at}/redo`);
  await f.ok('POST', `${at}/redo`);
  expect(await made()).toEqual(imported);
});

it('undo gives back what its step changed and nothing else', async () => {
  const p = await f.ok<Project>('POST', '/api/projects', { name: 'Nothing else' });
  at = `/api/projects/${p.id}`;
  await f.ok('PATCH', at, { name: 'Renamed' });
  // something that is no edit changes another column of the same row
  await f.running.db.query(`UPDATE project SET name_template = '{camera}_{version}' WHERE id = $1`, [p.id]);
  await f.ok('POST', `${at}/undo`);
  expect(await now()).toMatchObject({ name: 'Nothing else', nameTemplate: '{camera}_{version}' });
});

it('undo is refused where what it would change is not as its step left it', async () => {
  const p = await f.ok<Project>('POST', '/api/projects', { name: 'Left alone' });
  at = `/api/projects/${p.id}`;
  await f.ok('PATCH', at, { name: 'Renamed' });
  await f.running.db.query(`UPDATE project SET name = 'By another hand' WHERE id = $1`, [p.id]);
  const { status, data } = await f.call('POST', `${at}/undo`);
  expect([status, data.message]).toEqual([409, expect.stringMatching(/“Rename the project to Renamed” cannot be/)]);
  expect((await now()).name).toBe('By another hand');
});

it('of 50 windows that change the same value in the same moment one does, and the others hear of it', async () => {
  const p = await projectWithScene(f, 'Fifty windows');
  at = `/api/projects/${p.id}`;
  const seen = (await now()).history.last ?? '0';
  const change = (n: number) =>
    f.call(
      'POST',
      `${at}/recorded`,
      { destination: 'base', set: [{ target: 'light:Lamp', property: 'light.intensity', value: n }] },
      { 'x-variscen-tab': `window ${n}`, 'x-variscen-seen': seen },
    );
  const answers = await Promise.all(Array.from({ length: 50 }, (_, n) => change(n + 1)));
  const accepted = answers.flatMap((a, i) => (a.status === 200 ? [i + 1] : []));
  expect(accepted).toHaveLength(1);
  expect(answers.filter((a) => a.status === 409 && a.data.code === 'CONFLICT')).toHaveLength(49);
  expect((await now()).base[0]!.value).toBe(accepted[0]);
  // nor does one of them undo what another did without having seen it
  const undone = await f.call('POST', `${at}/undo`, {}, { 'x-variscen-tab': 'window 51', 'x-variscen-seen': seen });
  expect([undone.status, undone.data.code]).toEqual([409, 'CONFLICT']);
  expect((await now()).base[0]!.value).toBe(accepted[0]);
});

it('a slider that is drawn in a long list is one step, which keeps the one value and puts it back in its place', async () => {
  const p = await projectWithScene(f, 'A long list');
  at = `/api/projects/${p.id}`;
  const set = Array.from({ length: 2000 }, (_, n) => ({
    target: `light:Lamp ${n}`,
    property: 'light.intensity',
    value: n,
  }));
  await f.ok('POST', `${at}/pending`, { destination: 'base', set });
  const before = (await now()).pending[0]!.changes;
  const draw = (value: number) =>
    f.ok('POST', `${at}/pending`, { destination: 'base', set: [{ ...set[700]!, value }] });
  for (let tick = 0; tick < 40; tick++) await draw(5000 + tick);
  const [kept] = await f.running.db.query<{ rows: string; bytes: string }[]>(
    `SELECT count(*) AS rows, sum(length(r.before::text) + length(r.after::text)) AS bytes
      FROM history_row r JOIN history_step s ON s.id = r.step_id
      WHERE s.project_id = $1 AND s.id = (SELECT max(id) FROM history_step WHERE project_id = $1)`,
    [p.id],
  );
  expect(Number(kept!.rows)).toBe(1);
  expect(Number(kept!.bytes)).toBeLessThan(1000);
  await f.ok('POST', `${at}/undo`);
  expect((await now()).pending[0]!.changes).toEqual(before);
  await f.ok('POST', `${at}/redo`);
  expect((await now()).pending[0]!.changes[700]).toEqual({ ...set[700]!, value: 5039 });
});
