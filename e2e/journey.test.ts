// From an empty data folder to four pictures, by mouse and keyboard; and what happens when things die.
import { execFile } from 'node:child_process';
import { readFile, writeFile } from 'node:fs/promises';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Board, Project, Queue } from '@variscen/contract';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Application,
  dropHome,
  makeHome,
  nodePids,
  openBrowser,
  openPage,
  pidsOf,
  processesOf,
  smallStall,
  startApplication,
  tryToStart,
  watch,
} from './application.ts';
import { accessFaults } from './access.ts';

const run = promisify(execFile);
let app: Application, browser: Browser, page: Page, errors: string[], home: string;
const get = async <T>(path: string): Promise<T> => (await (await fetch(app.base + path)).json()) as T;
const project = async (): Promise<Project> =>
  get(`/api/projects/${(await get<{ id: string }[]>('/api/projects'))[0]!.id}`);
const statuses = async () => {
  const p = await project();
  return (await get<Board>(`/api/projects/${p.id}/board`)).cells;
};
const until = async (what: () => Promise<boolean>, seconds = 240) => {
  for (let i = 0; i < seconds * 4; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 250));
  }
  throw new Error('It did not come to that in time.');
};
const cell = (camera: string, variant: string) =>
  page.getByRole('gridcell', { name: new RegExp(`^${camera} in ${variant}:`) });

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--no-demo');
  browser = await openBrowser();
  page = await openPage(browser);
  errors = watch(page);
  page.setDefaultTimeout(60_000);
});
afterAll(async () => {
  await browser?.close();
  await app?.stop();
  if (home) await dropHome(home);
});

/** Finds a part of the scene by name and selects it. */
async function select(name: string): Promise<void> {
  await page.getByLabel('Find in the scene').fill(name);
  await page.getByRole('treeitem').filter({ hasText: name }).first().click();
}
/** The destination counts once the sentence says it; a person reads it too before going on. */
const goesTo = (what: string) => page.getByRole('button', { name: `Edits go to: ${what}`, exact: true }).waitFor();
async function makeOption(facet: string, name: string): Promise<void> {
  await page.getByRole('tab', { name: facet, exact: true }).click();
  await page.getByRole('button', { name: 'New option…' }).click();
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByRole('button', { name: 'Make option' }).click();
  await goesTo(`${facet}: ${name}`);
}

