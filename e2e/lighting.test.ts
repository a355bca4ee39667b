// Lighting by mouse and keyboard: a model without lights from import to four lightings side by side, lights placed by
// clicks and dragged in the plan, and what of it comes out of a batch.
import { Document, WebIO } from '@gltf-transform/core';
import type { Board, Project } from '@variscen/contract';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Application,
  ask,
  dropHome,
  makeHome,
  openBrowser,
  openPage,
  smallProfile,
  startApplication,
  watch,
} from './application.ts';

let app: Application;
let browser: Browser;
let page: Page;
let errors: string[];
let home: string;
let id = '';
let actions = 0;
const get = async <T>(path: string): Promise<T> => (await (await fetch(app.base + path)).json()) as T;
const project = () => get<Project>(`/api/projects/${id}`);
const until = async (what: () => Promise<boolean>, seconds = 60) => {
  for (let i = 0; i < seconds * 4; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 250));
  }
  throw new Error('It did not come to that in time.');
};
/** A person's action: a click, a key, or something typed and entered. */
const act = async <T>(work: Promise<T>): Promise<T> => {
  actions++;
  return work;
};
const button = (name: string | RegExp) => page.getByRole('button', { name, exact: typeof name === 'string' }).first();
const pendingOf = async (property: string) =>
  (await project()).pending.flatMap((x) => x.changes.filter((c) => c.property === property));

/** A bowl on a tray, turned on a lathe: two meshes, two materials, no light and no camera. */
async function bowlOnTray(): Promise<Uint8Array> {
  const d = new Document();
  const buffer = d.createBuffer();
  const scene = d.createScene('Bowl');
  const add = (name: string, color: [number, number, number], profile: readonly (readonly [number, number])[]) => {
    const around = 24;
    const points: number[] = [];
    const corners: number[] = [];
    for (let i = 0; i <= around; i++) {
      const a = (2 * Math.PI * i) / around;
      for (const [r, y] of profile) points.push(r * Math.cos(a), y, r * Math.sin(a));
      for (let k = 0; i < around && k < profile.length - 1; k++) {
        const at = i * profile.length + k;
        const next = at + profile.length;
        corners.push(at, at + 1, next, next, at + 1, next + 1);
      }
    }
    const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>) =>
      d.createAccessor().setType(type).setArray(array).setBuffer(buffer);
    const material = d
      .createMaterial(`${name} glaze`)
      .setBaseColorFactor([...color, 1])
      .setMetallicFactor(0)
      .setRoughnessFactor(0.3)
      .setDoubleSided(true);
    const primitive = d
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', new Float32Array(points)))
      .setIndices(accessor('SCALAR', new Uint32Array(corners)))
      .setMaterial(material);
    scene.addChild(d.createNode(name).setMesh(d.createMesh(name).addPrimitive(primitive)));
  };
  add(
    'Bowl',
    [0.6, 0.3, 0.2],
    [
      [0.001, 0.01],
      [0.05, 0.01],
      [0.1, 0.05],
      [0.11, 0.1],
    ],
  );
  add(
    'Tray',
    [0.3, 0.3, 0.3],
    [
      [0.001, 0],
      [0.2, 0],
      [0.21, 0.015],
    ],
  );
  return new WebIO().writeBinary(d);
}

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--no-demo');
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

