// Cells that differ in light alone share one trace: each picture is that of its own.
import { createHash, randomUUID } from 'node:crypto';
import { execFile } from 'node:child_process';
import { appendFile, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Plan, Project, Render } from '@variscen/contract';
import { type LightPicture, mixedLight, unpackLightPicture } from '@variscen/core/image';
import { type Change, SceneIndex, mixChanges, resolve } from '@variscen/core/looks';
import { AOVS, PLAIN_FILES, PROFILES } from '@variscen/core/plan';
import type { SceneDocument } from '@variscen/core/scene';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import sharp from 'sharp';
import { renderTrace } from '../src/node/renderTrace.ts';
import { exrData } from './exrData.ts';
import { ENGINE, type Fixture, helloOf, projectWithScene, startFixture } from './fixture.ts';

const run = promisify(execFile);
const never = new AbortController().signal;
const WHITE = [1, 1, 1] as const;
let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(() => f?.close());

interface Changed {
  readonly target: string;
  readonly property: string;
  readonly value: unknown;
}
const set = (target: string, property: string, value: unknown): Changed => ({ target, property, value });
const KEY = 'light:+rectangle/Key';
const key = [
  set(KEY, 'light.added', true),
  set(KEY, 'light.width', 2),
  set(KEY, 'light.height', 2),
  set(KEY, 'light.intensity', 6),
  set(KEY, 'light.offset', [-1.5, 1.5, 1.5]),
  set(KEY, 'light.turn', [-30, -40, 0]),
];

/** Variants in light of their own, one in other materials, and one that is graded. */
async function looks(name: string): Promise<Project> {
  const p = await projectWithScene(f, name);
  const at = `/api/projects/${p.id}`;
  const add = (variant: string, options: readonly { facet: string; name: string; changes: readonly Changed[] }[]) =>
    f.ok('POST', `${at}/options/together`, {
      options,
      variant: { fromVariantId: p.variants[0]!.id, name: variant },
    });
  const lighting = (option: string, changes: readonly Changed[]) => ({ facet: 'lighting', name: option, changes });
  await add('Dim and warm', [
    lighting('Dim', [set('light:Lamp', 'light.intensity', 3), set('light:Lamp', 'light.color', [1, 0.5, 0.2])]),
  ]);
  await add('Key alone', [
    lighting('Key', [...key, set('light:Lamp', 'light.on', false)]),
    { facet: 'environment', name: 'Dusk', changes: [set('environment', 'environment.strength', 0.2)] },
  ]);
  await add('Without a sky', [
    lighting('Both', key),
    { facet: 'environment', name: 'Dark', changes: [set('environment', 'environment.kind', 'none')] },
  ]);
  await add('Graded', [{ facet: 'grade', name: 'Brighter', changes: [set('grade', 'grade.exposure', 1)] }]);
  await add('Moved lamp', [lighting('Moved', [set('light:Lamp', 'light.offset', [0, 1, 0])])]);
  return f.ok<Project>('GET', at);
}
const cellsOf = (p: Project, names?: readonly string[]) =>
  p.variants
    .filter((v) => !names || names.includes(v.name))
    .map((v) => ({ cameraId: p.cameras[0]!.id, variantId: v.id }));
async function profileOf(p: Project, more: object): Promise<string> {
  const id = randomUUID();
  const { id: _, ...sketch } = PROFILES[0]!;
  const files = { ...PLAIN_FILES, exr: { type: 'float', compression: 'zip', perCell: false, aovsApart: false } };
  await f.ok('PUT', `/api/projects/${p.id}/profiles/${id}`, { ...sketch, name: 'Own', denoise: 0, files, ...more });
  return id;
}
const plan = (p: Project, profileId: string, separately = false) =>
  f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells: cellsOf(p), profileId, separately });