describe('the first evening', () => {
  it('a scene comes in through the interface', async () => {
    await page.goto(app.base);
    await page.getByText('No project yet').waitFor();
    await page.getByLabel('Name of the new project').fill('Harvest fair');
    await page.getByRole('button', { name: 'Start project' }).click();
    const [chooser] = await Promise.all([
      page.waitForEvent('filechooser'),
      page.getByRole('button', { name: 'Import a scene…' }).click(),
    ]);
    await chooser.setFiles({
      name: 'tea-stall.glb',
      mimeType: 'model/gltf-binary',
      buffer: Buffer.from(await smallStall()),
    });
    await page.getByText('What was read of revision 1').waitFor({ timeout: 60_000 });
    await page.getByText('Nothing was left out.').waitFor();
    await page.getByRole('button', { name: 'Open the stage' }).click();
    await page.locator('[data-loaded=yes]').waitFor({ timeout: 60_000 });
    expect((await project()).cameras.map((c) => c.name)).toContain('Counter, close');
  });

  it('two options are recorded, each edit in the destination that the sentence names', async () => {
    await makeOption('Lighting', 'Strong lamp');
    await select('Counter lamp');
    const strength = page.getByLabel('Counter lamp, Strength');
    await strength.fill('40');
    await strength.press('Enter');
    await page.getByText('1 pending').waitFor();
    await page.getByRole('button', { name: 'Keep 1 change' }).click();
    await makeOption('Materials', 'Blue kettle');
    await select('Kettle, large');
    await page.getByRole('combobox', { name: 'Kettle, large, Material' }).click();
    await page.getByRole('option', { name: 'Indigo enamel' }).click();
    await page.getByRole('button', { name: 'Keep 1 change' }).click();
    await until(async () => (await project()).options.every((o) => o.changes.length === 1));
    expect((await project()).options.map((o) => [o.facet, o.changes[0]!.property, o.changes[0]!.value])).toEqual([
      ['lighting', 'light.intensity', 40],
      ['materials', 'object.material', 'Indigo enamel'],
    ]);
  });

  it('a colour is typed, and a sky is selected', async () => {
    const colour = page.getByRole('textbox', { name: 'Indigo enamel, Base colour' });
    await colour.fill('#2030c0');
    await colour.press('Enter');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Keep 1 change' }).click();
    await makeOption('Environment', 'Late');
    await page.getByRole('button', { name: 'Environment', exact: true }).click();
    await page.getByRole('combobox', { name: 'Environment, Sky' }).click();
    await page.getByRole('option', { name: 'Clear night' }).click();
    await page.getByRole('button', { name: 'Keep 1 change' }).click();
    await until(async () => (await project()).options.find((o) => o.name === 'Late')?.changes.length === 1);
    const p = await project();
    expect(p.options.find((o) => o.name === 'Late')!.changes).toEqual([
      { target: 'environment', property: 'environment.kind', value: 'night' },
    ]);
    const blue = p.options
      .find((o) => o.name === 'Blue kettle')!
      .changes.find((c) => c.property === 'material.baseColor');
    expect(blue).toMatchObject({ target: 'material:Indigo enamel' });
    expect((blue!.value as number[]).map((x) => Number(x.toFixed(3)))).toEqual([0.014, 0.03, 0.527]); // linear
    await page.getByRole('tab', { name: 'Materials', exact: true }).click();
    await page
      .getByRole('button', { name: /^Blue kettle/ })
      .first()
      .click();
    await goesTo('Materials: Blue kettle');
  });

  it('an edit that does not belong to the destination asks where it should go, and is not misfiled', async () => {
    await select('Counter lamp');
    await page.getByRole('switch', { name: 'Counter lamp, On' }).click({ force: true });
    await page.getByText('On belongs to Lighting').waitFor();
    await page.keyboard.press('Escape');
    await page.getByText('On belongs to Lighting').waitFor({ state: 'hidden' });
    expect((await project()).pending).toEqual([]);
  });

  it('the live render shows the stage with the engine of the batch, and starts again when something changes', async () => {
    const live = page.getByRole('img', { name: 'Live render' });
    const brightness = () =>
      live.evaluate((c) => {
        const canvas = c as HTMLCanvasElement;
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        let sum = 0;
        for (let i = 0; i < data.length; i += 4) sum += data[i]! + data[i + 1]! + data[i + 2]!;
        return sum / data.length;
      });
    await page.getByRole('button', { name: 'Live render' }).click();
    // the first passes are coarse: two of them differ by more than the looks do
    const settled = () => page.getByText(/^Live · (?:[89]|\d{2,}) samples/).waitFor();
    await settled();
    const before = await brightness();
    expect(before).toBeGreaterThan(2);
    // a region of it alone: the same picture there, of so many pixels
    const frame = (await live.boundingBox())!;
    await page.getByRole('button', { name: 'Region', exact: true }).click();
    await page.mouse.move(frame.x + frame.width * 0.25, frame.y + frame.height * 0.5);
    await page.mouse.down();
    await page.mouse.move(frame.x + frame.width * 0.75, frame.y + frame.height * 0.9, { steps: 4 });
    await page.mouse.up();
    await page.getByText(/^Live, region · (?:[89]|\d{2,}) samples/).waitFor();
    const part = page.getByRole('img', { name: 'Live render of the region' });
    const [own, whole] = await part.evaluate((c) => {
      const region = c as HTMLCanvasElement;
      const all = document.querySelector<HTMLCanvasElement>('canvas[aria-label="Live render"]')!;
      const meanOf = (canvas: HTMLCanvasElement, at: readonly [number, number, number, number]) => {
        const { data } = canvas.getContext('2d')!.getImageData(...at);
        return data.reduce((sum, x) => sum + x, 0) / data.length;
      };
      const { width, height } = all;
      const there = [width * 0.25, height * 0.5, width * 0.5, height * 0.4] as const;
      return [meanOf(region, [0, 0, region.width, region.height]), meanOf(all, there)];
    });
    // few samples are a little darker on a screen than many
    expect(Math.abs(own! / whole! - 1)).toBeLessThan(0.1);
    await page.getByRole('button', { name: 'Whole frame' }).click();
    await settled();
    await page.getByRole('tab', { name: 'Environment', exact: true }).click();
    await page.getByRole('button', { name: /^Late/ }).first().click();
    // by night; the picture before stays until then, with its line, which may be gone before anybody sees it
    await until(async () => (await brightness()) < before - 1);
    await settled();
    expect(await brightness()).toBeLessThan(before - 1);
    await page.getByRole('tab', { name: 'Materials', exact: true }).click();
    await page
      .getByRole('button', { name: /^Blue kettle/ })
      .first()
      .click();
    await goesTo('Materials: Blue kettle');
    await page.getByRole('button', { name: 'Live render' }).click();
    await live.waitFor({ state: 'detached' });
  });

  it('pending edits survive a reload, in their destination', async () => {
    await select('Shutters');
    await page.getByRole('button', { name: /^Edits go to/ }).click();
    await page.getByRole('menuitem', { name: 'the base' }).click();
    await goesTo('the base');
    await page.getByRole('switch', { name: 'Shutters, Shown' }).click({ force: true });
    await page.getByText('1 pending').waitFor();
    await until(async () => (await project()).pending.length === 1);
    await page.reload();
    await page.getByText('1 pending').waitFor();
    await page.getByRole('button', { name: 'Keep 1 change' }).click();
    await until(async () => (await project()).base.length === 1);
    expect((await project()).pending).toEqual([]);
  });

  it('four cells render on the board, live, into valid files of the right size', async () => {
    await page.route(
      '**/board',
      async (route) => {
        await new Promise((r) => setTimeout(r, 1500));
        await route.continue();
      },
      { times: 1 },
    );
    await page.getByRole('link', { name: 'Board' }).click();
    await cell('Counter, close', 'Base').click(); // before the server has told of it
    await page.getByText('1 cell from 1 trace').waitFor();
    await page.getByRole('button', { name: 'New variant…' }).click();
    await page.getByLabel('Strong lamp').check();
    await page.getByLabel('Blue kettle').check();
    await page.getByRole('button', { name: 'Make variant' }).click();
    await cell('Counter, close', 'Base').click();
    for (const [camera, variant] of [
      ['Counter, close', 'Strong lamp · Blue kettle'],
      ['Kettle square', 'Base'],
      ['Kettle square', 'Strong lamp · Blue kettle'],
    ] as const)
      await cell(camera, variant).click({ modifiers: ['Control'] });
    await page.getByText('4 cells from 4 traces').waitFor();
    await page.getByRole('button', { name: 'Render 4 cells' }).click();
    await page.locator('[data-status=rendering]').first().waitFor({ timeout: 60_000 });
    await until(async () => (await statuses()).filter((c) => c.status === 'current').length === 4);
    // without a reload
    await expect.poll(() => page.locator('[data-status=current]').count(), { timeout: 40_000 }).toBe(4);
    const folder = join(home, 'output/harvest-fair');
    for (const [camera, size] of [
      ['counter-close', [267, 150]],
      ['kettle-square', [250, 250]],
    ] as const)
      for (const variant of ['base', 'strong-lamp-blue-kettle']) {
        const file = join(folder, camera, `${variant}_v001`);
        const header = (await run('exrheader', [`${file}.exr`])).stdout;
        const image = await sharp(`${file}.png`).metadata();
        expect(header).toContain(`(0 0) - (${size[0] - 1} ${size[1] - 1})`);
        expect([image.width, image.height]).toEqual(size);
      }
    // the kettle stands in the middle of its square picture: copper there, and blue in the other variant
    const middle = async (variant: string) =>
      (
        await sharp(join(folder, 'kettle-square', `${variant}_v001.png`))
          .extract({ left: 100, top: 115, width: 55, height: 45 })
          .stats()
      ).channels.map((c) => c.mean);
    const copper = await middle('base');
    const blue = await middle('strong-lamp-blue-kettle');
    expect(copper[0]! / copper[2]!).toBeGreaterThan(1.2 * (blue[0]! / blue[2]!));
  });

  it('a changed option turns exactly its cells out of date and says what changed; changed back, they are current', async () => {
    const p = await project();
    const option = p.options.find((o) => o.name === 'Strong lamp')!;
    const set = (value: number) =>
      fetch(`${app.base}/api/projects/${p.id}/options/${option.id}`, {
        method: 'PATCH',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ changes: [{ ...option.changes[0], value }] }),
      });
    await set(25);
    await expect.poll(() => page.locator('[data-status=outdated]').count(), { timeout: 40_000 }).toBe(2);
    await cell('Kettle square', 'Strong lamp · Blue kettle').click();
    await page.getByText('Why out of date').waitFor();
    await page.getByText('40 cd → 25 cd').waitFor();
    expect(await page.locator('[data-status=current]').count()).toBe(2);
    await set(40);
    await expect.poll(() => page.locator('[data-status=current]').count(), { timeout: 40_000 }).toBe(4);
  });

  it('the board works from the keyboard', async () => {
    await page.keyboard.press('Escape');
    await page.getByRole('grid').focus();
    await page.keyboard.press('Escape');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Space');
    await expect.poll(() => page.locator('[role=gridcell][aria-selected=true]').count()).toBe(1);
    await page.keyboard.press('Shift+ArrowLeft');
    await expect.poll(() => page.locator('[role=gridcell][aria-selected=true]').count()).toBe(2);
    expect(page.url()).toContain('cells=');
    await page.keyboard.press('Enter');
    await page.getByText(/^Looking through/).waitFor();
  });

  it('every place has names for its controls and enough contrast', async () => {
    for (const place of ['Board', 'Cull', 'Queue', 'Library', 'Projects', 'Stage']) {
      await page.getByRole('navigation').getByRole('link', { name: place }).click();
      await page.locator('main.place:not([aria-busy])').waitFor();
      expect(await accessFaults(page), place).toEqual([]);
    }
  });

  it('shows no error in the browser on the way', () => {
    expect(errors).toEqual([]);
  });
});