describe('a model that has no light', () => {
  it('is compared in four lightings in less than fifteen actions from its import on', async () => {
    await page.goto(app.base);
    actions = 0;
    await act(page.getByLabel('Name of the new project').fill('Bowl'));
    await act(button('Start project').click());
    const [chooser] = await Promise.all([page.waitForEvent('filechooser'), act(button('Import a scene…').click())]);
    const file = { name: 'bowl.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(await bowlOnTray()) };
    await chooser.setFiles(file);
    await act(button('Open the stage').click());
    await page.locator('[data-loaded=yes]').waitFor({ timeout: 60_000 });
    await act(button('Rigs…').click());
    const rigs = page.getByRole('listbox', { name: 'Rigs' });
    for (const name of ['Window light', 'Sweep with top light', 'Overcast'])
      await act(rigs.getByRole('option', { name, exact: true }).click({ modifiers: ['Control'] }));
    await act(button('Make 4 variants').click());
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await act(button('Side by side…').click());
    const pictures = page.getByRole('dialog').locator('canvas');
    await pictures.nth(3).waitFor({ timeout: 60_000 });
    process.stdout.write(`actions from import to four lightings side by side: ${actions}\n`);
    expect(actions).toBeLessThan(15);
    const brightness = await pictures.evaluateAll((all) =>
      (all as HTMLCanvasElement[]).map((c) => {
        const { data } = c.getContext('2d')!.getImageData(0, 0, c.width, c.height);
        return data.reduce((sum, x, i) => (i % 4 === 3 ? sum : sum + x), 0) / (data.length * 0.75);
      }),
    );
    expect(new Set(brightness.map((x) => x.toFixed(0))).size).toBeGreaterThan(2);
    expect(Math.min(...brightness)).toBeGreaterThan(5);
    id = /projects\/([^/]+)/.exec(page.url())![1]!;
    const { variants, options } = await project();
    expect(variants.map((v) => v.name)).toEqual(
      expect.arrayContaining(['Three soft boxes', 'Window light', 'Sweep with top light', 'Overcast']),
    );
    expect(options.filter((o) => o.facet === 'lighting')).toHaveLength(3); // under an overcast sky no light stands
    await button('Take Three soft boxes').click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await button('Variant: Three soft boxes').waitFor();
    expect(errors).toEqual([]);
  });

  it('gets a light by a click, a mirrored one, one that follows the bowl, and Delete takes them away', async () => {
    await button(/^Edits go to: /).click();
    await page.getByRole('menuitem', { name: 'Lighting: Three soft boxes', exact: true }).click();
    await button('Add a light').click();
    await page.getByRole('menuitem', { name: /^Spot light/ }).click();
    await page.getByRole('status').getByText('Click what it should light').waitFor();
    const canvas = (await page.locator('section[aria-label=View] canvas').first().boundingBox())!;
    const middle = [canvas.x + canvas.width / 2, canvas.y + canvas.height / 2] as const;
    await page.mouse.click(...middle);
    const row = (name: string) => page.getByRole('treeitem').filter({ has: page.getByText(name, { exact: true }) });
    await row('Spot').waitFor();
    await until(async () => (await pendingOf('light.added')).length === 1);

    const ies = 'IESNA:LM-63-2002\nTILT=NONE\n1 -1 1 3 1 1 2 0 0 0\n1 1 30\n0 45 90\n0\n900 450 0';
    const file = { name: 'Downlight.ies', mimeType: 'text/plain', buffer: Buffer.from(ies) };
    await page.getByLabel('Spot, Shape of light, map').setInputFiles(file);
    await until(async () => (await pendingOf('light.profile')).some((c) => String(c.value).endsWith(':Downlight')));
    await page.getByLabel('Spot, Shape of light, map').setInputFiles({ ...file, buffer: Buffer.from('cube') });
    await page.getByText('This is no IES file').waitFor();

    await button('Mirror').click();
    await row('Spot 2').waitFor();
    await button('Aim at…').click();
    await page.mouse.click(...middle);
    await until(async () => (await pendingOf('light.aimAt')).some((c) => c.value === 'Bowl' || c.value === 'Tray'));

    await button('Highlight here…').click();
    await page.keyboard.press('Escape');
    await page.getByRole('status').getByText('Click where its highlight').waitFor({ state: 'detached' });
    await button('Rename…').click();
    await page.getByLabel('Name', { exact: true }).fill('Rim');
    await button('Rename light').click();
    await row('Rim').waitFor();
    await page.locator('section[aria-label=View]').press('Delete');
    await row('Rim').waitFor({ state: 'detached' });
    expect((await pendingOf('light.added')).map((c) => c.target)).toEqual(['light:+spot/Spot']);
    expect(errors).toEqual([]);
  });

  it('has that light dragged in the plan', async () => {
    await page
      .getByRole('treeitem')
      .filter({ has: page.getByText('Spot', { exact: true }) })
      .click();
    type Offset = readonly [number, number, number];
    const offset = async () => (await pendingOf('light.offset'))[0]!.value as Offset;
    const before = await offset();
    await button('Plan view').click();
    const plan = page.locator('section[aria-label="Plan view"] canvas[data-px-per-m]');
    await button('Show all').click();
    const box = (await plan.boundingBox())!;
    const pxPerM = Number(await plan.getAttribute('data-px-per-m'));
    const [x, y] = (await plan.getAttribute('data-middle'))!.split(' ').map(Number) as [number, number];
    // seen from above, −Z is up on the page
    const at = [
      box.x + box.width / 2 + (before[0] - x) * pxPerM,
      box.y + box.height / 2 - (-before[2] - y) * pxPerM,
    ] as const;
    await page.mouse.move(...at);
    await page.mouse.down();
    await page.mouse.move(at[0] + 40, at[1] - 20, { steps: 5 });
    await page.mouse.up();
    await until(async () => (await offset())[0] !== before[0]);
    const after = await offset();
    expect((after[0] - before[0]) * pxPerM).toBeCloseTo(40, 0);
    expect(after[1]).toBe(before[1]);
    expect((after[2] - before[2]) * pxPerM).toBeCloseTo(-20, 0);
    await button('Plan view').click();
    expect(errors).toEqual([]);
  });

  it('has all its lights turned and warmed together, each as one step', async () => {
    await button('More for Three soft boxes').click();
    await page.getByRole('menuitem', { name: 'Select its lights' }).click();
    await page.getByText('3 lights').waitFor();
    const changes = async () => (await project()).pending.flatMap((p) => p.changes);
    const before = await changes();
    const slider = page.getByRole('slider', { name: 'Rotation' });
    const grip = (await slider.boundingBox())!;
    await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2);
    await page.mouse.down();
    await page.mouse.move(grip.x + 20, grip.y + grip.height / 2, { steps: 6 });
    await page.mouse.up();
    await until(async () => (await pendingOf('light.turn')).some((c) => c.target === 'light:+rectangle/Fill'));
    await page.getByRole('slider', { name: 'Warmth' }).press('ArrowRight');
    await until(async () => (await pendingOf('light.temperature')).length > 0);
    expect((await pendingOf('light.offset')).map((c) => c.target)).toEqual(
      expect.arrayContaining(['Back', 'Fill', 'Key'].map((n) => `light:+rectangle/${n}`)),
    );
    for (let step = 0; step < 2; step++) {
      const { length } = await changes();
      await page.keyboard.press('Control+z');
      await until(async () => (await changes()).length < length);
    }
    expect(await changes()).toEqual(before);
    expect(errors).toEqual([]);
  });

  it('has panels that are bright in the middle, by a picture that is made here', async () => {
    const field = page.getByRole('combobox', { name: /Picture$/ });
    await field.click();
    await page.getByRole('option', { name: 'Bright middle, edge at half' }).click();
    await until(async () => (await pendingOf('light.picture')).length === 3);
    const [value] = new Set((await pendingOf('light.picture')).map((c) => String(c.value)));
    expect(value).toMatch(/Bright middle, edge at half/);
    await until(async () => (await field.inputValue()).startsWith('Bright middle'));
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await until(async () => (await pendingOf('light.picture')).length === 0);
    expect(errors).toEqual([]);
  });

  it('has its lights mixed in the view: nothing is recorded until the mix is kept, as edits or as a variant', async () => {
    await button('Mix lights').click();
    const mixer = page.getByRole('region', { name: 'Mix lights' });
    const key = mixer.getByRole('group', { name: 'Key', exact: true });
    await key.getByRole('slider').focus();
    for (let n = 0; n < 10; n++) await page.keyboard.press('ArrowRight'); // a tenth of a stop each
    await mixer.getByRole('group', { name: 'Fill', exact: true }).getByRole('button', { name: 'Off' }).click();
    await mixer.getByText('with 2 values changed').waitFor();
    expect(await pendingOf('light.on')).toEqual([]);
    const { variants, options } = await project();
    await mixer.getByLabel('Keep as').fill('Key alone');
    await mixer.getByRole('button', { name: 'Make a variant with it' }).click();
    await until(async () => (await project()).variants.length === variants.length + 1);
    const [made] = (await project()).options.filter((o) => !options.some((was) => was.id === o.id));
    expect(made).toMatchObject({ facet: 'lighting', name: 'Key alone' });
    const strengthIn = (o: typeof made) =>
      o!.changes.find((c) => c.target.endsWith('/Key') && c.property === 'light.intensity')!.value as number;
    const before = options.find((o) => o.facet === 'lighting' && o.name === 'Three soft boxes');
    expect(strengthIn(made) / strengthIn(before)).toBeCloseTo(2, 3);
    expect(made!.changes).toContainEqual({ target: 'light:+rectangle/Fill', property: 'light.on', value: false });

    // where it belongs is asked: unanswered, the mix stays as it is
    await button(/^Edits go to/).click();
    await page
      .getByRole('menuitem', { name: /^Environment/ })
      .first()
      .click();
    await key.getByRole('button', { name: 'Off' }).click();
    await mixer.getByRole('button', { name: 'Make pending edits' }).click();
    const question = page.getByRole('dialog').filter({ hasText: /belongs to Lighting|should On go/ });
    await question.waitFor();
    await page.keyboard.press('Escape');
    await question.waitFor({ state: 'detached' });
    expect(await pendingOf('light.on')).toEqual([]);
    await mixer.getByText('with 1 value changed').waitFor();
    await mixer.getByRole('button', { name: 'Make pending edits' }).click();
    await question
      .getByRole('button', { name: /^Lighting/ })
      .first()
      .click();
    await until(async () => (await pendingOf('light.on')).some((c) => c.target === 'light:+rectangle/Key'));
    await key.waitFor({ state: 'detached' }); // it is off in the look now
    await mixer.getByRole('button', { name: 'Close' }).click();
    await page.keyboard.press('Control+z');
    await until(async () => (await pendingOf('light.on')).length === 0);
    expect(errors).toEqual([]);
  });

  it('comes out of a batch lit as its look says', async () => {
    await button(/^Keep \d+ changes$/).click();
    await until(async () => (await project()).pending.length === 0);
    const { variants, cameras } = await project();
    const cells = variants.map((v) => ({ cameraId: cameras[0]!.id, variantId: v.id }));
    const profileId = await smallProfile(app.base, id);
    await ask(app.base, 'POST', `/api/projects/${id}/batches`, { cells, profileId });
    const rendered = async () => (await get<Board>(`/api/projects/${id}/board?profileId=${profileId}`)).cells;
    await until(async () => (await rendered()).every((c) => c.status === 'current'), 180);
    const brightness = new Map<string, number>();
    for (const c of await rendered()) {
      const png = await (await fetch(`${app.base}/api/renders/${c.render!.id}/files/thumbnail`)).arrayBuffer();
      const { channels } = await sharp(Buffer.from(png)).stats();
      brightness.set(variants.find((v) => v.id === c.variantId)!.name, channels[0]!.mean);
    }
    expect(brightness.get('Sweep with top light')!).toBeGreaterThan(brightness.get('Window light')! * 1.5);
    expect(Math.min(...brightness.values())).toBeGreaterThan(5);
  });

  it('has single lights of a finished picture mixed without rendering, and kept as a variant that renders so', async () => {
    const send = (method: string, path: string, body: object) =>
      fetch(app.base + path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    const at = `/api/projects/${id}`;
    const { variants, cameras } = await project();
    const variant = variants.find((v) => v.name === 'Three soft boxes') ?? variants.at(-1)!;
    const [sketch] = (await get<{ own: Record<string, unknown>[] }>('/api/profiles')).own;
    const { id: _, ...settings } = sketch!;
    const profileId = '00000000-0000-4000-8000-0000000000aa';
    const wanted = {
      ...settings,
      name: 'Light by light',
      aovs: ['lightGroups'],
      lightGroups: 'lights',
      widthPx: 240,
      samples: 32,
    };
    expect((await send('PUT', `${at}/profiles/${profileId}`, wanted)).ok).toBe(true);
    const renderOf = async (variantId: string) => {
      const cell = { cameraId: cameras[0]!.id, variantId };
      expect((await send('POST', `${at}/batches`, { cells: [cell], profileId })).ok).toBe(true);
      const board = () => get<Board>(`${at}/board?profileId=${profileId}`);
      const done = async () => (await board()).cells.find((c) => c.variantId === variantId);
      await until(async () => (await done())?.status === 'current', 120);
      return (await done())!.render!.id;
    };
    await renderOf(variant.id);

    await page.getByRole('navigation').getByRole('link', { name: 'Board' }).click();
    const cell = page.getByRole('gridcell').nth(variants.indexOf(variant));
    await cell.click();
    await page.getByRole('button', { name: 'Mix its light…' }).click();
    await page.locator('canvas[data-drawn=yes]').waitFor();
    const brightness = () =>
      page.getByRole('img', { name: 'The picture as it is mixed' }).evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        let sum = 0;
        for (let i = 0; i < data.length; i += 4) sum += data[i]!;
        return sum / (data.length / 4);
      });
    const rendered = await brightness();
    const lights = page.getByRole('group', { name: 'Key' });
    for (let step = 0; step < 30; step++) await lights.getByRole('slider').press('ArrowLeft');
    await until(async () => (await brightness()) < rendered * 0.95);
    await page.getByRole('group', { name: 'Fill' }).getByRole('button', { name: 'Off' }).click();
    await page.waitForTimeout(500);
    const mixed = await brightness();
    expect(mixed).toBeLessThan(rendered);
    await page.getByLabel('Keep as').fill('Softer');
    await page.getByRole('button', { name: 'Make a variant with it' }).click();
    await page.getByText('Made: Softer').waitFor();
    const kept = (await project()).variants.find((v) => v.name === 'Softer')!;
    const png = await (await fetch(`${app.base}/api/renders/${await renderOf(kept.id)}/files/png`)).arrayBuffer();
    const { channels } = await sharp(Buffer.from(png)).stats();
    expect(channels[0]!.mean / mixed).toBeGreaterThan(0.95);
    expect(channels[0]!.mean / mixed).toBeLessThan(1.05);
    expect(errors).toEqual([]);
  });
});
