// The whole of Variscen as ./start runs it, with its processes killed at random moments: what comes out is what comes
// out of an undisturbed run, once.
import { type ChildProcess, spawn } from 'node:child_process';
import { randomInt } from 'node:crypto';
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Project, Queue, Render } from '@variscen/contract';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { exrData } from './exrData.ts';
import { cellOf, smallScene } from './fixture.ts';

const SLICE_S = '0.2';

let home: string;
let base = '';
let supervisor: ChildProcess;
let p: Project;

async function start(): Promise<void> {
  const env = {
    ...process.env,
    VARISCEN_HOME: home,
    VARISCEN_LOOK_S: '0.1',
    VARISCEN_SLICE_S: SLICE_S,
    VARISCEN_RESERVE_MB: '1',
    VARISCEN_SILENT_S: '3',
    VARISCEN_NICENESS: '1', // other tests are at work, for which nobody waits
  };
  const entry = join(import.meta.dirname, '../dist/main/supervisor.js');
  supervisor = spawn(process.execPath, [entry, '--port', '0', '--no-demo'], {
    env,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  base = await new Promise<string>((resolve, reject) => {
    let said = '';
    supervisor.stdout!.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const ready = /ready at (http:\S+)/.exec(said);
      if (ready) resolve(ready[1]!);
    });
    supervisor.once('exit', (code) => reject(new Error(`It ended with ${code}: ${said}`)));
  });
}
async function ok<T>(method: string, path: string, body?: unknown): Promise<T> {
  const isBytes = body instanceof Uint8Array;
  const r = await fetch(base + path, {
    method,
    headers: { 'content-type': isBytes ? 'application/octet-stream' : 'application/json' },
    ...(body !== undefined && { body: isBytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body) }),
  });
  if (!r.ok) throw new Error(`${method} ${path}: ${r.status} ${await r.text()}`);
  return (await r.json()) as T;
}
/** Also while the server is away. */
const queue = () => ok<Queue>('GET', '/api/queue').catch(() => null);
async function until<T>(what: () => Promise<T | null | undefined | false>, seconds = 90): Promise<T> {
  for (const end = Date.now() + seconds * 1000; Date.now() < end; await sleep(50)) {
    const seen = await what();
    if (seen) return seen;
  }
  throw new Error(`It did not come to that. ${JSON.stringify(await queue())}`);
}

/** Processes below one, by what they are. */
async function processes(): Promise<{ pid: number; what: 'node' | 'server' | 'database' | 'other' }[]> {
  const parents = new Map<number, number>();
  const lines = new Map<number, string>();
  for (const name of await readdir('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    const stat = await readFile(`/proc/${name}/stat`, 'utf8').catch(() => '');
    if (!stat) continue;
    parents.set(Number(name), Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[1]));
    lines.set(Number(name), (await readFile(`/proc/${name}/cmdline`, 'utf8').catch(() => '')).replaceAll('\0', ' '));
  }
  const isBelow = (pid: number): boolean => {
    const parent = parents.get(pid);
    return parent !== undefined && parent > 1 && (parent === supervisor.pid || isBelow(parent));
  };
  const kindOf = (line: string) => {
    if (line.includes('main/node.js')) return 'node';
    if (line.includes('main/server.js')) return 'server';
    return /postgres.* -D /.test(line) ? 'database' : 'other';
  };
  return [...parents.keys()].filter(isBelow).map((pid) => ({ pid, what: kindOf(lines.get(pid)!) }));
}
function killNow(pid: number): void {
  try {
    process.kill(pid, 'SIGKILL');
  } catch {
    // it was ending by itself
  }
}
/** As a power cut: nobody can say anything to anybody. */
async function killAll(): Promise<void> {
  const all = await processes();
  const ended = supervisor.exitCode === null && new Promise((done) => supervisor.once('exit', done));
  supervisor.kill('SIGKILL');
  for (const { pid } of all) killNow(pid);
  await ended;
}

const submit = () => ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
const history = () => ok<Render[]>('GET', `/api/projects/${p.id}/cells/${cellOf(p).cameraId}/${cellOf(p).variantId}`);
async function picture(render: Render) {
  const file = (kind: string) => readFile(join(home, 'output', render.files.find((x) => x.kind === kind)!.path));
  const shown = await sharp(await file('png'))
    .raw()
    .toBuffer();
  return { shown, pixels: exrData(await file('exr')) };
}
/** Of what is gone when nothing is rendered; the node's cache of meshes stays. */
const left = async (folder: string): Promise<string[]> =>
  (await readdir(join(home, folder)).catch(() => [])).filter((name) => name !== 'parts');
const doneSlices = (q: Queue | null) => q?.traces[0]?.slices.filter((s) => s.state === 'done').length ?? 0;