describe('when things die', () => {
  it('a killed node is noticed and its trace is finished by another', async () => {
    const p = await project();
    const camera = p.cameras.find((c) => c.name === 'Stall from the lane')!;
    await fetch(`${app.base}/api/projects/${p.id}/batches`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ cells: [{ cameraId: camera.id, variantId: p.variants[0]!.id }], profileId: 'sketch' }),
    });
    const trace = async () =>
      (await get<Queue>('/api/queue')).traces.find((t) => t.cells.some((c) => c.cameraName === camera.name))!;
    await until(async () => (await trace()).fraction > 0.05);
    const [before] = await nodePids(home);
    process.kill(before!, 'SIGKILL');
    await until(async () => (await trace()).state === 'done');
    expect((await trace()).attempts).toBe(2);
    expect(await nodePids(home)).not.toContain(before);
  });
  it('a killed server and a killed database are started again, with everything', async () => {
    const before = await statuses();
    for (const command of [/main\/server\.js/, /bin\/postgres -D/]) {
      const [pid] = await pidsOf(home, command);
      process.kill(pid!, 'SIGKILL');
      await until(async () => {
        const health = await get<{ ok: boolean }>('/api/health').catch(() => ({ ok: false }));
        const [now] = await pidsOf(home, command);
        return health.ok && now !== undefined && now !== pid;
      }, 60);
      expect(await statuses()).toEqual(before);
    }
  });
  it('a second one on the same data folder is told who has it', async () => {
    const { code, text } = await tryToStart(home, {}, '--no-demo');
    expect(code).toBe(1);
    expect(text).toContain(`already runs on the data folder ${home}: process ${app.process.pid}, at ${app.base}.`);
    expect(await get('/api/health')).toMatchObject({ ok: true });
  });
  it('Ctrl+C leaves nothing running, and a second start has everything', async () => {
    await app.stop();
    await until(async () => (await processesOf(home)).length === 0, 20);
    app = await startApplication(home, '--no-demo');
    expect((await statuses()).filter((c) => c.status === 'current')).toHaveLength(5);
    expect(await get('/api/health')).toMatchObject({ ok: true });
  });
});

