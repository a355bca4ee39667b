// Recording looks, by mouse and keyboard: two colours in two cameras, an object hidden for one camera, exploded and
// drawn and copied, four lightings, a stray edit, and a look
// that goes to another project.
import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { Board, Project } from '@variscen/contract';
import type { Browser, Locator, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import {
  type Application,
  dropHome,
  makeHome,
  openBrowser,
  openPage,
  smallStall,
  startApplication,
  watch,
} from './application.ts';

let app: Application;
let browser: Browser;
let page: Page;
let errors: string[];
let home: string;
let id: string;
let actions = 0;
const get = async <T>(path: string): Promise<T> => (await (await fetch(app.base + path)).json()) as T;
const send = async <T>(method: string, path: string, body: unknown): Promise<T> =>
  (await (
    await fetch(app.base + path, {
      method,
      ...(body instanceof Uint8Array
        ? { headers: { 'content-type': 'application/octet-stream' }, body: body as Uint8Array<ArrayBuffer> }
        : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    })
  ).json()) as T;
const project = () => get<Project>(`/api/projects/${id}`);
const board = async () => (await get<Board>(`/api/projects/${id}/board`)).cells;
const until = async (what: () => Promise<boolean>, seconds = 60) => {
  for (let i = 0; i < seconds * 4; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 250));
  }
  throw new Error('It did not come to that in time.');
};
/** A person's action: a click, a key, or something typed and entered. */
const act = async (work: Promise<unknown>): Promise<void> => {
  actions++;
  await work;
};
const button = (name: string | RegExp, exact = true) =>
  page.getByRole('button', { name, exact: typeof name === 'string' && exact }).first();
const goesTo = (what: string) => page.getByRole('button', { name: `Edits go to: ${what}`, exact: true }).waitFor();
/** The view has drawn what it was told last. */
const settled = async () => {
  await page.waitForTimeout(150);
  await page.locator('section[aria-label=View] [aria-busy=false]').waitFor();
};
const inVariant = (what: string) => page.getByRole('button', { name: `Variant: ${what}`, exact: true }).waitFor();
async function select(name: string): Promise<void> {
  await act(page.getByLabel('Find in the scene').fill(name));
  await act(page.getByRole('treeitem').filter({ hasText: name }).first().click());
}
async function choose(label: string, option: string): Promise<void> {
  await act(page.getByRole('combobox', { name: label }).click());
  await act(page.getByRole('option', { name: option, exact: true }).click());
}
async function pick(what: string, choice: string): Promise<void> {
  await button(new RegExp(`^${what}: `)).click();
  await page.getByRole('menuitem', { name: choice, exact: true }).click();
}
/** The shortcut keeps what is pending under a name; with Shift it also makes a variant. */
async function quickKeep(name: string, variant: boolean): Promise<void> {
  await act(page.keyboard.press('Control+Enter'));
  const field = page.getByLabel(/^Name to keep/);
  await field.fill(name);
  await act(field.press(variant ? 'Shift+Enter' : 'Enter'));
  // what was kept is the destination as soon as the field is gone
  await field.waitFor({ state: 'detached' });
}
async function enter(label: string, value: string): Promise<void> {
  const f = page.getByLabel(label, { exact: true });
  await f.fill(value);
  await act(f.press('Enter'));
}
const stage = async () => {
  await page.goto(`${app.base}/projects/${id}/stage`);
  await page.locator('[data-loaded=yes]').waitFor();
};
const unfold = async (title: string) => {
  const fold = button(title);
  if ((await fold.getAttribute('aria-expanded')) === 'false') await fold.click();
};
async function fresh(name: string): Promise<void> {
  id = (await send<Project>('POST', '/api/projects', { name })).id;
  await send('POST', `/api/projects/${id}/scene?fileName=tea-stall.glb`, stall);
  await send('POST', `/api/projects/${id}/recorded`, { destination: 'base', set: [OPEN] });
  await stage();
}
/** The shutters are up, so that the camera sees the ware. */
const OPEN = { target: 'object:Harvest fair/Shutters', property: 'object.shown', value: false };
let stall: Uint8Array;

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--no-demo');
  stall = await smallStall();
  browser = await openBrowser();
  page = await openPage(browser);
  errors = watch(page);
  page.setDefaultTimeout(30_000);
});
afterAll(async () => {
  await browser?.close();
  await app?.stop();
  if (home) await dropHome(home);
});
afterEach(async ({ task }) => {
  if (task.result?.state === 'fail' && process.env['SHOTS'])
    await page.screenshot({ path: `${process.env['SHOTS']}/${task.name.slice(0, 40).replace(/\W+/g, '-')}.png` });
});

