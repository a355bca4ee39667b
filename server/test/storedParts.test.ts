// Meshes and textures that a node loads part by part: the same picture, whatever is kept, however little memory there
// is.
import { open, readFile, readdir, rm, truncate, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Plan, Project, Queue, Render } from '@variscen/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Machine } from '../src/node/machine.ts';
import { renderTrace } from '../src/node/renderTrace.ts';
import { StoredParts } from '../src/files/storedParts.ts';
import { exrData } from './exrData.ts';
import { type Fixture, ENGINE, cellOf, helloOf, projectWithScene, startFixture } from './fixture.ts';

const never = new AbortController().signal;
let f: Fixture;
let meshes: string;
/** The picture with everything in memory. */
let whole: Buffer;
beforeAll(async () => {
  f = await startFixture();
  meshes = join(f.home, 'node/parts');
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(() => f?.close());

const hilly = (name: string) => projectWithScene(f, name, { hills: true });
async function render(p: Project, machine: Machine = f.machine): Promise<Render | undefined> {
  await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
  return renderNext(p, machine);
}
async function renderNext(p: Project, machine: Machine): Promise<Render | undefined> {
  await renderTrace(f.node, (await f.node.lease(ENGINE))!, machine, never);
  const { cameraId, variantId } = cellOf(p);
  return (await f.ok<Render[]>('GET', `/api/projects/${p.id}/cells/${cameraId}/${variantId}`))[0];
}
async function pixels(render: Render | undefined): Promise<Buffer> {
  return exrData(await readFile(join(f.home, 'output', render!.files.find((x) => x.kind === 'exr')!.path)));
}
const trace = async (p: Project) => (await f.ok<Queue>('GET', '/api/queue')).traces.find((t) => t.projectId === p.id)!;
const planOf = (p: Project) =>
  f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells: [cellOf(p)], profileId: 'sketch' });

describe('a large mesh', () => {
  it('is kept on the machine, once, and loaded from there', async () => {
    // a node that can keep nothing has all of it in memory
    const file = join(f.home, 'a file');
    await writeFile(file, 'where the folder should be');
    const said: string[] = [];
    const storedParts = new StoredParts(file, ENGINE, 2 ** 30, (m) => said.push(m));
    const plain = await render(await hilly('Nothing kept'), { ...f.machine, storedParts });
    whole = await pixels(plain);
    expect(said[0]).toContain('Meshes and textures cannot be kept in');
    expect(await readdir(meshes)).toEqual([]);

    const first = await render(await hilly('First'));
    expect((await pixels(first)).equals(whole)).toBe(true);
    const kept = await readdir(meshes);
    expect(kept).toHaveLength(1); // the other meshes are small
    await render(await hilly('Second'));
    expect(await readdir(meshes)).toEqual(kept);
    const bytes = (r: Render | undefined) => r!.plannedBytes.acceleration + r!.plannedBytes.vertices;
    expect(bytes(first)).toBeLessThan(bytes(plain) * 1.03);
    expect(plain!.meshes).toBeNull();
    const { pieces, met, metBytes, mostBytes, loads, drops } = first!.meshes!;
    expect(pieces).toBeGreaterThan(30);
    expect([loads, drops, mostBytes]).toEqual([met, 0, metBytes]);
  });

  it('is made again where what is kept of it is damaged', async () => {
    const [name] = await readdir(meshes);
    const path = join(meshes, name!);
    await truncate(path, 100); // its head
    expect((await pixels(await render(await hilly('No head')))).equals(whole)).toBe(true);

    await truncate(path, 200_000); // what it is loaded from
    const p = await hilly('Cut short');
    await render(p);
    expect(await trace(p)).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/“Wall”.*cut short.*Try again/),
    });
    await f.ok('POST', `/api/traces/${(await trace(p)).id}/retry`);
    expect((await pixels(await renderNext(p, f.machine))).equals(whole)).toBe(true);

    const changed = await open(path, 'r+'); // another file in its place
    await changed.write(new Uint8Array(4), 0, 4, 0);
    await changed.close();
    expect((await pixels(await render(await hilly('Another file')))).equals(whole)).toBe(true);
  });

  it('of a node that ended in the middle, or that was not used for longest, is dropped', async () => {
    const [name] = await readdir(meshes);
    await writeFile(join(meshes, 'half.new'), 'half');
    await writeFile(join(meshes, 'older'), new Uint8Array(1000));
    await utimes(join(meshes, 'older'), 1, 1);
    const kept = new StoredParts(join(f.home, 'node'), ENGINE, 5e6, () => undefined);
    await kept.open();
    expect((await readdir(meshes)).sort()).toEqual([name, 'older'].sort());
    const small = new StoredParts(join(f.home, 'node'), ENGINE, 100, () => undefined);
    await new StoredParts(join(f.home, 'node'), ENGINE, 2 ** 30, () => undefined).trim();
    expect(await readdir(meshes)).toHaveLength(2);
    await small.trim();
    expect(await readdir(meshes)).toEqual([]);
  });

  it('that does not fit in the budget is loaded in turns, and the plan says so before', async () => {
    const p = await hilly('In turns');
    const free = await planOf(p);
    expect(free.warnings.filter((w) => /in turns/.test(w))).toEqual([]);
    const [{ totalBytes, processBytes }] = free.traces as [Plan['traces'][number]];
    const needs = totalBytes + (processBytes ?? 0);
    await f.node.hello({ ...helloOf(2, 100e6), budgetBytes: needs - 1_000_000 });
    const plan = await planOf(p);
    expect(plan.errors).toEqual([]);
    expect([free.traces[0]!.expectedS, plan.traces[0]!.expectedS]).toEqual([expect.any(Number), null]);
    expect(plan.warnings).toEqual([expect.stringMatching(/Front: not all of its meshes and textures fit .* in turns/)]);
    expect(plan.traces[0]!.totalBytes + (plan.traces[0]!.processBytes ?? 0)).toBeLessThanOrEqual(needs - 1_000_000);

    // measured, it tells how much longer it takes: here rays reach nearly all of it
    await f.ok('POST', `/api/projects/${p.id}/cull/evidence`, cellOf(p));
    const [measured] = (await planOf(p)).traces as [Plan['traces'][number]];
    expect(measured.slower).toBeGreaterThan(1);
    expect(measured.expectedS).toBeGreaterThan(free.traces[0]!.expectedS!);
    expect((await planOf(p)).warnings).toEqual([expect.stringMatching(/in turns: .* about \S+ times as long/)]);
    await f.node.hello({ ...helloOf(2, 100e6), budgetBytes: needs - 4_000_000 });
    expect((await planOf(p)).errors[0]!.message).toMatch(/the budget is .* Largest are/);
    await f.node.hello(helloOf(2, 100e6));

    // so little that what is met does not fit: the same picture
    await rm(meshes, { recursive: true, force: true });
    await f.machine.storedParts.open();
    const known = (await pixels(await render(await hilly('Known again')))).equals(whole);
    expect(known).toBe(true);
    const met = await render(p);
    const taken = Object.values(met!.plannedBytes).reduce((a, b) => a + b, 0);
    const tight = await render(await hilly('Tight'), { ...f.machine, budgetBytes: taken - 100_000 });
    expect((await pixels(tight)).equals(whole)).toBe(true);
    expect(tight!.meshes!.drops).toBeGreaterThan(0);
    expect(Object.values(tight!.plannedBytes).reduce((a, b) => a + b, 0)).toBeLessThanOrEqual(taken - 100_000);
  });
});

