// What a plan says before anything runs: what cannot be rendered as it is recorded, and names that can be written.
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Plan, Project, Queue, Render } from '@variscen/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, projectWithScene, startFixture, helloOf } from './fixture.ts';

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(async () => {
  await f?.close();
});

const planOf = (p: Project, variant = 0) =>
  f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells: [cellOf(p, variant)], profileId: 'sketch' });
const messages = async (p: Project, variant = 0) => (await planOf(p, variant)).errors.map((e) => e.message);
const record = (p: Project, target: string, property: string, value: unknown) =>
  f.ok('POST', `/api/projects/${p.id}/recorded`, { destination: 'base', set: [{ target, property, value }] });
const asset = (hash: string) => join(f.home, 'assets', hash.slice(0, 2), hash);
async function sceneOf(p: Project) {
  const bytes = await readFile(asset(p.revision!.sceneHash), 'utf8');
  return JSON.parse(bytes) as { meshes: { name: string; blob: string }[] };
}

describe('a plan of what is recorded', () => {
  it('names a material that is not there, by the object and its cells', async () => {
    const p = await projectWithScene(f, 'Unknown material');
    expect(await messages(p)).toEqual([]);
    await record(p, 'object:Sheet', 'object.material', 'Gold leaf');
    expect(await messages(p)).toEqual([
      expect.stringMatching(/^“Sheet” has the material “Gold leaf”, which is not there\. .*\(Front in Base\)\.$/),
    ]);
    const { data } = await f.call('POST', `/api/projects/${p.id}/batches`, {
      cells: [cellOf(p)],
      profileId: 'sketch',
    });
    expect([data.code, data.message]).toEqual(['PLAN_HAS_ERRORS', expect.stringMatching(/Gold leaf/)]);
  });
  it('warns of values for objects that the scene does not have', async () => {
    const p = await projectWithScene(f, 'Vanished');
    await record(p, 'object:Teapot', 'object.shown', false);
    const plan = await planOf(p);
    expect(plan.errors).toEqual([]);
    expect(plan.warnings).toEqual([
      expect.stringMatching(/“Teapot” is not in the scene: a value .* counts for nothing/),
    ]);
  });
  it('names an environment map that is gone or damaged', async () => {
    const p = await projectWithScene(f, 'No map');
    const rows = Array.from({ length: 4 * 8 * 4 }, (_, i) => (i % 4 === 3 ? 129 : 90));
    const head = new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n');
    const map = await f.ok<{ value: string }>(
      'POST',
      '/api/environments?fileName=dusk.hdr',
      new Uint8Array([...head, ...rows]),
    );
    await record(p, 'environment', 'environment.kind', map.value);
    expect(await messages(p)).toEqual([]);
    const path = asset(map.value.split(':')[1]!);
    const bytes = await readFile(path);
    bytes[20]! ^= 4;
    await writeFile(path, bytes);
    expect(await messages(p)).toContainEqual(
      expect.stringMatching(/^The environment map “dusk.hdr” is damaged in the data folder/),
    );
    await rm(path);
    expect(await messages(p)).toContainEqual(
      expect.stringMatching(/^The environment map “dusk.hdr” is missing from the data folder/),
    );
  });
  it('names a mesh that is damaged, and a node does not render it without a word', async () => {
    const p = await projectWithScene(f, 'Damaged mesh', { moving: true });
    expect(await messages(p)).toEqual([]);
    await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
    const mesh = (await sceneOf(p)).meshes.find((m) => m.name === 'Sheet')!;
    const path = asset(mesh.blob);
    const sound = await readFile(path);
    const bytes = Buffer.from(sound);
    bytes[5]! ^= 1;
    await writeFile(path, bytes);
    try {
      expect(await messages(p)).toContainEqual(
        expect.stringMatching(/^Front: The mesh “Sheet” of the scene is gone .* or damaged/),
      );
      await renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, new AbortController().signal);
      const [trace] = (await f.ok<Queue>('GET', '/api/queue')).traces.filter((t) => t.projectId === p.id);
      expect(trace).toMatchObject({
        state: 'failed',
        error: expect.stringMatching(/The mesh “.+” is damaged in the data folder/),
      });
    } finally {
      await writeFile(path, sound);
    }
    expect(await messages(p)).toEqual([]);
  });
  it('of a scene document that is gone says so, with what to do', async () => {
    const p = await projectWithScene(f, 'Gone', { relief: true });
    const path = asset(p.revision!.sceneHash);
    const bytes = await readFile(path);
    await rm(path);
    try {
      for (const [method, to, body] of [
        ['POST', 'plan', { cells: [cellOf(p)], profileId: 'sketch' }],
        ['GET', 'board', undefined],
        ['GET', 'scene.glb', undefined],
      ] as const) {
        const { status, data } = await f.call(method, `/api/projects/${p.id}/${to}`, body);
        expect([status, data.code, data.remedy], to).toEqual([
          409,
          'DAMAGED',
          expect.stringMatching(/Import .* again, or restore/),
        ]);
      }
    } finally {
      await writeFile(path, bytes);
    }
  });
});