describe('two colours in two cameras', () => {
  it('are recorded in ten actions, and render as such', async () => {
    await fresh('Two colours');
    actions = 0;
    await select('Kettle, large');
    await choose('Kettle, large, Material', 'Celadon');
    await quickKeep('Celadon', true);
    await choose('Kettle, large, Material', 'Indigo enamel');
    await quickKeep('Indigo', true);
    process.stdout.write(`actions for two colours in two cameras: ${actions}\n`);
    expect(actions).toBeLessThan(12);
    const p = await project();
    expect(p.options.map((o) => [o.facet, o.name, o.changes.map((c) => c.value)])).toEqual([
      ['materials', 'Celadon', ['Celadon']],
      ['materials', 'Indigo', ['Indigo enamel']],
    ]);
    expect(p.variants.map((v) => [v.name, v.optionIds.length])).toEqual([
      ['Base', 0],
      ['Celadon', 1],
      ['Indigo', 1],
    ]);
    // small frames, so that four cells take a moment
    const cameras = p.cameras.filter((c) => ['Counter, close', 'Kettle square'].includes(c.name));
    const cells = cameras.flatMap((c) => p.variants.slice(1).map((v) => ({ cameraId: c.id, variantId: v.id })));
    for (const c of cameras)
      await send('PATCH', `/api/projects/${id}/cameras/${c.id}`, {
        settings: {
          ...c.settings,
          widthPx: Math.round(c.settings.widthPx / 4),
          heightPx: Math.round(c.settings.heightPx / 4),
        },
      });
    await send('POST', `/api/projects/${id}/batches`, { cells, profileId: 'sketch' });
    await until(async () => (await board()).filter((c) => c.status === 'current').length === 4, 200);
    // the kettle is greenish in one and blue in the other, in the square that it fills
    const middle = async (variant: string) => {
      const c = (await board()).find(
        (x) =>
          x.cameraId === cameras.find((k) => k.name === 'Kettle square')!.id &&
          x.variantId === p.variants.find((v) => v.name === variant)!.id,
      )!;
      const png = new Uint8Array(
        await (await fetch(`${app.base}/api/renders/${c.render!.id}/files/png`)).arrayBuffer(),
      );
      return (await sharp(png).extract({ left: 50, top: 58, width: 27, height: 22 }).stats()).channels.map(
        (x) => x.mean,
      );
    };
    const [green, blue] = [await middle('Celadon'), await middle('Indigo')];
    expect(green[1]! / green[2]!).toBeGreaterThan(1.08 * (blue[1]! / blue[2]!));
  });
  it('and 5 cameras × 12 variants take not many more', async () => {
    actions = 0;
    // two more colours and three lightings, then all combinations
    for (const [material, name] of [
      ['Cast iron', 'Iron'],
      ['Brass', 'Brass'],
    ] as const) {
      await choose('Kettle, large, Material', material);
      await quickKeep(name, false);
    }
    await select('Counter lamp');
    await act(pick('Edits go to', 'the base'));
    for (const [value, name] of [
      ['40', 'Strong'],
      ['12', 'Middling'],
      ['2', 'Faint'],
    ] as const) {
      await enter('Counter lamp, Strength', value);
      await quickKeep(name, false);
    }
    await act(page.getByRole('link', { name: 'Board' }).click());
    await act(button('Combine…').click());
    for (const name of ['Strong', 'Middling', 'Faint', 'Celadon', 'Indigo', 'Iron', 'Brass'])
      await act(page.getByRole('checkbox', { name, exact: true }).click());
    await page.getByText('3 × 4 = 12 combinations').waitFor();
    await act(button('Make 12 variants').click());
    await until(async () => (await project()).variants.length === 15);
    process.stdout.write(`more actions for 5 cameras × 12 variants: ${actions}\n`);
    expect(actions).toBeLessThan(45);
    expect((await project()).variants.at(-1)!.name).toBe('Faint · Brass');
  });
});