describe('a large texture', () => {
  const painted = (name: string) => projectWithScene(f, name, { painted: true });
  let plain: Buffer;
  it('is kept on the machine with its levels, once, and only those are loaded that are looked at', async () => {
    await rm(meshes, { recursive: true, force: true });
    const none = await render(await painted('No texture kept'));
    expect(none!.meshes).toBeNull();
    plain = await pixels(none);
    await f.machine.storedParts.open();
    const first = await render(await painted('Painted'));
    expect((await pixels(first)).equals(plain)).toBe(true);
    const kept = await readdir(meshes);
    expect(kept).toEqual([expect.stringContaining('srgb')]);
    await render(await painted('Painted again'));
    expect(await readdir(meshes)).toEqual(kept);
    const { textures } = first!.meshes!;
    expect(textures).toMatchObject({ levels: 6, met: 5 });
    expect(textures!.metBytes).toBeLessThan(textures!.bytes / 3);
    expect(first!.plannedBytes.textures).toBeLessThan(none!.plannedBytes.textures / 3);
  });

  it('is made again where what is kept of it is damaged', async () => {
    const [name] = await readdir(meshes);
    const path = join(meshes, name!);
    await truncate(path, 1_000_000);
    expect((await pixels(await render(await painted('Cut texture')))).equals(plain)).toBe(true);
    await writeFile(path, new Uint8Array(5_600_000)); // another file in its place
    expect((await pixels(await render(await painted('Other texture')))).equals(plain)).toBe(true);
  });

  it('that does not fit in the budget is loaded in turns, and the plan says so before', async () => {
    const p = await painted('Large texture');
    const { id, settings } = p.cameras[0]!;
    const size = { widthPx: 48, heightPx: 27 };
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${id}`, { settings: { ...settings, ...size } });
    const planned = async (budgetBytes: number) => {
      await f.node.hello({ ...helloOf(2, 100e6), budgetBytes });
      return planOf(p);
    };
    const { totalBytes, processBytes } = (await planned(2 ** 31)).traces[0]!;
    const needs = totalBytes + (processBytes ?? 0);
    const plan = await planned(needs - 3e6);
    expect(plan.errors).toEqual([]);
    expect(plan.warnings).toEqual([expect.stringMatching(/Front: not all of its meshes and textures fit/)]);
    expect(plan.traces[0]).toMatchObject({ slower: null, expectedS: null });

    // measured, there is room for what rays look up of it, and nothing is loaded in turns
    await f.ok('POST', `/api/projects/${p.id}/cull/evidence`, cellOf(p));
    const known = await planned(needs - 3e6);
    expect(known.warnings).toEqual([]);
    expect(known.traces[0]).toMatchObject({ slower: 1, expectedS: expect.any(Number) as number });
    expect((await planned(needs - 6e6)).errors[0]!.message).toMatch(/the budget is .* Largest are/);
    await f.node.hello(helloOf(2, 100e6));
  });
});