beforeAll(async () => {
  home = await mkdtemp(join(tmpdir(), 'variscen-faults-'));
  await start();
  const { id } = await ok<Project>('POST', '/api/projects', { name: 'Faults' });
  await ok('POST', `/api/projects/${id}/scene?fileName=small.glb`, await smallScene({ bulb: true }));
  p = await ok<Project>('GET', `/api/projects/${id}`);
  const camera = p.cameras[0]!;
  await ok('PATCH', `/api/projects/${id}/cameras/${camera.id}`, {
    settings: { ...camera.settings, widthPx: 720, heightPx: 960 },
  });
}, 120_000);
afterAll(async () => {
  await killAll();
  await rm(home, { recursive: true, force: true });
});

describe('processes that are killed at random moments', () => {
  it('lose at most the slice that is rendered: the files are the same, once, and nothing else is left', async () => {
    await submit();
    await until(async () => (await queue())?.traces[0]?.state === 'done');
    const whole = await picture((await history())[0]!);

    let traces = 1;
    let done = 0;
    const hasEnded = async () => (await queue())?.traces[0]?.state === 'done';
    for (const victim of ['node', 'server', 'database', 'all'] as const) {
      // a fast machine may have done it before the next is killed
      if (await hasEnded()) {
        await submit();
        traces++;
        done = 0;
      }
      // after a slice or two more, at a moment that nobody chose
      await until(async () => doneSlices(await queue()) > done || (await hasEnded()));
      const waitMs = randomInt(0, 800);
      process.stdout.write(`${victim} is killed ${waitMs} ms after slice ${done + 1}\n`);
      await sleep(waitMs);
      const before = doneSlices(await queue());
      if (victim === 'all') {
        await killAll();
        await start();
      } else for (const { pid, what } of await processes()) if (what === victim) killNow(pid);
      const after = await until(async () => {
        const q = await queue();
        return (q?.traces[0]?.state === 'rendering' || q?.traces[0]?.state === 'done') && q;
      });
      const isDone = after.traces[0]!.state === 'done';
      done = doneSlices(after);
      if (!isDone) expect(done).toBeGreaterThanOrEqual(before);
    }
    const end = await until(async () => {
      const q = await queue();
      return q?.traces.every((t) => t.state === 'done') && q;
    });
    expect(traces).toBeGreaterThan(1);
    expect(end.traces).toHaveLength(traces);
    const renders = await history();
    expect(renders.map((r) => r.version)).toEqual(Array.from({ length: traces }, (_, i) => traces - i));
    for (const render of renders.slice(0, -1)) {
      const disturbed = await picture(render);
      expect(disturbed.shown.equals(whole.shown)).toBe(true);
      expect(disturbed.pixels.equals(whole.pixels)).toBe(true);
    }
    for (const folder of ['films', 'node', 'output/.unfinished'])
      await until(async () => (await left(folder)).length === 0);
  }, 300_000);

  it('a node that hangs is ended, and another goes on with what is done', async () => {
    await submit();
    await until(async () => doneSlices(await queue()) >= 2);
    const [hung] = (await processes()).filter((x) => x.what === 'node');
    process.kill(hung!.pid, 'SIGSTOP');
    const other = await until(async () => (await processes()).find((x) => x.what === 'node' && x.pid !== hung!.pid));
    expect(other.pid).not.toBe(hung!.pid);
    const end = await until(async () => {
      const q = await queue();
      return q?.traces.every((t) => t.state === 'done') && q;
    });
    expect(end.traces[0]).toMatchObject({ attempts: 2 });
    const [latest, before] = await history();
    expect((await picture(latest!)).pixels.equals((await picture(before!)).pixels)).toBe(true);
  }, 120_000);
});

/** Longer than a lease, and than a node may be silent here; two minutes by hand came to the same. */
const ASLEEP_MS = 25_000;

describe('a machine that sleeps', () => {
  it('goes on where it was when it wakes: no attempt is lost, and nothing is taken for hung', async () => {
    await submit();
    await until(async () => doneSlices(await queue()) >= 1);
    const all = [supervisor.pid!, ...(await processes()).map((x) => x.pid)];
    const nodes = async () => (await processes()).filter((x) => x.what === 'node').map((x) => x.pid);
    const before = await nodes();
    for (const pid of all) process.kill(pid, 'SIGSTOP');
    await sleep(ASLEEP_MS);
    for (const pid of all.reverse()) process.kill(pid, 'SIGCONT');
    const end = await until(async () => {
      const q = await queue();
      return q?.traces.every((t) => t.state === 'done') && q;
    });
    expect(end.traces[0]).toMatchObject({ attempts: 1 });
    expect(await nodes()).toEqual(before);
    const [latest, other] = await history();
    expect((await picture(latest!)).pixels.equals((await picture(other!)).pixels)).toBe(true);
  }, 180_000);
});