describe('an object hidden for one camera', () => {
  it('stays in its layer and in all other cameras', async () => {
    await fresh('Hidden for one');
    const before = new Map((await board()).map((c) => [c.cameraId, c.hash]));
    const cameras = (await project()).cameras;
    await pick('Camera', 'Kettle square');
    await pick('Edits go to', 'this camera only');
    await select('Kettle, small');
    const layer = await page.getByRole('treeitem').filter({ hasText: 'Kettle, small' }).first().textContent();
    await page.getByRole('switch', { name: 'Kettle, small, Shown' }).click({ force: true });
    await button('Keep 1 change').click();
    await until(async () => (await project()).patches.length === 1);
    const p = await project();
    const changed = (await board())
      .filter((c) => before.get(c.cameraId) !== c.hash)
      .map((c) => cameras.find((k) => k.id === c.cameraId)!.name);
    expect(changed).toEqual(['Kettle square']);
    expect([p.base, p.options, p.patches[0]!.changes]).toEqual([
      [OPEN],
      [],
      [{ target: 'object:Harvest fair/Ware/Kettle, small', property: 'object.shown', value: false }],
    ]);
    expect(await page.getByRole('treeitem').filter({ hasText: 'Kettle, small' }).first().textContent()).toBe(layer);
    // one click takes it back out, and all is as before
    await button(/^Clear Kettle, small, shown/).click();
    await until(async () => (await project()).patches.length === 0);
    expect(new Map((await board()).map((c) => [c.cameraId, c.hash]))).toEqual(before);
  });
});

describe('quick hands on a slow page', () => {
  const slowed = async (rate: number) => {
    const s = await page.context().newCDPSession(page);
    await s.send('Emulation.setCPUThrottlingRate', { rate });
    await s.detach();
  };
  const field = () => page.getByLabel('Counter lamp, Strength', { exact: true });
  const pending = async () => (await project()).pending.map((x) => [x.destination, x.changes.map((c) => c.value)]);
  it('an edit belongs where the sentence was told a moment before', async () => {
    await fresh('Quick hands');
    await send('POST', `/api/projects/${id}/options`, { facet: 'lighting', name: 'Evening' });
    await pick('Edits go to', 'Lighting: Evening');
    await select('Counter lamp');
    await slowed(6);
    await pick('Edits go to', 'the base');
    await enter('Counter lamp, Strength', '40');
    await page.keyboard.press('Control+Enter');
    await page.getByLabel(/^Name to keep/).waitFor();
    await slowed(1);
    await page.keyboard.press('Escape');
    await until(async () => (await pending()).length > 0);
    expect(await pending()).toEqual([['base', [40]]]);
  });
  it('what is being typed stays while the value changes elsewhere; Escape leaves it, the view takes it', async () => {
    await field().fill('77');
    const lamp = (await project()).pending[0]!.changes[0]!;
    await send('POST', `/api/projects/${id}/pending`, {
      destination: 'base',
      set: [{ ...lamp, value: 21 }],
      clear: [],
    });
    await page.getByLabel('Pending edits').getByText(/21/).waitFor();
    expect(await field().inputValue()).toMatch(/^77/);
    await field().press('Escape');
    expect(await field().inputValue()).toMatch(/^21 /);
    expect(await pending()).toEqual([['base', [21]]]);
    await field().fill('55');
    await page
      .locator('section[aria-label=View] canvas')
      .first()
      .click({ position: { x: 12, y: 12 } });
    await until(async () => (await pending())[0]![1]![0] === 55);
  });
  it('the shortcut takes what was typed first, and a name entered twice is kept once', async () => {
    await select('Counter lamp');
    await field().fill('61');
    await field().press('Control+Enter');
    const name = page.getByLabel(/^Name to keep/);
    await name.fill('Bright');
    await name.focus();
    await Promise.all([page.keyboard.press('Enter'), page.keyboard.press('Enter')]);
    await name.waitFor({ state: 'detached' });
    expect((await project()).options.map((o) => [o.name, o.changes.map((c) => c.value)])).toEqual([
      ['Evening', []],
      ['Bright', [61]],
    ]);
    // in the tree, too, where Enter alone would turn the camera
    await select('Counter lamp');
    await page.keyboard.press('Control+Enter');
    await page.getByText('Nothing is pending here').waitFor();
    expect(await page.getByText('is locked.').count()).toBe(0);
  });
});

