// Heavy work in processes of its own: what comes back of it, and what is left when it is stopped.
import { execFileSync } from 'node:child_process';
import { mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PROFILES } from '@variscen/core/plan';
import { type SceneDocument, cameraForScene } from '@variscen/core/scene';
import { plannedTraces } from '../src/domain/plannedTraces.ts';
import { limitTaskMemory, runTask } from '../src/work/run.ts';
import { setTaskNiceness } from '../src/work/taskProcesses.ts';
import { smallScene } from './fixture.ts';

let folder: string, assets: string;
beforeAll(async () => {
  setTaskNiceness(0); // other tests are at work, for which nobody waits
  folder = await mkdtemp(join(tmpdir(), 'variscen-tasks-'));
  assets = join(folder, 'assets');
  await mkdir(assets);
});
afterAll(async () => {
  await rm(folder, { recursive: true, force: true });
});
const file = async (name: string, bytes: Uint8Array | string) => {
  const at = join(folder, name);
  await writeFile(at, bytes);
  return at;
};
const imported = async (
  name: string,
  bytes: Uint8Array | string,
  signal?: AbortSignal,
  onProgress?: (x: number) => void,
) =>
  runTask(
    { kind: 'import', assets, file: await file(name, bytes), fileName: name, stage: `stage-${name}` },
    onProgress,
    signal,
  );
/** Processes that this one has started and that still run. */
const childPids = async (): Promise<number[]> => {
  const tasks = await readdir('/proc/self/task');
  const lists = await Promise.all(tasks.map((t) => readFile(`/proc/self/task/${t}/children`, 'utf8').catch(() => '')));
  return lists.flatMap((s) => s.split(' ').filter(Boolean).map(Number));
};
const children = async (): Promise<number> => (await childPids()).length;

describe('a task', () => {
  it('gives back what it made, says how far it is, and its process does the next', async () => {
    // those kept for the next task, by other tests in this process, end with a task that fails
    await Promise.allSettled([imported('a.glb', 'no scene'), imported('b.glb', 'no scene')]);
    const before = new Set(await childPids());
    const own = async () => (await childPids()).filter((pid) => !before.has(pid));
    const progress: number[] = [];
    const made = await imported('small.glb', await smallScene(), undefined, (x) => progress.push(x));
    expect(made.report).toMatchObject({ objects: 3, lights: 1 });
    expect(await readdir(assets)).toContain(made.sceneHash.slice(0, 2));
    expect(progress.length).toBeGreaterThan(0);
    expect([...progress].sort((a, b) => a - b)).toEqual(progress);
    expect(progress.every((x) => x >= 0 && x <= 1)).toBe(true);
    const after = await own();
    expect(after).toHaveLength(1);
    const again = await imported('again.glb', await smallScene());
    expect(again.sceneHash).toBe(made.sceneHash);
    expect(await own()).toEqual(after);
    // one whose task failed does nothing more
    await expect(imported('none.glb', 'no scene')).rejects.toMatchObject({ code: 'IMPORT_FAILED' });
    await expect.poll(own).toEqual([]);
  });
  it('that cannot read its file says the file and what is wrong with it', async () => {
    await expect(
      imported('torn.glb', new Uint8Array([0x67, 0x6c, 0x54, 0x46, 2, 0, 0, 0, 0xff, 0xff, 0, 0, 0, 0])),
    ).rejects.toMatchObject({
      code: 'IMPORT_FAILED',
      message: expect.stringMatching(/“torn.glb” is cut short/) as string,
    });
    await expect(
      runTask({ kind: 'lut', assets, file: await file('odd.cube', 'LUT_3D_SIZE 2\n0 0 0\n'), fileName: 'odd.cube' }),
    ).rejects.toMatchObject({ code: 'IMPORT_FAILED', message: expect.stringMatching(/odd.cube/) as string });
  });
  it('of a file that is gone fails as a fault of ours, not of the file', async () => {
    await expect(
      runTask({ kind: 'lut', assets, file: join(folder, 'nothing.cube'), fileName: 'nothing.cube' }),
    ).rejects.not.toMatchObject({ code: 'IMPORT_FAILED' });
  });
  it('that is cancelled before it starts, or while it runs, is gone, and nothing of it is kept', async () => {
    const before = await children();
    const had = await readdir(assets);
    const early = new AbortController();
    const late = new AbortController();
    early.abort();
    await expect(imported('early.glb', await smallScene(), early.signal)).rejects.toMatchObject({
      code: 'WRONG_STATE',
    });
    const running = imported('late.glb', await smallScene({ relief: true }), late.signal, () => late.abort());
    await expect(running).rejects.toMatchObject({ code: 'WRONG_STATE' });
    await expect.poll(children).toBeLessThanOrEqual(before);
    expect((await readdir(assets)).filter((n) => n !== '.incoming')).toEqual(had.filter((n) => n !== '.incoming'));
  });
  it('goes beside others, each with its own answer', async () => {
    const sizes = [2, 3, 4];
    const cube = (n: number) =>
      `LUT_3D_SIZE ${n}\n${Array.from({ length: n ** 3 }, (_, i) => `${(i % n) / (n - 1)} ${(Math.floor(i / n) % n) / (n - 1)} ${Math.floor(i / n / n) / (n - 1)}`).join('\n')}\n`;
    const made = await Promise.all(
      sizes.map(async (n) =>
        runTask({ kind: 'lut', assets, file: await file(`${n}.cube`, cube(n)), fileName: `${n}.cube` }),
      ),
    );
    expect(made.map((m) => m.size)).toEqual(sizes);
    expect(new Set(made.map((m) => m.hash)).size).toBe(3);
  });
});

