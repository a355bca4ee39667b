// A scene comes in, cameras are set on it, and a newer file of it takes its place: by mouse and keyboard, from an empty
// data folder.
import type { Camera, Project } from '@variscen/contract';
import { makeTeaStall } from '@variscen/demo';
import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import type { Browser, Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import {
  type Application,
  FRAMES_BY,
  dropHome,
  makeHome,
  openBrowser,
  openPage,
  startApplication,
  watch,
} from './application.ts';

let app: Application, browser: Browser, page: Page, errors: string[], home: string;
const get = async <T>(path: string): Promise<T> => (await (await fetch(app.base + path)).json()) as T;
const project = async (): Promise<Project> =>
  get(`/api/projects/${(await get<{ id: string }[]>('/api/projects'))[0]!.id}`);
const camera = async (name: string): Promise<Camera> => (await project()).cameras.find((c) => c.name === name)!;
const until = async (what: () => Promise<boolean>, seconds = 30) => {
  for (let i = 0; i < seconds * 5; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 200));
  }
  throw new Error('It did not come to that in time.');
};
const field = async (label: string, value: string) => {
  const f = page.getByLabel(label, { exact: true });
  await f.fill(value);
  await f.press('Enter');
};
const status = (text: string | RegExp) => page.getByRole('status').filter({ hasText: text }).first().waitFor();
const look = async (name: string) => {
  await page.getByRole('option', { name, exact: true }).click();
  await page.getByRole('button', { name: `Camera: ${name}` }).waitFor();
};
async function dragView(x: number, y: number, modifier?: 'Shift'): Promise<void> {
  const box = (await page.getByRole('application').boundingBox())!;
  const cx = box.x + box.width / 2;
  const cy = box.y + box.height / 2;
  if (modifier) await page.keyboard.down(modifier);
  await page.mouse.move(cx - x / 2, cy - y / 2);
  await page.mouse.down();
  await page.mouse.move(cx, cy, { steps: 4 });
  await page.mouse.move(cx + x / 2, cy + y / 2, { steps: 4 });
  await page.mouse.up();
  if (modifier) await page.keyboard.up(modifier);
}

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--no-demo');
  browser = await openBrowser();
  page = await openPage(browser);
  errors = watch(page);
  page.setDefaultTimeout(30_000);
});
afterEach(async (t) => {
  if (t.task.result?.state === 'fail' && process.env['SHOTS'])
    await page.screenshot({ path: `${process.env['SHOTS']}/${t.task.name.slice(0, 24).replace(/\W/g, '-')}.png` });
});
afterAll(async () => {
  await browser?.close();
  await app?.stop();
  if (home) await dropHome(home);
});

