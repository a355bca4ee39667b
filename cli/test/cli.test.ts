// The command line against a real server: what it prints, what it writes, how it ends.
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { BatchSummary, Plan, Project } from '@variscen/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../../server/src/node/renderTrace.ts';
import { ENGINE, type Fixture, helloOf, smallScene, startFixture } from '../../server/test/fixture.ts';
import { runCommand } from '../src/program.ts';

interface SplitSaid {
  readonly bytes: number;
  readonly objects: number;
  readonly ofObjects: number;
  readonly wholeFileBytes: number;
}
const never = new AbortController().signal;
let f: Fixture;
let folder: string;
let stall: string;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
  folder = await mkdtemp(join(tmpdir(), 'variscen-cli-'));
  stall = join(folder, 'Tea stall.glb');
  await writeFile(stall, await smallScene());
});
afterAll(async () => {
  await f?.close();
  await rm(folder, { recursive: true, force: true });
});

/** As it is typed; --json answers are read. */
async function variscen(...args: string[]) {
  let out = '';
  let err = '';
  const exit = await runCommand(['--server', f.base, ...args], {
    out: (text) => (out += text),
    err: (text) => (err += text),
    isTerminal: false,
  });
  return { exit, out, err };
}
async function json<T>(...args: string[]): Promise<T> {
  const { exit, out, err } = await variscen('--json', ...args);
  expect([exit, err], out).toEqual([0, '']);
  return JSON.parse(out) as T;
}
const renderAll = async () => {
  for (let lease = await f.node.lease(ENGINE); lease; lease = await f.node.lease(ENGINE))
    await renderTrace(f.node, lease, f.machine, never);
};