describe('exploded, drawn and in a row', () => {
  const picture = async () =>
    (await page.locator('section[aria-label=View] canvas').first().screenshot()).toString('base64');
  it('are three looks of one scene, flipped through by a key', async () => {
    await fresh('Three looks');
    await pick('Camera', 'Counter, close');
    await select('Ware');
    await unfold('Explode');
    await enter('Ware, Exploded by', '0.6');
    await quickKeep('Exploded', true);
    await inVariant('Exploded');
    await pick('Variant', 'Base');
    await pick('Edits go to', 'the base');
    await choose('Ware, Drawn as', 'Flat steps and ink');
    await quickKeep('Drawn', true);
    await inVariant('Drawn');
    await pick('Variant', 'Base');
    await pick('Edits go to', 'the base');
    await select('Kettle, small');
    await unfold('Copies');
    await choose('Kettle, small, Copies', 'Rows and grid');
    await enter('Kettle, small, Apart by X', '-0.3');
    await quickKeep('Row', true);
    await inVariant('Row');
    expect((await project()).options.map((o) => [o.facet, o.name, o.changes.length])).toEqual([
      ['placement', 'Exploded', 1],
      ['materials', 'Drawn', 1],
      ['placement', 'Row', 2],
    ]);
    await pick('Edits go to', 'the base');
    await pick('Variant', 'Base');
    const seen = new Map<string, string>();
    for (const name of ['Base', 'Exploded', 'Drawn', 'Row']) {
      await inVariant(name);
      await settled();
      seen.set(await picture(), name);
      await page.keyboard.press('.');
    }
    expect([...seen.values()]).toEqual(['Base', 'Exploded', 'Drawn', 'Row']); // four different pictures
    await inVariant('Base');
  });
  it('the whole scene is drawn as clay, and the view shows its grade at once', async () => {
    /** How far red, green and blue lie apart, on average over the middle of the view. */
    const colourfulness = async () => {
      const png = await page.locator('section[aria-label=View] canvas').first().screenshot();
      const { width, height } = await sharp(png).metadata();
      const raw = await sharp(png)
        .removeAlpha()
        .extract({ left: width >> 2, top: height >> 2, width: width >> 1, height: height >> 1 })
        .raw()
        .toBuffer();
      let sum = 0;
      for (let i = 0; i < raw.length; i += 3)
        sum += Math.max(raw[i]!, raw[i + 1]!, raw[i + 2]!) - Math.min(raw[i]!, raw[i + 1]!, raw[i + 2]!);
      return sum / (raw.length / 3);
    };
    await pick('Variant', 'Base');
    await pick('Edits go to', 'the base');
    await settled();
    const plain = await colourfulness();
    await button('Grade').click();
    await enter('Grade, Saturation', '0');
    await until(async () => (await colourfulness()) < plain / 8, 20);
    await button('Discard').click();
    await until(async () => (await colourfulness()) > plain * 0.95, 20);
    await button('Whole scene').click();
    await choose('Whole scene, Drawn as', 'Clay');
    await until(async () => (await colourfulness()) < plain * 0.8, 20);
    expect((await project()).pending).toEqual([
      expect.objectContaining({
        destination: 'base',
        changes: [{ target: 'scene', property: 'scene.drawn', value: 'clay' }],
      }),
    ]);
    await button('Discard').click();
    await until(async () => (await project()).pending.length === 0);
    // where copies are, the tree says
    await pick('Variant', 'Row');
    await page.getByLabel('Find in the scene').fill('Kettle, small');
    await page
      .getByRole('treeitem')
      .filter({ hasText: /Kettle, small.*and \d+ cop(y|ies)/ })
      .first()
      .click();
  });
  it('a copy wears another material, and drops onto what lies below', async () => {
    await pick('Variant', 'Row');
    await pick('Edits go to', 'the base');
    await page.getByRole('combobox', { name: 'Copy 2, material' }).click();
    await page.getByRole('option', { name: 'Copper', exact: true }).click();
    await until(async () =>
      (await project()).pending.some((x) =>
        x.changes.some((c) => c.target === 'object:Harvest fair/Ware/Kettle, small#2' && c.value === 'Copper'),
      ),
    );
    await enter('Kettle, small, Move Y', '0.5');
    await button('Drop what is selected').click();
    // half a metre up, and down again to where it stood: it stands on the counter
    await until(async () => {
      const c = (await project()).pending.flatMap((x) => x.changes).find((x) => x.property === 'object.offset');
      return c !== undefined && Math.abs((c.value as number[])[1]!) < 0.02;
    });
    await button('Discard').click();
    await until(async () => (await project()).pending.length === 0);
  });
});

