// How long people wait for the interface: a scene coming in, the tree of 20,000 parts, the view of the full demo, an
// edit of five thousand objects. In headless
// Chromium, which draws in software: a machine with a GPU draws the view many times faster.
import { type ChildProcess } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DEMO_BASE, DEMO_OPTIONS, DEMO_VARIANTS, makeTeaStall } from '@variscen/demo';
import { type Browser, type Page, chromium } from 'playwright-core';
import { bigScene } from './bigScene.ts';
import type { Emit } from './figure.ts';
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

interface Running {
  readonly base: string;
  readonly page: Page;
  readonly serverPid: number;
}
async function withApplication(work: (r: Running, home: string) => Promise<void>): Promise<void> {
  const home = await mkdtemp(join(tmpdir(), 'variscen-bench-'));
  let child: ChildProcess | undefined, browser: Browser | undefined;
  try {
    const started = await ready(home, '--no-demo');
    child = started.child;
    browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ARGS });
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(120_000);
    // tasks that held the page's main thread for more than 50 ms
    await page.addInitScript(() => {
      const w = window as unknown as { longest: number };
      w.longest = 0;
      new PerformanceObserver((l) => {
        for (const e of l.getEntries()) w.longest = Math.max(w.longest, e.duration);
      }).observe({ type: 'longtask', buffered: true });
    });
    await work({ base: started.base, page, serverPid: await serverOf(home) }, home);
  } finally {
    await browser?.close();
    if (child) await stop(child);
    await rm(home, { recursive: true, force: true });
  }
}
/** The HTTP server among the processes of a data folder. */
async function serverOf(home: string): Promise<number> {
  const { execFileSync } = await import('node:child_process');
  const line = execFileSync('ps', ['-eo', 'pid=,args=', 'e'], { encoding: 'utf8', maxBuffer: 64e6 })
    .split('\n')
    .find((l) => l.includes(home) && /main\/server\.js/.test(l));
  if (!line) throw new Error('The server is not among the processes.');
  return Number.parseInt(line.trim(), 10);
}
/** Bytes in memory of the server and the processes of its tasks. */
async function bytesOf(pid: number): Promise<number> {
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
const ranMs = async (pid: number): Promise<number> =>
  Number((await readFile(`/proc/${pid}/task/${pid}/schedstat`, 'utf8')).split(' ')[0]) / 1e6;
const project = async (base: string, name: string): Promise<string> =>
  (
    (await (
      await fetch(`${base}/api/projects`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ name }),
      })
    ).json()) as { id: string }
  ).id;
const longest = (page: Page): Promise<number> =>
  page.evaluate(() => (window as unknown as { longest: number }).longest);

export async function importSuite(emit: Emit): Promise<void> {
  const only = process.env['BENCH_ONLY'];
  for (const [name, make] of (
    [
      ['full-demo', () => makeTeaStall('full')],
      ['20k-objects', () => bigScene()],
    ] as const
  ).filter(([n]) => !only || n === only)) {
    await withApplication(async ({ base, page, serverPid }, home) => {
      const bytes = await make();
      const file = join(home, `${name}.glb`);
      const id = await project(base, name);
      await writeFile(file, bytes);
      await page.goto(`${base}/projects/${id}/scene`);
      await page.getByText('Drop a scene here').waitFor();
      const rest = await bytesOf(serverPid);
      // the HTTP thread answers all the while: how long the slowest of many small questions takes
      let asking = true;
      let slowest = 0;
      let peak = rest;
      const asked = (async () => {
        while (asking) {
          const t = performance.now();
          await (await fetch(`${base}/api/profiles`)).arrayBuffer();
          slowest = Math.max(slowest, performance.now() - t);
          await new Promise((r) => setTimeout(r, 5));
        }
      })();
      const watched = (async () => {
        while (asking) {
          peak = Math.max(peak, await bytesOf(serverPid));
          await new Promise((r) => setTimeout(r, 200));
        }
      })();
      // and how long its thread is busy at a stretch, at most, however long it then waits for a processor
      let held = 0;
      let stretch = 0;
      let before = await ranMs(serverPid);
      let at = performance.now();
      const timed = (async () => {
        while (asking) {
          await new Promise((r) => setTimeout(r, 4));
          const ran = await ranMs(serverPid);
          const t = performance.now();
          stretch = (ran - before > 0.8 * (t - at) ? stretch : 0) + ran - before;
          held = Math.max(held, stretch);
          before = ran;
          at = t;
        }
      })();
      await page.waitForTimeout(1000);
      await page.evaluate(() => {
        (window as unknown as { longest: number }).longest = 0;
      });
      const began = performance.now();
      await page.getByLabel('Scene files').setInputFiles(file);
      await page.getByText('What was read of revision 1').waitFor();
      emit({ name: `${name}-seconds`, value: (performance.now() - began) / 1000, unit: 's' });
      asking = false;
      await Promise.all([asked, watched, timed]);
      emit({ name: `${name}-memory`, value: (peak - rest) / bytes.length, unit: 'times the file' });
      emit({ name: `${name}-page-longest`, value: await longest(page), unit: 'ms' });
      emit({ name: `${name}-http-longest`, value: slowest, unit: 'ms' });
      emit({ name: `${name}-http-held`, value: held, unit: 'ms' });
    });
  }
}