async function render(p: Project, profileId: string, separately = false): Promise<void> {
  await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: cellsOf(p), profileId, separately });
  for (let l = await f.node.lease(ENGINE); l; l = await f.node.lease(ENGINE))
    await renderTrace(f.node, l, f.machine, never);
}
async function newest(p: Project, variant: string): Promise<Render> {
  const { id } = p.variants.find((v) => v.name === variant)!;
  const list = await f.ok<Render[]>('GET', `/api/projects/${p.id}/cells/${p.cameras[0]!.id}/${id}`);
  return list[0]!;
}
/** Means of channels, as a stranger reads them. */
async function meansOf(r: Render, channels: readonly string[]): Promise<number[]> {
  const path = join(f.home, 'output', r.files.find((x) => x.kind === 'exr')!.path);
  const { stdout } = await run('oiiotool', [path, '--ch', channels.join(), '--printstats']);
  const line = /Stats Avg: (.*?)\(/.exec(stdout)![1]!;
  return line.trim().split(/\s+/).map(Number);
}

describe('cells that differ in light alone', () => {
  it('are planned as one trace, with what it is worth; in other places of lights, or on wish, as traces of their own', async () => {
    const p = await looks('Planned together');
    const id = await profileOf(p, { widthPx: 48, samples: 4 });
    const shared = await plan(p, id);
    const namesIn = (t: Plan['traces'][number]) =>
      t.cells.map((c) => p.variants.find((v) => v.id === c.variantId)!.name);
    expect(shared.errors).toEqual([]);
    expect(shared.traces.map(namesIn)).toEqual([
      ['Base', 'Graded', 'Dim and warm', 'Key alone', 'Without a sky'],
      ['Moved lamp'],
    ]);
    expect(shared.traces.map((t) => t.lightings)).toEqual([4, 1]);
    // one OpenEXR for each light, that of the graded cell beside the other's
    expect(shared.traces[0]!.cells.map((c) => c.files.filter((x) => x.endsWith('.exr')).length)).toEqual([
      1, 0, 1, 1, 1,
    ]);
    const apart = await plan(p, id, true);
    expect(apart.traces.map((t) => t.lightings)).toEqual([1, 1, 1, 1, 1]);
    expect(apart.hash).not.toBe(shared.hash);
    // what is kept apart takes memory, and the plan says so
    expect(shared.traces[0]!.bytes.film).toBeGreaterThan(apart.traces[0]!.bytes.film * 2);
  });

  it('are each the picture of its own trace, within the noise, with every layer', async () => {
    const p = await looks('Rendered together');
    const id = await profileOf(p, {
      widthPx: 48,
      samples: 240,
      aovs: ['emission', 'direct', 'indirect', 'lightGroups'],
    });
    await render(p, id, true);
    const channels = ['R', 'G', 'B', 'A', ...['direct', 'indirect', 'emission'].flatMap((l) => [`${l}.R`, `${l}.B`])];
    const own = new Map<string, number[]>();
    for (const v of p.variants) own.set(v.name, await meansOf(await newest(p, v.name), channels));
    await render(p, id);
    for (const v of p.variants) {
      const r = await newest(p, v.name);
      expect(r.version).toBe(2);
      expect(r.lightings, v.name).toBe(v.name === 'Moved lamp' ? 1 : 4);
      const together = await meansOf(r, channels);
      const alone = own.get(v.name)!;
      for (const [c, channel] of channels.entries()) {
        const [a, b] = [together[c]!, alone[c]!];
        expect(Math.abs(a - b), `${v.name}, ${channel}: ${a}, alone ${b}`).toBeLessThan(0.03 * b + 0.0007);
      }
    }
    // they are not alike
    expect(own.get('Base')![2]! / own.get('Dim and warm')![2]!).toBeGreaterThan(1.3);
  });

  it('have every AOV, denoised, and are up to date on the board', async () => {
    const p = await looks('Everything');
    const id = await profileOf(p, { widthPx: 48, samples: 32, denoise: 1, noise: 0.2, aovs: AOVS });
    await render(p, id);
    const board = await f.ok<{ cells: { status: string }[] }>('GET', `/api/projects/${p.id}/board?profileId=${id}`);
    expect(board.cells.map((c) => c.status)).toEqual(p.variants.map(() => 'current'));
    const base = await newest(p, 'Base');
    const graded = await newest(p, 'Graded');
    expect(graded.files.find((x) => x.kind === 'exr')!.path).toBe(base.files.find((x) => x.kind === 'exr')!.path);
    // each says how noisy it is itself
    const alone = await newest(p, 'Key alone');
    for (const r of [base, graded, alone]) expect(r.noise).toBeGreaterThan(0);
    expect(graded.noise).toBe(base.noise);
    expect(alone.noise).not.toBe(base.noise);
  });

  it('without any light in one of them are refused, by its name', async () => {
    const p = await looks('Dark');
    await f.ok('POST', `/api/projects/${p.id}/options/together`, {
      options: [
        { facet: 'lighting', name: 'Off', changes: [set('light:Lamp', 'light.on', false)] },
        { facet: 'environment', name: 'Night', changes: [set('environment', 'environment.strength', 0)] },
      ],
      variant: { fromVariantId: p.variants[0]!.id, name: 'Nothing on' },
    });
    const now = await f.ok<Project>('GET', `/api/projects/${p.id}`);
    const { errors } = await plan(now, await profileOf(now, { widthPx: 48, samples: 4 }));
    expect(errors.map((e) => e.message)).toEqual([expect.stringMatching(/^Front in Nothing on: nothing gives light/)]);
  });
});

describe('a trace of several lightings that takes long', () => {
  it('is cut into slices, goes on after its node is gone, and every picture is that of an undisturbed run, to the bit', async () => {
    const small = await projectWithScene(f, 'Sliced');
    const at = `/api/projects/${small.id}`;
    const { id: cameraId, settings } = small.cameras[0]!;
    await f.ok('PATCH', `${at}/cameras/${cameraId}`, { settings: { ...settings, widthPx: 720, heightPx: 480 } });
    await f.ok('POST', `${at}/options/together`, {
      options: [
        { facet: 'lighting', name: 'Off', changes: [set('light:Lamp', 'light.on', false)] },
        { facet: 'environment', name: 'Dusk', changes: [set('environment', 'environment.tint', [1, 0.5, 0.2])] },
      ],
      variant: { fromVariantId: small.variants[0]!.id, name: 'Dusk' },
    });
    const p = await f.ok<Project>('GET', at);
    const id = await profileOf(p, {
      samples: 6,
      widthPx: 240,
      denoise: 1,
      noise: 0.3,
      aovs: ['lightGroups', 'direct'],
    });
    const pictures = async () => {
      const files = await Promise.all(
        p.variants.map(async (v) => {
          const r = await newest(p, v.name);
          expect(r.lightings).toBe(2);
          const pathOf = (kind: string) => join(f.home, 'output', r.files.find((x) => x.kind === kind)!.path);
          return [exrData(await readFile(pathOf('exr'))), await sharp(pathOf('png')).raw().toBuffer()];
        }),
      );
      return files.flat().map((bytes) => createHash('sha256').update(bytes).digest('hex'));
    };
    await render(p, id);
    const whole = await pictures();
    expect(new Set(whole).size).toBe(4);

    await f.ok('POST', `${at}/batches`, { cells: cellsOf(p), profileId: id });
    const machine = { ...f.machine, sliceTimes: { lookS: 0.001, sliceS: 0.001 } };
    const lease = (await f.node.lease(ENGINE))!;
    const gone = new AbortController();
    const rendering = renderTrace(f.node, lease, machine, gone.signal);
    const done = () => f.running.db.query<{ state: string }[]>(`SELECT state FROM slice WHERE state = 'done'`);
    while ((await done()).length < 2) await new Promise((r) => setTimeout(r, 10));
    gone.abort();
    await rendering;
    await f.running.context.queue.gone('test node');
    await f.node.hello(helloOf(2, 100e6));
    expect((await done()).length).toBeGreaterThanOrEqual(2);
    await renderTrace(f.node, (await f.node.lease(ENGINE))!, machine, never);
    expect(await pictures()).toEqual(whole);
    expect((await newest(p, 'Base')).version).toBe(2);
  });
});

describe('light groups of a finished picture', () => {
  const lightOf = async (r: Render, widthPx = 48): Promise<LightPicture> => {
    const answer = await fetch(`${f.base}/api/renders/${r.id}/light?widthPx=${widthPx}`);
    expect(answer.status).toBe(200);
    return unpackLightPicture(await answer.arrayBuffer());
  };
  const meanOf = (film: Float32Array, channel: number) => {
    let sum = 0;
    for (let i = channel; i < film.length; i += 4) sum += film[i]!;
    return sum / (film.length / 4);
  };

  it('add up to it, also from a file of their own, and mixed and kept as options they are what those render', async () => {
    const p = await projectWithScene(f, 'Mixed');
    const at = `/api/projects/${p.id}`;
    await f.ok('POST', `${at}/recorded`, {
      destination: 'base',
      set: [set('environment', 'environment.group', '2')],
      clear: [],
    });
    const how = { widthPx: 48, samples: 600, aovs: ['lightGroups'] };
    const id = await profileOf(p, how);
    await render(p, id);
    const first = await newest(p, 'Base');
    const picture = await lightOf(first);
    expect(picture).toMatchObject({ widthPx: 48, heightPx: 27, groups: ['1', '2'] });
    const rgb = await meansOf(first, ['R', 'G', 'B']);
    const whole = mixedLight(picture, [WHITE, WHITE]);
    for (const c of [0, 1, 2]) expect(meanOf(whole, c)).toBeCloseTo(rgb[c]!, 3);
    // smaller, it is as bright
    const small = await lightOf(first, 10);
    expect(small.widthPx).toBe(10);
    expect(meanOf(mixedLight(small, [WHITE, WHITE]), 1)).toBeCloseTo(rgb[1]!, 1);

    const shares = [
      [0.3, 0.1, 0.05],
      [0.5, 1, 2],
    ] as const;
    const look = await f.ok<{ changes: Change[] }>('GET', `/api/renders/${first.id}/look`);
    const document = JSON.parse(
      await (await fetch(`${f.base}/api/assets/${p.revision!.sceneHash}`)).text(),
    ) as SceneDocument;
    const state = resolve(new SceneIndex(document), [{ id: 'look', name: '', kind: 'base', changes: look.changes }]);
    const changes = mixChanges(state, new Map(picture.groups.map((g, k) => [g, shares[k]!])), 'group');
    const of = (kind: string) => changes.filter((c) => c.target.startsWith(kind));
    await f.ok('POST', `${at}/options/together`, {
      options: [
        { facet: 'lighting', name: 'Mixed', changes: of('light:') },
        { facet: 'environment', name: 'Mixed', changes: of('environment') },
      ],
      variant: { fromVariantId: p.variants[0]!.id, name: 'Kept' },
    });
    const now = await f.ok<Project>('GET', at);
    const apart = { type: 'half', compression: 'zips', perCell: false, aovsApart: true };
    await render(now, await profileOf(now, { ...how, name: 'Apart', files: { ...PLAIN_FILES, exr: apart } }), true);
    const mixed = mixedLight(picture, shares);
    const own = mixedLight(await lightOf(await newest(now, 'Kept')), [WHITE, WHITE]);
    for (const c of [0, 1, 2]) expect(meanOf(own, c) / meanOf(mixed, c), `channel ${c}`).toBeCloseTo(1, 1.6);
  });

  it('light by light are layers that their names are kept with, and one of them mixed is what its own look renders', async () => {
    const p = await projectWithScene(f, 'Each light');
    const at = `/api/projects/${p.id}`;
    // another light of the same plain name, and one whose name no layer can have
    const FILL = 'light:+rectangle/Lamp';
    const ODD = `light:+rectangle/${'名'.repeat(30)}.R "odd"`;
    const like = (target: string, x: number) =>
      key.map((c) => ({ ...c, target, value: c.property === 'light.offset' ? [x, 1.5, 1.5] : c.value }));
    const base = [...like(FILL, -1.5), ...like(ODD, 1.5)];
    await f.ok('POST', `${at}/recorded`, { destination: 'base', set: base, clear: [] });
    const how = { widthPx: 48, samples: 400, aovs: ['lightGroups'], lightGroups: 'lights' };
    const id = await profileOf(p, how);
    await render(p, id);
    const first = await newest(p, 'Base');
    const file = join(f.home, 'output', first.files.find((x) => x.kind === 'exr')!.path);
    const header = (await run('exrheader', [file])).stdout;
    expect([...new Set(header.match(/light\.\w+(?=\.R,)/g))]).toEqual(
      ['light.Lamp', 'light.Lamp_2', 'light.R_odd', 'light.sky'].sort(),
    );
    const picture = await lightOf(first);
    expect(picture.by).toBe('target');
    expect([...picture.groups].sort()).toEqual(['environment', 'light:Lamp', FILL, ODD].sort());
    const rgb = await meansOf(first, ['R', 'G', 'B']);
    const whole = mixedLight(
      picture,
      picture.groups.map(() => WHITE),
    );
    for (const c of [0, 1, 2]) expect(meanOf(whole, c)).toBeCloseTo(rgb[c]!, 3);

    const shares = new Map<string, readonly [number, number, number]>([
      [FILL, [3, 1, 0.2]],
      ['light:Lamp', [0, 0, 0]],
    ]);
    const look = await f.ok<{ changes: Change[] }>('GET', `/api/renders/${first.id}/look`);
    const scene = await fetch(`${f.base}/api/assets/${p.revision!.sceneHash}`);
    const index = new SceneIndex((await scene.json()) as SceneDocument);
    const state = resolve(index, [{ id: 'look', name: '', kind: 'base', changes: look.changes }]);
    const changes = mixChanges(state, shares, 'target');
    expect(new Set(changes.map((c) => c.target))).toEqual(new Set([FILL, 'light:Lamp']));
    await f.ok('POST', `${at}/options/together`, {
      options: [{ facet: 'lighting', name: 'Mixed', changes }],
      variant: { fromVariantId: p.variants[0]!.id, name: 'Kept' },
    });
    const now = await f.ok<Project>('GET', at);
    // each of them is traced by itself, since either can be mixed into the other
    const plan = await f.ok<Plan>('POST', `${at}/plan`, { cells: cellsOf(now), profileId: id });
    expect(plan.traces.map((t) => t.lightings)).toEqual([1, 1]);
    expect(plan.traces[0]!.bytes).toEqual(first.plannedBytes); // what it took
    await render(now, id);
    const mixed = mixedLight(
      picture,
      picture.groups.map((g) => shares.get(g) ?? WHITE),
    );
    const kept = await lightOf(await newest(now, 'Kept'));
    const own = mixedLight(
      kept,
      kept.groups.map(() => WHITE),
    );
    for (const c of [0, 1, 2]) expect(meanOf(own, c) / meanOf(mixed, c), `channel ${c}`).toBeCloseTo(1, 1.6);
  });

  it('of a picture that has none, or whose file was changed, are told so', async () => {
    const p = await projectWithScene(f, 'No groups');
    await render(p, await profileOf(p, { widthPx: 48, samples: 2 }));
    const r = await newest(p, 'Base');
    const ask = () => f.call('GET', `/api/renders/${r.id}/light?widthPx=48`);
    expect((await ask()).data.message).toMatch(/has no light groups/);
    await appendFile(join(f.home, 'output', r.files.find((x) => x.kind === 'exr')!.path), 'more');
    expect((await ask()).data.code).toBe('FILE_CHANGED');
    expect((await f.call('GET', `/api/renders/${r.id}/light?widthPx=0`)).status).toBe(400);
    expect((await f.call('GET', `/api/renders/${randomUUID()}/light?widthPx=48`)).status).toBe(404);
  });
});