describe('the command line', () => {
  it('brings a scene in as a project, and lists projects and cells', async () => {
    const imported = await variscen('import', stall);
    expect(imported).toMatchObject({ exit: 0, out: expect.stringContaining('“Tea stall” has its scene: 3 objects') });
    const again = await variscen('import', stall, '--project', 'tea stall');
    expect(again.out).toContain('Revision 2 of “Tea stall” waits to be accepted');
    expect((await variscen('projects')).out).toMatch(/^project +cameras.*\nTea stall +1 +1 +0 +scene/);
    const cells = await variscen('cells', 'Tea stall');
    expect(cells.out).toMatch(/Front +Base +never/);
    expect(cells.out).toContain('1 cell');
  });

  it('plans, queues, waits and says what came of it', async () => {
    const plan = await json<Plan>('plan', 'Tea stall');
    expect(plan.traces).toHaveLength(1);
    expect((await variscen('plan', 'Tea stall')).out).toContain('1 cell from 1 trace');
    const waiting = json<BatchSummary>('render', 'Tea stall', '--wait');
    await renderAllUntil(waiting);
    expect(await waiting).toMatchObject({ cells: { done: 1, failed: 0 }, endedAt: expect.any(String) });
    expect((await variscen('cells', 'Tea stall', '-p', 'Sketch')).out).toMatch(/Front +Base +current +v001 +Sketch/);
    // nothing is to be rendered any more
    expect(await variscen('render', 'Tea stall')).toMatchObject({ exit: 2, err: expect.stringContaining('No cell') });
    const queued = await json<{ id: string }>('render', 'Tea stall', '--status', 'all', '--camera', 'front');
    await f.ok('POST', `/api/batches/${queued.id}/cancel`);
    expect(await variscen('watch', queued.id)).toMatchObject({
      exit: 1,
      out: expect.stringContaining('1 was cancelled'),
    });
  });
  async function renderAllUntil(done: Promise<unknown>) {
    let isOver = false;
    void done.finally(() => (isOver = true)).catch(() => undefined);
    while (!isOver) {
      await renderAll();
      await new Promise((r) => setTimeout(r, 50));
    }
  }

  it('queues nothing from a plan with faults, and says them', async () => {
    const [p] = await f.ok<Project[]>('GET', '/api/projects');
    await f.ok('PATCH', `/api/projects/${p!.id}`, { nameTemplate: 'always-the-same' });
    await f.ok('POST', `/api/projects/${p!.id}/cameras`, {
      name: 'Second',
      settings: (await f.ok<Project>('GET', `/api/projects/${p!.id}`)).cameras[0]!.settings,
    });
    const refused = await variscen('render', 'Tea stall', '--status', 'all');
    expect(refused).toMatchObject({ exit: 4, err: expect.stringContaining('The token {camera} is missing') });
    expect((await f.ok<{ traces: unknown[] }>('GET', '/api/queue')).traces).toHaveLength(2);
    const planned = await variscen('--json', 'plan', 'Tea stall', '--status', 'all');
    expect(planned.exit).toBe(4);
    expect((JSON.parse(planned.out) as Plan).errors.length).toBeGreaterThan(0);
  });

  it('writes the scene to a new file, and over none', async () => {
    const file = join(folder, 'out.glb');
    expect((await variscen('export', 'Tea stall', file)).exit).toBe(0);
    expect((await readFile(file)).subarray(0, 4).toString()).toBe('glTF');
    await writeFile(file, 'mine');
    expect(await variscen('export', 'Tea stall', file)).toMatchObject({
      exit: 2,
      err: expect.stringContaining('nothing is overwritten'),
    });
    expect(await readFile(file, 'utf8')).toBe('mine');
    expect((await readdir(folder)).sort()).toEqual(['Tea stall.glb', 'out.glb']);
  });

  it('writes what one camera needs, with its size beside the scene’s own file', async () => {
    const file = join(folder, 'split.glb');
    const [project] = await f.ok<{ id: string }[]>('GET', '/api/projects');
    const { cameras, variants } = await f.ok<Project>('GET', `/api/projects/${project!.id}`);
    const which = ['--camera', cameras[0]!.name, '--variant', variants[0]!.name];
    const said = await json<SplitSaid>('split', 'Tea stall', file, ...which);
    expect((await readFile(file)).subarray(0, 4).toString()).toBe('glTF');
    expect(said.bytes).toBe((await readFile(file)).length);
    expect(said.objects).toBe(said.ofObjects); // nothing was measured and nothing is left out
    expect(said.wholeFileBytes).toBeGreaterThan(0);
    expect(await variscen('split', 'Tea stall', file, ...which)).toMatchObject({
      exit: 2,
      err: expect.stringContaining('nothing is overwritten'),
    });
    expect((await variscen('split', 'Tea stall', file, '--camera', 'Nowhere', '--variant', 'Base')).exit).toBe(2);
    expect((await variscen('split', 'Tea stall', file)).exit).toBe(2);
    await rm(file);
  });

  it('ends as programs can tell, with a clear word', async () => {
    expect(await variscen('plan', 'Nowhere')).toMatchObject({
      exit: 2,
      err: 'There is no project called “Nowhere”. There are “Tea stall”.\n',
    });
    expect((await variscen('cells', 'Tea stall', '--status', 'lost')).exit).toBe(2);
    expect((await variscen('brew')).exit).toBe(2);
    expect((await variscen('--help')).exit).toBe(0);
    expect(await variscen('import', join(folder, 'none.glb'))).toMatchObject({ exit: 2 });
    const notScene = join(folder, 'notes.glb');
    await writeFile(notScene, 'no scene at all');
    expect(await variscen('import', notScene)).toMatchObject({ exit: 1, err: expect.stringContaining('notes.glb') });
    await rm(notScene);
    expect(await f.ok('GET', '/api/projects')).toHaveLength(1); // none is left behind for it
    const away = await variscen('--server', 'http://127.0.0.1:1', 'projects');
    expect(away).toMatchObject({ exit: 3, err: expect.stringContaining('does not answer') });
    const said = await variscen('--json', 'plan', 'Nowhere');
    expect(JSON.parse(said.out)).toMatchObject({ error: { code: 'USAGE' } });
  });

  it('renders of a sequence the frames that are wanting, or those that are named', async () => {
    const moving = join(folder, 'Walk.glb');
    await writeFile(moving, await smallScene({ moving: true }));
    await variscen('import', moving);
    const all = await f.ok<{ id: string; name: string }[]>('GET', '/api/projects');
    const p = await f.ok<Project>('GET', `/api/projects/${all.find((x) => x.name === 'Walk')!.id}`);
    const [camera] = p.cameras;
    const frames = [{ first: 0, last: 8, step: 4 }];
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera!.id}`, { handling: { ...camera!.handling, frames } });
    expect((await variscen('plan', 'Walk')).out).toContain('3 pictures from 3 traces');
    await json('render', 'Walk', '--frames', '4-20');
    await renderAll();
    expect((await variscen('cells', 'Walk', '-p', 'Sketch')).out).toMatch(/Front +Base +outdated +2\/3/);
    const { traces } = await json<Plan>('plan', 'Walk');
    expect(traces.map((t) => t.cells[0]!.frame)).toEqual([0]);
    expect(await variscen('plan', 'Walk', '--frames', '9-1')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('ends before it begins'),
    });
  });

  it('shows the token where people need one', async () => {
    const open = await startFixture({ userToken: 'a-token-of-people' });
    try {
      const at = (...more: string[]) => variscen('--server', open.base, ...more, 'projects');
      expect(await at()).toMatchObject({ exit: 1, err: expect.stringContaining('with a token') });
      const file = join(folder, 'token');
      await writeFile(file, 'a-token-of-people\n');
      expect((await at('--token-file', file)).exit).toBe(0);
      await rm(file);
    } finally {
      await open.close();
    }
  });
});