export async function uiSuite(emit: Emit): Promise<void> {
  await withApplication(async ({ base, page }) => {
    const id = await project(base, 'Market');
    await fetch(`${base}/api/projects/${id}/scene?fileName=market.glb`, {
      method: 'POST',
      body: (await bigScene()) as Uint8Array<ArrayBuffer>,
    });
    await page.goto(`${base}/projects/${id}/stage`);
    await page.getByLabel('Find in the scene').waitFor();
    await page.locator('[data-loaded=yes]').waitFor({ state: 'attached' });
    // from the key to the list that answers it, painted
    const times: number[] = [];
    await page.getByLabel('Find in the scene').fill('bow');
    await page.waitForTimeout(2000);
    for (const key of ['l', ' ', '1', '9', '9', 'Backspace', 'Backspace', 'Backspace']) {
      await page.evaluate(() => {
        (window as unknown as { painted: Promise<number> }).painted = new Promise<number>((done) => {
          window.addEventListener(
            'keydown',
            () => {
              const t = performance.now();
              const status = document.querySelector('section[aria-label=Scene] [role=status]')!;
              const rows = () =>
                [...document.querySelectorAll('[role=treeitem]')]
                  .slice(0, 12)
                  .map((r) => r.textContent)
                  .join() + status.textContent;
              const before = rows();
              const look = () => {
                if (rows() !== before || performance.now() - t > 1500)
                  requestAnimationFrame(() => done(performance.now() - t));
                else requestAnimationFrame(look);
              };
              requestAnimationFrame(look);
            },
            { once: true, capture: true },
          );
        });
      });
      await page.keyboard.press(key);
      const ms = await page.evaluate(() => (window as unknown as { painted: Promise<number> }).painted);
      if (ms < 1500) times.push(ms); // a key that finds the same rows paints nothing new
    }
    times.sort((x, y) => x - y);
    emit({ name: 'tree-filter-20k', value: times[Math.floor(times.length / 2)]!, unit: 'ms' });
    emit({ name: 'tree-filter-20k-slowest', value: times.at(-1)!, unit: 'ms' });
    await page.getByLabel('Find in the scene').fill('bowl');
    await page.waitForTimeout(1500);
    emit({
      name: 'tree-scroll-20k',
      unit: 'ms',
      value: await page.evaluate(
        () =>
          new Promise<number>((done) => {
            const box = document.querySelector('[role=tree]')!;
            let frames = 0;
            let worst = 0;
            let last = performance.now();
            const step = () => {
              const now = performance.now();
              if (frames > 0) worst = Math.max(worst, now - last);
              last = now;
              box.scrollTop += 2600;
              if (++frames < 120) requestAnimationFrame(step);
              else done(worst);
            };
            requestAnimationFrame(step);
          }),
      ),
    });
    // five thousand of them at once
    await page.getByLabel('Find in the scene').fill('row bowl 1');
    await page.waitForTimeout(1500);
    await page.getByRole('tree').focus();
    await page.keyboard.press('Control+a');
    await page.getByRole('heading', { name: /selected$/ }).waitFor();
    await page.waitForTimeout(2500); // the view draws the rim of the selection, in software, before anybody clicks
    const many = Number((await page.getByRole('heading', { name: /selected$/ }).innerText()).replace(/\D/g, ''));
    await page.evaluate(() => {
      (window as unknown as { painted: Promise<number> }).painted = new Promise<number>((done) => {
        window.addEventListener(
          'click',
          () => {
            const t = performance.now();
            const look = () => {
              if (document.querySelector('.sentence .pending'))
                requestAnimationFrame(() => done(performance.now() - t));
              else requestAnimationFrame(look);
            };
            look();
          },
          { once: true, capture: true },
        );
      });
    });
    await page.getByRole('switch', { name: /objects, Casts shadow/ }).evaluate((e: HTMLElement) => e.click());
    emit({
      name: 'bulk-edit-5k',
      value: ((await page.evaluate(() => (window as unknown as { painted: Promise<number> }).painted)) * 5000) / many,
      unit: 'ms',
    });
    emit({ name: 'bulk-edit-objects', value: many, unit: 'objects' });
  });
  await withApplication(async ({ base, page }) => {
    const id = await project(base, 'Harvest fair');
    await fetch(`${base}/api/projects/${id}/scene?fileName=tea-stall.glb`, {
      method: 'POST',
      body: (await makeTeaStall('full')) as Uint8Array<ArrayBuffer>,
    });
    const post = async <T>(path: string, body: unknown): Promise<T> =>
      (await (
        await fetch(`${base}/api/projects/${id}${path}`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(body),
        })
      ).json()) as T;
    await post('/recorded', { destination: 'base', set: DEMO_BASE });
    const made = new Map<string, string>();
    for (const o of DEMO_OPTIONS) made.set(o.name, (await post<{ id: string }>('/options', o)).id);
    for (const v of DEMO_VARIANTS.slice(1)) await post('/variants', { optionIds: v.options.map((n) => made.get(n)!) });
    await page.goto(`${base}/projects/${id}/stage`);
    await page.locator('[data-loaded=yes]').waitFor({ state: 'attached' });
    await page.getByRole('tab', { name: 'All materials' }).click(); // no small pictures beside it
    await page.waitForTimeout(9000);
    // from the key to the view that begins to draw the next variant: all of light, materials, environment, placement
    // and visibility; the drawing itself is the view's
    const flips: number[] = [];
    for (let k = 0; k < DEMO_VARIANTS.length * 2; k++) {
      await page.evaluate(() => {
        performance.clearMeasures('view frame');
        (window as unknown as { began: Promise<number> }).began = new Promise<number>((done) => {
          window.addEventListener(
            'keydown',
            () => {
              const t = performance.now();
              const look = () => {
                const frame = performance.getEntriesByName('view frame').find((e) => e.startTime > t);
                if (frame) done(frame.startTime - t);
                else if (performance.now() - t > 15_000) done(Infinity);
                else setTimeout(look, 20);
              };
              look();
            },
            { once: true, capture: true },
          );
        });
      });
      await page.keyboard.press('.');
      flips.push(await page.evaluate(() => (window as unknown as { began: Promise<number> }).began));
      await page.waitForTimeout(2500);
    }
    flips.sort((a, b) => a - b);
    emit({ name: 'flip-full', value: flips[flips.length >> 1]!, unit: 'ms' });
    emit({ name: 'flip-full-slowest', value: flips.at(-1)!, unit: 'ms' });
    await page.getByRole('button', { name: /^Camera: / }).click();
    await page.getByRole('menuitem', { name: 'Look around freely' }).click();
    await page.waitForTimeout(4000);
    const whole = await page.evaluate(() => performance.getEntriesByName('view frame').at(-1)!.duration);
    await page.evaluate(() => performance.clearMeasures('view frame'));
    const box = (await page.getByRole('application').boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    for (let k = 0; k < 40; k++) {
      await page.mouse.move(box.x + box.width / 2 + k * 4, box.y + box.height / 2 + Math.sin(k / 6) * 20);
      await page.waitForTimeout(25);
    }
    const frames = (await page.evaluate(() => performance.getEntriesByName('view frame').map((e) => e.duration))).sort(
      (a, b) => a - b,
    );
    await page.mouse.up();
    emit({ name: 'view-frame-full', value: frames[Math.floor(frames.length / 2)]!, unit: 'ms' });
    emit({ name: 'view-frame-full-still', value: whole, unit: 'ms' });
  });
}
