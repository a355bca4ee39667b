// The application as the benches of the interface run it: with a data folder of its own, looked at in headless
// Chromium, which draws in software: a machine with a GPU draws the view many times faster.
import { type ChildProcess, execFileSync } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Browser, type Page, chromium } from 'playwright-core';
import { ready, stop } from './start.ts';

const ARGS = [
  '--no-sandbox',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
  '--disable-quic',
  '--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost',
];

export interface Running {
  readonly base: string;
  readonly page: Page;
  readonly serverPid: number;
  readonly home: string;
}
/** What the page itself measures, from before its first script. */
export interface Seen {
  /** Milliseconds of the longest task that held the main thread for more than 50 ms. */
  longest: number;
  /** Marks and measures, as they come. */
  entries: { readonly name: string; readonly startTime: number; readonly duration: number }[];
}

export async function withApplication(work: (r: Running) => Promise<void>): Promise<void> {
  const home = await mkdtemp(join(tmpdir(), 'variscen-bench-'));
  let child: ChildProcess | undefined;
  let browser: Browser | undefined;
  try {
    const started = await ready(home, {}, '--no-demo');
    child = started.child;
    browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ARGS });
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(120_000);
    await page.addInitScript(watchPage);
    await work({ base: started.base, page, serverPid: serverOf(home), home });
  } finally {
    await browser?.close();
    if (child) await stop(child);
    await rm(home, { recursive: true, force: true });
  }
}

function watchPage(): void {
  const seen: Seen = { longest: 0, entries: [] };
  Object.assign(window, { seen });
  new PerformanceObserver((l) => {
    for (const e of l.getEntries()) seen.longest = Math.max(seen.longest, e.duration);
  }).observe({ type: 'longtask', buffered: true });
  new PerformanceObserver((l) => {
    for (const { name, startTime, duration } of l.getEntries()) seen.entries.push({ name, startTime, duration });
  }).observe({ entryTypes: ['mark', 'measure'] });
}
export const longest = (page: Page): Promise<number> =>
  page.evaluate(() => (window as unknown as { seen: Seen }).seen.longest);
/** What the page has drawn or measured under a name since it was last forgotten: milliseconds each. */
export const seenOf = (page: Page, name: string): Promise<number[]> =>
  page.evaluate(
    (n) => (window as unknown as { seen: Seen }).seen.entries.filter((e) => e.name === n).map((e) => e.duration),
    name,
  );
export const forget = (page: Page): Promise<void> =>
  page.evaluate(() => {
    const { seen } = window as unknown as { seen: Seen };
    seen.longest = 0;
    seen.entries.length = 0;
  });

/** The HTTP server among the processes of a data folder. */
function serverOf(home: string): number {
  const line = execFileSync('ps', ['-eo', 'pid=,args=', 'e'], { encoding: 'utf8', maxBuffer: 64e6 })
    .split('\n')
    .find((l) => l.includes(home) && /main\/server\.js/.test(l));
  if (!line) throw new Error('The server is not among the processes.');
  return Number.parseInt(line.trim(), 10);
}
/** Bytes in memory of the server and the processes of its tasks. */
export async function bytesOf(pid: number): Promise<number> {
  const children = (await readFile(`/proc/${pid}/task/${pid}/children`, 'utf8').catch(() => ''))
    .split(' ')
    .map(Number)
    .filter((n) => n > 0);
  let sum = 0;
  for (const p of [pid, ...children])
    sum +=
      Number(/VmRSS:\s+(\d+) kB/.exec(await readFile(`/proc/${p}/status`, 'utf8').catch(() => ''))?.[1] ?? 0) * 1024;
  return sum;
}
/** Milliseconds that the server's own thread has run. */
export const ranMs = async (pid: number): Promise<number> =>
  Number((await readFile(`/proc/${pid}/task/${pid}/schedstat`, 'utf8')).split(' ')[0]) / 1e6;

type Method = 'POST' | 'PATCH';
async function sent<T>(url: string, method: Method, body: unknown): Promise<T> {
  const answer = await fetch(url, {
    method,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(`${url}: ${answer.status} ${await answer.text()}`);
  return (await answer.json()) as T;
}
/** A new project; answers with its id. */
export async function project(base: string, name: string): Promise<string> {
  return (await sent<{ id: string }>(`${base}/api/projects`, 'POST', { name })).id;
}
/** A new project with a scene in it. */
export async function projectWith(base: string, name: string, glb: Uint8Array): Promise<string> {
  const id = await project(base, name);
  const answer = await fetch(`${base}/api/projects/${id}/scene?fileName=scene.glb`, {
    method: 'POST',
    body: glb as Uint8Array<ArrayBuffer>,
  });
  if (!answer.ok) throw new Error(`The scene was refused: ${await answer.text()}`);
  return id;
}
export const sendTo =
  (base: string, projectId: string, method: Method) =>
  <T>(path: string, body: unknown): Promise<T> =>
    sent<T>(`${base}/api/projects/${projectId}${path}`, method, body);
/** A project as the server tells of it. */
export async function getFrom<T>(base: string, projectId: string): Promise<T> {
  return (await (await fetch(`${base}/api/projects/${projectId}`)).json()) as T;
}