describe('any scene in, every camera set', () => {
  it('a file that is none is refused by name, and the scene comes in after it', async () => {
    await page.goto(app.base);
    await page.getByLabel('Name of the new project').fill('Harvest fair');
    await page.getByRole('button', { name: 'Start project' }).click();
    const files = page.getByLabel('Scene files');
    await files.setInputFiles({
      name: 'torn.glb',
      mimeType: 'model/gltf-binary',
      buffer: Buffer.from((await makeTeaStall('light', FRAMES_BY)).subarray(0, 5000)),
    });
    await page.getByText(/“torn.glb” is cut short/).waitFor();
    await files.setInputFiles({
      name: 'tea-stall.glb',
      mimeType: 'model/gltf-binary',
      buffer: Buffer.from(await makeTeaStall('light', FRAMES_BY)),
    });
    await page.getByText('Nothing was left out.').waitFor();
    await page.getByRole('button', { name: 'Open the stage' }).click();
    await page.locator('[data-loaded=yes]').waitFor({ timeout: 60_000 });
  });

  it('a square close-up and a wide keep their own size, lens and planes over a reload', async () => {
    await page.getByRole('tab', { name: /^Cameras/ }).click();
    for (const [name, set] of [
      [
        'Square close-up',
        { Width: '900', Height: '900', 'Focal length': '85', 'Near plane': '0.4', 'Far plane': '30' },
      ],
      ['Wide', { Width: '2400', Height: '1000', 'Focal length': '24', 'Near plane': '0.1', 'Far plane': '120' }],
    ] as const) {
      await page.getByRole('button', { name: 'Add camera from this view' }).click();
      const naming = page.getByLabel('Name of the camera');
      await naming.fill(name);
      await naming.press('Enter');
      await look(name);
      await page.getByLabel('Lock aspect').click({ force: true });
      for (const [label, value] of Object.entries(set)) await field(`${name}, ${label}`, value);
    }
    const own = async () =>
      (await project()).cameras
        .slice(-2)
        .map((c) => [
          c.name,
          c.settings.widthPx,
          c.settings.heightPx,
          c.settings.focalLengthMm,
          c.settings.nearM,
          c.settings.farM,
        ]);
    const expected = [
      ['Square close-up', 900, 900, 85, 0.4, 30],
      ['Wide', 2400, 1000, 24, 0.1, 120],
    ];
    await until(async () => JSON.stringify(await own()) === JSON.stringify(expected));
    await page.reload();
    await page.locator('[data-loaded=yes]').waitFor({ timeout: 60_000 });
    for (const [name, width, , focal, near] of expected) {
      await look(String(name));
      expect([
        await page.getByLabel(`${name}, Width`).inputValue(),
        await page.getByLabel(`${name}, Focal length`).inputValue(),
        await page.getByLabel(`${name}, Near plane`).inputValue(),
      ]).toEqual([`${width} px`, `${focal} mm`, `${near} m`]);
    }
  });

  it('what is on its way to the server stays on the page while the project is asked for', async () => {
    await look('Square close-up');
    const sent: (() => void)[] = [];
    const asked: string[] = [];
    await page.route('**/cameras', async (r) => {
      await new Promise<void>((go) => {
        sent.push(go);
      });
      await r.continue();
    });
    page.on('response', (r) => {
      if (r.request().method() === 'GET' && /projects\/[^/]+$/.test(r.url())) asked.push(r.url());
    });
    await field('Square close-up, Shift right', '5');
    await field('Square close-up, Distance', '3');
    await until(() => Promise.resolve(sent.length === 1));
    sent[0]!();
    await until(async () => (await camera('Square close-up')).settings.shiftX === 0.05);
    // the event of the first change is there, the second waits
    await until(() => Promise.resolve(sent.length === 2));
    await new Promise((r) => setTimeout(r, 700));
    expect(await page.getByLabel('Square close-up, Distance').inputValue()).toBe('3 m');
    expect(asked).toEqual([]);
    sent[1]!();
    await until(async () => (await camera('Square close-up')).settings.focusDistanceM === 3);
    await until(() => Promise.resolve(asked.length > 0));
    await page.unroute('**/cameras');
    expect([
      await page.getByLabel('Square close-up, Shift right').inputValue(),
      await page.getByLabel('Square close-up, Distance').inputValue(),
    ]).toEqual(['5 %', '3 m']);
    await field('Square close-up, Shift right', '0');
    await field('Square close-up, Distance', '5.552');
    await until(async () => (await camera('Square close-up')).settings.focusDistanceM === 5.552);
  });

  it('navigating moves a camera and undo puts it back; a locked one stays where it is', async () => {
    await look('Wide');
    const start = (await camera('Wide')).settings.matrix;
    await dragView(120, 40);
    await until(async () => (await camera('Wide')).settings.matrix.some((x, i) => Math.abs(x - start[i]!) > 0.01));
    await page.keyboard.press('Control+z');
    await page
      .getByText(/^Undone: /)
      .first()
      .waitFor();
    expect((await camera('Wide')).settings.matrix).toEqual(start);
    await page.getByRole('button', { name: 'Lock Wide' }).click();
    await page.getByRole('button', { name: 'Unlock Wide' }).waitFor();
    await dragView(120, 40);
    await status('“Wide” is locked.');
    await page.getByRole('application').focus();
    await page.keyboard.press('ArrowUp');
    await new Promise((r) => setTimeout(r, 800));
    expect((await camera('Wide')).settings.matrix).toEqual(start);
  });

  it('the arrow keys walk, and several cameras are changed at once', async () => {
    await look('Square close-up');
    const start = (await camera('Square close-up')).settings.matrix;
    await page.getByRole('application').focus();
    await page.keyboard.down('ArrowUp');
    await new Promise((r) => setTimeout(r, 500));
    await page.keyboard.up('ArrowUp');
    await until(async () => {
      const m = (await camera('Square close-up')).settings.matrix;
      return Math.hypot(m[12]! - start[12]!, m[14]! - start[14]!) > 0.02 && Math.abs(m[13]! - start[13]!) < 1e-6;
    });
    await page.getByRole('option', { name: 'Wide', exact: true }).click({ modifiers: ['Control'] });
    await page.getByRole('heading', { name: '2 cameras' }).waitFor();
    expect(await page.getByLabel('Cameras, Width').getAttribute('placeholder')).toBe('mixed');
    await field('Cameras, F-stop', '2.8');
    await until(async () =>
      (await project()).cameras.slice(-2).every((c) => c.settings.fStop === 2.8 && c.settings.widthPx !== 2.8),
    );
    expect((await project()).cameras.slice(-2).map((c) => c.settings.widthPx)).toEqual([900, 2400]);
  });

  it('a near plane that cuts a body open names it and offers a distance that does not', async () => {
    await look('Counter, close');
    await page.getByRole('button', { name: 'Plan view' }).click();
    await field('Counter, close, Near plane', '2.1');
    const cut = page.getByRole('status', { name: 'What the planes cut' });
    await cut.getByText(/The near plane cuts open “.+”/).waitFor();
    await cut
      .getByRole('button', { name: /^Near plane at / })
      .first()
      .click();
    await until(async () => (await camera('Counter, close')).settings.nearM !== 2.1);
    await cut.getByText(/The near plane cuts open/).waitFor({ state: 'detached' });
    await page.locator('[data-depth=yes]').waitFor();
  });

  it('the plan stays where it is looked at while planes are changed, until it is to show all', async () => {
    const plan = page.getByRole('img', { name: /^Plan view/ });
    const scale = () => plan.getAttribute('data-px-per-m');
    const fitted = await scale();
    await plan.hover();
    await page.mouse.wheel(0, -300);
    await until(async () => (await scale()) !== fitted);
    const zoomed = await scale();
    await field('Counter, close, Far plane', '31');
    await until(async () => (await camera('Counter, close')).settings.farM === 31);
    expect(await scale()).toBe(zoomed);
    await page.getByRole('button', { name: 'Show all' }).click();
    await until(async () => (await scale()) !== zoomed);
    await page.getByRole('button', { name: 'Plan view' }).click();
  });

  it('a number is dragged by its label: Escape gives it back, letting go keeps it as one step', async () => {
    await look('Counter, close');
    const focal = page.getByLabel('Counter, close, Focal length');
    const before = (await camera('Counter, close')).settings.focalLengthMm;
    const label = (await page.getByText('Focal length', { exact: true }).boundingBox())!;
    const drag = async () => {
      await page.mouse.move(label.x + 20, label.y + 8);
      await page.mouse.down();
      await page.mouse.move(label.x + 30, label.y + 8, { steps: 5 });
      await page.mouse.move(label.x + 45, label.y + 8, { steps: 5 });
    };
    await drag();
    expect(Number.parseFloat(await focal.inputValue())).toBeCloseTo(before + 25, 0);
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect(Number.parseFloat(await focal.inputValue())).toBeCloseTo(before, 3);
    await drag();
    await page.mouse.up();
    await until(async () => Math.abs((await camera('Counter, close')).settings.focalLengthMm - before - 25) < 1);
    await page.keyboard.press('Control+z');
    await until(async () => (await camera('Counter, close')).settings.focalLengthMm === before);
  });

  it('a deleted camera comes back with Ctrl+Z, in its place', async () => {
    await look('Kettle square');
    const before = (await project()).cameras.map((c) => c.name);
    await page.getByRole('listbox', { name: 'Cameras of the project' }).focus();
    await page.keyboard.press('Delete');
    await until(async () => (await project()).cameras.length === before.length - 1);
    await page.keyboard.press('Control+z');
    await until(async () => (await project()).cameras.length === before.length);
    expect((await project()).cameras.map((c) => c.name)).toEqual(before);
  });

  it('hundreds of objects take one edit and one undo', async () => {
    await page.getByRole('tab', { name: 'Scene' }).click();
    await page.getByLabel('Find in the scene').fill('cobble');
    await status(/\d+ found/);
    await page.getByRole('tree').focus();
    await page.keyboard.press('Control+a');
    await status(/\d+ selected/);
    const many = Number(
      /([\d,]+) selected/
        .exec(await page.locator('[role=status]').filter({ hasText: 'selected' }).innerText())![1]!
        .replace(',', ''),
    );
    expect(many).toBeGreaterThan(200);
    await page.getByRole('switch', { name: /objects, Casts shadow/ }).click({ force: true });
    await until(async () => (await project()).pending[0]?.changes.length === many);
    await page.keyboard.press('Control+z');
    await until(async () => (await project()).pending.length === 0);
    await page.getByLabel('Find in the scene').fill('');
  });

  it('a box in the view selects what shows in it, and a name keeps the selection', async () => {
    await page.getByRole('tab', { name: /^Cameras/ }).click();
    await look('Stall from the lane');
    await page.getByRole('tab', { name: 'Scene' }).click();
    await dragView(260, 180, 'Shift');
    await status(/\d+ selected/);
    const selected = page.getByRole('heading', { name: /selected$/ });
    await page.getByRole('button', { name: 'Select and named selections' }).click();
    await page.getByRole('menuitem', { name: 'Name this selection…' }).click();
    await page.getByLabel('Name', { exact: true }).fill('On the counter');
    await page.getByRole('button', { name: 'Keep selection' }).click();
    await until(async () => (await project()).sets[0]?.name === 'On the counter');
    expect(await selected.innerText()).toBe(`${(await project()).sets[0]!.paths.length} selected`);
  });

  it('an object is moved by number and by its handle, pending in the destination, and undone', async () => {
    const name = 'Sack 2';
    await page.getByLabel('Find in the scene').fill(name);
    await page.getByRole('treeitem', { name }).click();
    await page.getByRole('heading', { name, exact: true }).waitFor();
    const moved = async () =>
      ((await project()).pending[0]?.changes.find((c) => c.property === 'object.offset')?.value ?? [
        0, 0, 0,
      ]) as number[];
    await field(`${name}, Move Y`, '0.5');
    await until(async () => (await moved())[1] === 0.5);
    await page.getByRole('button', { name: 'Bring into view' }).click();
    await page.getByRole('button', { name: 'Look around instead' }).click();
    await page.getByRole('button', { name: 'Bring into view' }).click();
    await page.getByRole('button', { name: 'Move what is selected' }).click();
    await new Promise((r) => setTimeout(r, 1500));
    // the middle of what was brought into view is the middle of the view, and the upright handle stands above it
    const box = (await page.getByRole('application').boundingBox())!;
    const x = box.x + box.width / 2;
    const y = box.y + box.height / 2;
    await page.mouse.move(x, y - 50);
    await page.mouse.down();
    await page.mouse.move(x, y - 80, { steps: 4 });
    await page.mouse.move(x, y - 110, { steps: 4 });
    await page.mouse.up();
    await until(async () => (await moved())[1]! > 0.5);
    expect((await moved()).filter((v, k) => k !== 1 && Math.abs(v) > 1e-6)).toEqual([]);
    while ((await project()).pending.length) {
      await page.keyboard.press('Control+z');
      await new Promise((r) => setTimeout(r, 400));
    }
    await page.getByLabel('Find in the scene').fill('');
    await page.getByRole('button', { name: 'Move what is selected' }).click();
  });

  it('what the camera sees is found by the engine, and all cameras are shown side by side', async () => {
    await page.getByRole('button', { name: 'Select and named selections' }).click();
    await page.getByRole('menuitem', { name: 'Select what the camera sees' }).click();
    await page.getByText(/^\d+ objects seen by the camera$/).waitFor({ timeout: 60_000 });
    await page.getByRole('tab', { name: 'All cameras' }).click();
    await page.locator('[data-picture=yes]').nth(2).waitFor({ timeout: 60_000 });
    await page.getByRole('tab', { name: 'Lighting' }).click();
  });

  it('a newer file is looked at, matched by hand, made current and gone back from', async () => {
    const p = await project();
    const at = `${app.base}/api/projects/${p.id}`;
    await fetch(`${at}/options`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        facet: 'visibility',
        name: 'Bare',
        changes: [{ target: 'object:Harvest fair/Ware/Kettle, large', property: 'object.shown', value: false }],
      }),
    });
    await MeshoptDecoder.ready;
    const io = new WebIO()
      .registerExtensions(ALL_EXTENSIONS)
      .registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
    const d = await io.readBinary(await makeTeaStall('light', FRAMES_BY));
    const node = (n: string) =>
      d
        .getRoot()
        .listNodes()
        .find((x) => x.getName() === n)!;
    node('Kettle, large').setName('Great kettle');
    node('Mirror').dispose();
    await page.goto(`${app.base}/projects/${p.id}/scene`);
    await page.getByLabel('Scene files').setInputFiles({
      name: 'newer-stall.glb',
      mimeType: 'model/gltf-binary',
      buffer: Buffer.from(await io.writeBinary(d)),
    });
    await page.getByText('What revision 2 would do').waitFor({ timeout: 60_000 });
    await page.getByText(/Values are recorded for 1 object of those that are gone/).waitFor();
    expect((await project()).revision!.number).toBe(1);
    const became = page.getByRole('combobox', { name: /^What .*Kettle, large is now$/ });
    await became.click();
    await became.fill('Great');
    await page.getByRole('option', { name: /Great kettle/ }).click();
    await page.getByText('Nothing that is recorded would be left waiting.').waitFor();
    await page.getByRole('button', { name: 'Make revision 2 current' }).click();
    await until(async () => (await project()).revision!.number === 2);
    await page.getByRole('button', { name: /^Revision 1/ }).click();
    await page.getByRole('button', { name: 'Go back to this revision' }).click();
    await until(async () => (await project()).revision!.number === 1);
    await page.keyboard.press('Control+z');
    await until(async () => (await project()).revision!.number === 2);
    await page.getByRole('button', { name: 'Open the stage' }).click();
    await page.locator('[data-loaded=yes]').waitFor({ timeout: 60_000 });
    await page.getByLabel('Find in the scene').fill('Great kettle');
    await page.getByRole('treeitem').filter({ hasText: 'Great kettle' }).waitFor();
  });

  it('shows no error in the browser on the way', () => {
    expect(errors.filter((e) => !/422/.test(e))).toEqual([]);
  });
});