it('a task is told nothing of passwords and tokens', async () => {
  const named = { VARISCEN_DATABASE_URL: 'postgres://secret', VARISCEN_NODE_TOKEN: 'secret' };
  Object.assign(process.env, named);
  limitTaskMemory(2 ** 29); // so that no process that was kept does it
  try {
    const before = new Set(await childPids());
    const asked = imported('told.glb', await smallScene());
    let told = '';
    for (let i = 0; i < 400 && !told.includes('PATH='); i++) {
      const [pid] = (await childPids()).filter((c) => !before.has(c));
      if (pid) told = await readFile(`/proc/${pid}/environ`, 'utf8').catch(() => '');
      await new Promise((r) => setTimeout(r, 2));
    }
    await asked;
    expect(told).toContain('PATH=');
    expect(told).not.toContain('secret');
  } finally {
    limitTaskMemory(2 ** 30);
    for (const name of Object.keys(named)) delete process.env[name];
  }
});

it('a task that takes more memory than it may is ended, in words, and the next is done', async () => {
  limitTaskMemory(30 * 2 ** 20); // less than a process takes with nothing to do
  try {
    const endless = join(folder, 'endless.cube');
    execFileSync('mkfifo', [endless]); // its reader waits for a writer that never comes
    await expect(runTask({ kind: 'lut', assets, file: endless, fileName: 'endless.cube' })).rejects.toMatchObject({
      code: 'TASK_ENDED',
      message: 'It was ended: it takes more than 30 MB of memory.',
    });
  } finally {
    limitTaskMemory(2 ** 30);
  }
  expect((await imported('next.glb', await smallScene())).report.objects).toBe(3);
});

describe('many traces of a plan', () => {
  it('are worked out in two processes as in one, each in its place', async () => {
    const { sceneHash } = await imported('plan.glb', await smallScene());
    const path = join(assets, sceneHash.slice(0, 2), sceneHash);
    const document = JSON.parse(await readFile(path, 'utf8')) as SceneDocument;
    const camera = { ...cameraForScene(document), widthPx: 320, heightPx: 180 };
    const objects = document.nodes.filter((n) => n.parts).map((n) => n.path);
    // looks that differ in what they show, and so in memory; cameras that differ in size
    const looks = Array.from({ length: 7 }, (_, look) =>
      objects.flatMap((o, k) =>
        (look >> k) & 1 ? [{ target: `object:${o}`, property: 'object.shown', value: false }] : [],
      ),
    );
    const traces = Array.from({ length: 320 }, (_, i) => ({
      profile: PROFILES[0]!,
      camera,
      changes: looks[(i * 5) % 7]!,
      widthPx: 100 + i,
      heightPx: 80,
    }));
    const about = {
      kind: 'plan',
      assets,
      sceneHash,
      threads: 2,
      budgetBytes: 1e9,
      processRestBytes: 0,
      notSound: [],
    } as const;
    const planned = await plannedTraces({ ...about, traces });
    expect(planned).toEqual(await runTask({ ...about, traces }));
    expect(new Set(planned.map((t) => t.totalBytes)).size).toBeGreaterThan(100);
    await expect(plannedTraces({ ...about, sceneHash: '0'.repeat(64), traces })).rejects.toThrow();
  });
});
