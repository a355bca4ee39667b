// A scene coming in: how long it takes, what it costs the server in memory, and how long it holds page and server up.
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeTeaStall } from '@variscen/demo';
import { type Running, bytesOf, forget, longest, project, ranMs, withApplication } from './application.ts';
import { bigScene } from './bigScene.ts';
import type { Emit } from './figure.ts';

const SCENES = [
  ['full-demo', () => makeTeaStall('full')],
  ['20k-objects', () => bigScene()],
] as const;

export async function importSuite(emit: Emit): Promise<void> {
  const only = process.env['BENCH_ONLY'];
  for (const [name, make] of SCENES) {
    if (only && only !== name) continue;
    await withApplication(async (r) => importOne(r, name, await make(), emit));
  }
}

async function importOne(r: Running, name: string, bytes: Uint8Array, emit: Emit): Promise<void> {
  const { base, page, serverPid, home } = r;
  const file = join(home, `${name}.glb`);
  const id = await project(base, name);
  await writeFile(file, bytes);
  await page.goto(`${base}/projects/${id}/scene`);
  await page.getByText('Drop a scene here').waitFor();
  const rest = await bytesOf(serverPid);
  const watching = watchServer(base, serverPid);
  await page.waitForTimeout(1000);
  await forget(page);
  const began = performance.now();
  await page.getByLabel('Scene files').setInputFiles(file);
  await page.getByText('What was read of revision 1').waitFor();
  emit({ name: `${name}-seconds`, value: (performance.now() - began) / 1000, unit: 's' });
  const { peakBytes, slowestMs, heldMs } = await watching.stop();
  emit({ name: `${name}-memory`, value: (peakBytes - rest) / bytes.length, unit: 'times the file' });
  emit({ name: `${name}-page-longest`, value: await longest(page), unit: 'ms' });
  emit({ name: `${name}-http-longest`, value: slowestMs, unit: 'ms' });
  emit({ name: `${name}-http-held`, value: heldMs, unit: 'ms' });
}

interface Watched {
  readonly peakBytes: number;
  /** How long the slowest of many small questions took. */
  readonly slowestMs: number;
  /** How long the server's thread was busy at a stretch, at most, however long it then waited for a processor. */
  readonly heldMs: number;
}
function watchServer(base: string, pid: number): { stop(): Promise<Watched> } {
  let on = true;
  let peakBytes = 0;
  let slowestMs = 0;
  let heldMs = 0;
  const ask = async () => {
    while (on) {
      const t = performance.now();
      await (await fetch(`${base}/api/profiles`)).arrayBuffer();
      slowestMs = Math.max(slowestMs, performance.now() - t);
      await pause(5);
    }
  };
  const weigh = async () => {
    while (on) {
      peakBytes = Math.max(peakBytes, await bytesOf(pid));
      await pause(200);
    }
  };
  const time = async () => {
    let stretch = 0;
    let before = await ranMs(pid);
    let at = performance.now();
    while (on) {
      await pause(4);
      const ran = await ranMs(pid);
      const now = performance.now();
      const isBusy = ran - before > 0.8 * (now - at);
      stretch = (isBusy ? stretch : 0) + ran - before;
      heldMs = Math.max(heldMs, stretch);
      before = ran;
      at = now;
    }
  };
  const all = Promise.all([ask(), weigh(), time()]);
  return {
    stop: async () => {
      on = false;
      await all;
      return { peakBytes, slowestMs, heldMs };
    },
  };
}
const pause = (ms: number): Promise<void> => new Promise((go) => setTimeout(go, ms));