describe('names that a plan gives', () => {
  it('of a file that lies there already rise in version', async () => {
    const p = await projectWithScene(f, 'Lies there');
    const at = join(f.home, 'output/lies-there/front/base_v001.png');
    await mkdir(dirname(at), { recursive: true });
    await writeFile(at, 'put there by somebody');
    const plan = await planOf(p);
    expect([plan.errors, plan.traces[0]!.cells[0]!.path]).toEqual([[], 'lies-there/front/base_v002']);
  });
  it('of a second project of the same name do not clash with the first one’s', async () => {
    const [first, second] = [await projectWithScene(f, 'Same name'), await projectWithScene(f, 'Same name')];
    for (const [p, version] of [
      [first, 1],
      [second, 2],
    ] as const) {
      await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
      const lease = (await f.node.lease(ENGINE))!;
      expect(lease.traceId).toBeTruthy();
      await f.ok('POST', `/api/traces/${lease.traceId}/cancel`);
      const plan = await planOf(p);
      expect([plan.errors, plan.traces[0]!.cells[0]!.version]).toEqual([[], version + 1]);
    }
  });
  it('that no disk takes are refused before anything is traced', async () => {
    const p = await projectWithScene(f, '茶'.repeat(100));
    await f.ok('PATCH', `/api/projects/${p.id}`, { nameTemplate: '{project}-{project}_{version}' });
    expect(await messages(p)).toEqual([
      expect.stringMatching(/a name of \d+ bytes, and disks take 255\. Give shorter names/),
    ]);
  });
  it('under a template without a version ask for it', async () => {
    const p = await projectWithScene(f, 'No version');
    await f.ok('PATCH', `/api/projects/${p.id}`, { nameTemplate: 'no-version/{camera}' });
    const at = join(f.home, 'output/no-version/front.exr');
    await mkdir(dirname(at), { recursive: true });
    await writeFile(at, 'put there by somebody');
    expect(await messages(p)).toEqual([
      expect.stringMatching(/already there.* Use for example the template no-version\//),
    ]);
  });
});

describe('an order', () => {
  it('that is sent twice, one after the other or at once, makes one batch', async () => {
    const p = await projectWithScene(f, 'Sent twice');
    const other = await projectWithScene(f, 'Another');
    const at = `/api/projects/${p.id}/batches`;
    const body = { cells: [cellOf(p)], profileId: 'sketch', orderId: crypto.randomUUID() };
    const answers = await Promise.all([0, 1, 2].map(() => f.call('POST', at, body)));
    answers.push(await f.call('POST', at, body));
    for (const { status, data } of answers)
      expect([status, data]).toEqual([200, { id: body.orderId, traces: 1, cells: 1 }]);
    const { traces } = await f.ok<Queue>('GET', '/api/queue');
    expect(traces.filter((t) => t.projectId === p.id)).toHaveLength(1);
    const foreign = await f.call('POST', `/api/projects/${other.id}/batches`, { ...body, cells: [cellOf(other)] });
    expect(foreign.data.code).toBe('INVALID');
    for (const t of traces) if (t.projectId === p.id) await f.ok('POST', `/api/traces/${t.id}/cancel`);
  });
});

describe('the plan that was shown', () => {
  it('is the same a second later, also where file names have the time in them', async () => {
    const p = await projectWithScene(f, 'By the clock');
    await f.ok('PATCH', `/api/projects/${p.id}`, { nameTemplate: '{camera}/{variant}_{date}_{time}_{version}' });
    const shown = await planOf(p);
    await new Promise((r) => setTimeout(r, 1100));
    const later = await planOf(p);
    expect(later.traces[0]!.cells[0]!.path).not.toBe(shown.traces[0]!.cells[0]!.path);
    expect(later.hash).toBe(shown.hash);
    const order = { cells: [cellOf(p)], profileId: 'sketch', planHash: shown.hash };
    expect((await f.call('POST', `/api/projects/${p.id}/batches`, order)).status).toBe(200);
  });
  it('is the one that is queued, or none', async () => {
    const p = await projectWithScene(f, 'As shown');
    const body = { cells: [cellOf(p)], profileId: 'sketch' };
    const shown = await planOf(p);
    expect((await planOf(p)).hash).toBe(shown.hash);
    await record(p, 'light:Lamp', 'light.intensity', 3);
    const refused = await f.call('POST', `/api/projects/${p.id}/batches`, { ...body, planHash: shown.hash });
    expect([refused.status, refused.data.code]).toEqual([409, 'PLAN_CHANGED']);
    expect((await f.ok<Queue>('GET', '/api/queue')).traces.filter((t) => t.projectId === p.id)).toEqual([]);
    const now = await planOf(p);
    expect(await f.ok('POST', `/api/projects/${p.id}/batches`, { ...body, planHash: now.hash })).toMatchObject({
      traces: 1,
    });
  });
});

describe('a plan of what would show nothing', () => {
  it('refuses cells in which nothing gives light, and warns of an empty frame', async () => {
    const p = await projectWithScene(f, 'Dark');
    await record(p, 'environment', 'environment.kind', 'none');
    const off = await f.ok('POST', `/api/projects/${p.id}/options`, {
      facet: 'lighting',
      name: 'Off',
      changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 0 }],
    });
    await f.ok('POST', `/api/projects/${p.id}/variants`, { optionIds: [off.id] });
    const now = await f.ok<Project>('GET', `/api/projects/${p.id}`);
    const planned = async () =>
      f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, {
        cells: [cellOf(now, 0), cellOf(now, 1)],
        profileId: 'sketch',
      });
    expect((await planned()).errors.map((e) => e.message)).toEqual([
      expect.stringMatching(/^Front in Off: nothing gives light/),
    ]);
    const camera = now.cameras[0]!;
    const handling = { ...camera.handling, locked: false };
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, { handling });
    const matrix = [...camera.settings.matrix];
    matrix[13] = 500; // far above all of it
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, { settings: { ...camera.settings, matrix } });
    const { warnings } = await planned();
    expect(warnings).toEqual([expect.stringMatching(/^Front in Base: the frame seems empty/)]);
    // accepted, it is known to the project, and an edit that can be undone
    const accepted = await f.ok<Project>('PUT', `/api/projects/${p.id}/accepted-warnings`, { warnings });
    expect(accepted.acceptedWarnings).toEqual(warnings);
    expect((await planned()).warnings).toEqual(warnings);
    await f.ok('POST', `/api/projects/${p.id}/undo`);
    expect((await f.ok<Project>('GET', `/api/projects/${p.id}`)).acceptedWarnings).toEqual([]);
  });
});