describe('a start that cannot succeed says why', () => {
  it.each<[string, () => Promise<{ env?: Record<string, string>; flags: string[]; home?: string }>, RegExp]>([
    [
      'a busy port',
      async () => {
        const port = await new Promise<number>((resolve) => {
          const s = createServer().listen(0, '127.0.0.1', () => resolve((s.address() as { port: number }).port));
          s.unref();
        });
        return { flags: ['--port', String(port), '--no-demo'] };
      },
      /Port \d+ is taken by another program/,
    ],
    ['a port that is none', () => Promise.resolve({ flags: ['--port', 'seven'] }), /“seven” is not a port/],
    [
      'a data folder of a newer version',
      async () => {
        const folder = await makeHome();
        await writeFile(join(folder, 'version.json'), '{"dataVersion":99}');
        return { home: folder, flags: [] };
      },
      /made by a newer Variscen/,
    ],
    [
      'a data folder that cannot be made',
      () => Promise.resolve({ home: '/dev/null/variscen', flags: [] }),
      /cannot be made/,
    ],
  ])('%s', async (_what, prepare, message) => {
    const { env = {}, flags, home: given } = await prepare();
    const folder = given ?? (await makeHome());
    const r = await tryToStart(folder, env, ...flags);
    expect(r.code).toBe(1);
    expect(r.text).toMatch(message);
    if (!folder.startsWith('/dev')) {
      if (given) expect(await readFile(join(folder, 'version.json'), 'utf8')).toBe('{"dataVersion":99}');
      await dropHome(folder);
    }
  });
});