describe('four lightings', () => {
  it('are pictured side by side, compared, and copied across', async () => {
    await fresh('Four lightings');
    await pick('Camera', 'Kettle square');
    for (const [name, changes] of [
      ['Strong', [['light.intensity', 60]]],
      [
        'Warm',
        [
          ['light.temperature', 2400],
          ['light.intensity', 20],
        ],
      ],
      ['Cold', [['light.temperature', 12_000]]],
      ['Off', [['light.on', false]]],
    ] as const)
      await send('POST', `/api/projects/${id}/options`, {
        facet: 'lighting',
        name,
        changes: changes.map(([property, value]) => ({
          target: 'light:Harvest fair/Lights/Counter lamp',
          property,
          value,
        })),
      });
    await page.getByRole('tab', { name: 'Lighting' }).click();
    const cards = page.locator('section[aria-label=Options] [aria-pressed][data-picture=yes] canvas');
    await expect.poll(() => cards.count(), { timeout: 90_000 }).toBe(5); // with the base
    const light = async (c: Locator) =>
      c.evaluate((x) => {
        const k = x as HTMLCanvasElement;
        const { data } = k.getContext('2d')!.getImageData(0, 0, k.width, k.height);
        const sum = [0, 0, 0];
        data.forEach((v, i) => {
          if (i % 4 < 3) sum[i % 4]! += v;
        });
        return sum;
      });
    const [, strong, warm, cold, off] = await Promise.all([0, 1, 2, 3, 4].map((i) => light(cards.nth(i))));
    expect(strong![1]!).toBeGreaterThan(1.1 * off![1]!);
    expect(warm![0]! / warm![2]!).toBeGreaterThan(1.1 * (cold![0]! / cold![2]!));
    await button('More for Strong').click();
    await page.getByRole('menuitem', { name: 'Compare with…' }).click();
    await page.getByText(/^2 differences/).waitFor();
    await page.getByText('60 cd').waitFor();
    await button('Copy Counter lamp, strength from Strong to Warm').click();
    await page.getByText(/^1 difference/).waitFor();
    expect(
      (await project()).options.find((o) => o.name === 'Warm')!.changes.find((c) => c.property === 'light.intensity')!
        .value,
    ).toBe(60);
    await page.keyboard.press('Escape');
  });
});