describe('a plan says', () => {
  it('how much its files take at most, what is free, and when it would be done after what waits', async () => {
    const p = await projectWithScene(f, 'Space');
    for (const b of (await f.ok<Queue>('GET', '/api/queue')).batches) await f.ok('POST', `/api/batches/${b.id}/cancel`);
    const cells = [cellOf(p)];
    const first = await f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells, profileId: 'sketch' });
    expect(first.freeBytes).toBeGreaterThan(0);
    expect(first.filmBytes).toBe(first.traces[0]!.bytes.film);
    await f.ok('POST', `/api/projects/${p.id}/batches`, { cells, profileId: 'sketch' });
    const lease = (await f.node.lease(ENGINE))!;
    await renderTrace(f.node, lease, f.machine, new AbortController().signal);
    const [render] = await f.ok<Render[]>(
      'GET',
      `/api/projects/${p.id}/cells/${cells[0]!.cameraId}/${cells[0]!.variantId}`,
    );
    const taken = render!.files.reduce((n, x) => n + x.bytes, 0);
    expect(first.mostFileBytes).toBeGreaterThanOrEqual(taken);
    const final = await f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells, profileId: 'final' });
    expect(final.mostFileBytes).toBeGreaterThan(first.mostFileBytes);
    // measured now: what waits is known, and comes before
    expect(final.aheadS).toBe(0);
    await f.ok('POST', `/api/projects/${p.id}/batches`, { cells, profileId: 'final' });
    const after = await f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells, profileId: 'sketch' });
    expect(after.aheadS).toBeCloseTo(final.traces[0]!.expectedS!, 6);
    const [waiting] = (await f.ok<Queue>('GET', '/api/queue')).batches.filter((b) => b.projectId === p.id);
    expect(waiting!.leftS).toBeCloseTo(final.traces[0]!.expectedS!, 6);
    await f.ok('POST', `/api/batches/${waiting!.id}/cancel`);
  });
});