describe('an edit with the wrong destination', () => {
  it('is caught, goes where the person says, is moved, and undone', async () => {
    await button(/^Strong/).click();
    await select('Kettle, large');
    await page.getByRole('switch', { name: 'Kettle, large, Shown' }).click({ force: true });
    await page.getByText('Shown belongs to Visibility').waitFor();
    expect((await project()).pending).toEqual([]);
    await button('this camera only').click();
    await goesTo('this camera only');
    await page.getByText('1 pending').waitFor();
    await pick('Edits go to', 'the base');
    await button('1 elsewhere').click();
    await page.getByRole('checkbox', { name: /^Kettle, large, shown in Kettle square only/ }).click();
    await page.getByRole('combobox', { name: 'Move to' }).click();
    await page.getByRole('option', { name: 'the base' }).click();
    await until(async () => (await project()).pending[0]?.destination === 'base');
    await page.keyboard.press('Escape');
    await button('Keep 1 change').click();
    await until(async () => (await project()).base.length === 2);
    await button('History').click();
    await page.getByRole('button', { name: /^Move pending edits/ }).waitFor();
    await page
      .getByRole('list', { name: 'Edits' })
      .getByRole('button', { name: /^Set Counter lamp, strength/ })
      .click();
    await until(async () => {
      const p = await project();
      return p.base.length === 1 && p.pending.length === 0;
    });
    await page.keyboard.press('Escape');
  });
  it('two windows see each other’s edits at once, and neither overwrites the other', async () => {
    const other = await page.context().newPage();
    await other.goto(page.url());
    await other.locator('[data-loaded=yes]').waitFor();
    await page.bringToFront();
    await pick('Edits go to', 'the base');
    await select('Counter lamp');
    await enter('Counter lamp, Strength', '33');
    await until(async () => (await project()).pending.length === 1);
    await other.getByText('1 elsewhere').or(other.getByText('1 pending')).first().waitFor();
    await other.close();
    await button('Discard').click();
  });
});

describe('a look for another project', () => {
  it('goes through the library to a scene with other names, with a report', async () => {
    await button('More for Warm').click();
    await page.getByRole('menuitem', { name: 'Save for other projects…' }).click();
    await page.getByRole('checkbox', { name: 'Off', exact: true }).click();
    await button('Save 2 options to the library').click();
    await until(async () => (await get<unknown[]>('/api/library')).length === 1);
    const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
    const d = await io.readBinary(stall);
    const nodes = d.getRoot().listNodes();
    nodes.find((n) => n.getName() === 'Counter lamp')!.setName('Lamp over the counter');
    const other = (await send<Project>('POST', '/api/projects', { name: 'Spring market' })).id;
    await send('POST', `/api/projects/${other}/scene?fileName=market.glb`, await io.writeBinary(d));
    await page.getByRole('link', { name: 'Library', exact: true }).click();
    await pick('Project', 'Spring market');
    await button('Import Warm').click();
    await page.getByText('0 objects of 1 found, 1 not').waitFor();
    await page.getByRole('combobox', { name: 'What Counter lamp is here' }).fill('over the counter');
    await page.getByRole('option', { name: /Lamp over the counter/ }).click();
    await page.getByText('1 object of 1 found').waitFor();
    await button('Import 2 options').click();
    await page.getByText(/^Looking through/).waitFor();
    const p = await get<Project>(`/api/projects/${other}`);
    expect(p.options.map((o) => [o.name, o.changes.map((c) => c.target)])).toEqual([
      ['Warm', Array(2).fill('light:Harvest fair/Lights/Lamp over the counter')],
      ['Off', ['light:Harvest fair/Lights/Lamp over the counter']],
    ]);
  });
  it('shows no error in the browser on the way', () => {
    expect(errors).toEqual([]);
  });
});
