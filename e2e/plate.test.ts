// A foreign model is set into a picture of a real place: the camera is found from lines on the plate, the ground
// catches the shadow, the sky is the plate's; and the rendered file is the plate but for the things and what they take
// of its light.
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Project, Queue, Render } from '@variscen/contract';
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

const WIDTH = 960;
const HEIGHT = 540;
/** What the kettle of the sample stands on. */
const GROUND_M = 0.8;
type Vector = readonly [number, number, number];
type FramePoint = readonly [number, number];
type FrameLine = readonly [FramePoint, FramePoint];
/** Where the camera that took the plate stood and how it was turned: to the left, down. */
const EYE: Vector = [2.2, GROUND_M + 1.5, 3];
const PAN = (36 * Math.PI) / 180;
const TILT = (-12 * Math.PI) / 180;
/** Half the frame's height to its distance, of a lens of 30 mm on 36 mm. */
const HALF = ((36 / 2 / 30) * HEIGHT) / WIDTH;
const RIGHT: Vector = [Math.cos(PAN), 0, -Math.sin(PAN)];
const UP: Vector = [Math.sin(PAN) * Math.sin(TILT), Math.cos(TILT), Math.cos(PAN) * Math.sin(TILT)];
const BACK: Vector = [Math.sin(PAN) * Math.cos(TILT), -Math.sin(TILT), Math.cos(PAN) * Math.cos(TILT)];
const MATRIX = [...RIGHT, 0, ...UP, 0, ...BACK, 0, ...EYE, 1];

/** Where that camera shows a point of the world, in shares of its frame. */
function shownAt(p: Vector): FramePoint {
  const along = (axis: Vector) => axis.reduce((sum, a, k) => sum + a * (p[k]! - EYE[k]!), 0);
  const reach = -along(BACK) * HALF * 2;
  return [0.5 + (along(RIGHT) / reach) * (HEIGHT / WIDTH), 0.5 - along(UP) / reach];
}
const at = (x: number, up: number, z: number): FramePoint => shownAt([x, GROUND_M + up, z]);
const pairs: Readonly<Record<'First' | 'Second', readonly FrameLine[]>> = {
  First: [
    [at(-1, 0, 1), at(-1, 0, -2)],
    [at(1, 0.3, 1), at(1, 0.3, -2)],
  ],
  Second: [
    [at(-1, 0, 1), at(1, 0, 1)],
    [at(-1, 0.6, -1), at(1, 0.6, -1)],
  ],
};
const SKY = [100, 140, 170];
const PAVING = [128, 120, 112];

let app: Application, browser: Browser, page: Page, errors: string[], home: string, project: string;
const send = <T>(method: string, path: string, body?: unknown): Promise<T> => ask<T>(app.base, method, path, body);
async function drag(label: string, [x, y]: FramePoint): Promise<void> {
  const frame = (await page.getByRole('group', { name: 'Lines on the plate' }).boundingBox())!;
  const handle = (await page
    .getByRole('button', { name: label, exact: true })
    .locator('circle')
    .first()
    .boundingBox())!;
  await page.mouse.move(handle.x + handle.width / 2, handle.y + handle.height / 2);
  await page.mouse.down();
  await page.mouse.move(frame.x + x * frame.width, frame.y + y * frame.height, { steps: 3 });
  await page.mouse.up();
}

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--no-demo');
  const made = await send<Project>('POST', '/api/projects', { name: 'In the lane' });
  project = `/api/projects/${made.id}`;
  const model = await readFile(join(import.meta.dirname, '../core/src/import/samples/three.glb'));
  await send('POST', `${project}/scene?fileName=three.glb`, new Uint8Array(model));
  browser = await openBrowser();
  page = await openPage(browser);
  page.setDefaultTimeout(20_000);
  errors = watch(page);
  await page.goto(`${app.base}/projects/${made.id}/stage?side=cameras`);
}, 120_000);
afterAll(async () => {
  await browser?.close();
  await app?.stop();
  if (home) await dropHome(home);
});

describe('a plate', () => {
  it('says where its camera stood, by lines that are drawn on it', async () => {
    const horizon = Math.round(HEIGHT * shownAt([-1e5, EYE[1], -1e5])[1]);
    const rows = Buffer.from(
      Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i < horizon * WIDTH ? SKY : PAVING)).flat(),
    );
    const raw = { width: WIDTH, height: HEIGHT, channels: 3 } as const;
    const plate = await sharp(rows, { raw }).png().toBuffer();
    await page
      .getByLabel('Plate', { exact: true })
      .setInputFiles({ name: 'lane.png', mimeType: 'image/png', buffer: plate });
    const match = page.getByRole('button', { name: 'Match the camera to the plate…' });
    await match.waitFor();
    if (await match.isDisabled()) await page.getByRole('button', { name: 'Unlock', exact: true }).click();
    await page.getByRole('button', { name: 'Frame in the plate’s shape, 1080 px high' }).click();
    await page.getByText('1920 × 1080').first().waitFor();
    await match.click();
    for (const [pair, lines] of Object.entries(pairs))
      for (const [k, line] of lines.entries()) {
        await drag(`${pair} pair, line ${k + 1}, one end`, line[0]);
        await drag(`${pair} pair, line ${k + 1}, the other end`, line[1]);
      }
    await drag('Point on the ground', at(0, 0, 0));
    await page.getByRole('combobox', { name: 'First pair runs along' }).click();
    await page.getByRole('option', { name: '−Z, away' }).click();
    for (const [label, value] of [
      ['Eye, Eye over the ground', '1.5'],
      ['The cross is at Y', `${GROUND_M}`],
    ] as const) {
      await page.getByLabel(label).fill(value);
      await page.getByLabel(label).press('Enter');
    }
    await page
      .getByRole('status')
      .filter({ hasText: /^30(\.\d)? mm/ })
      .waitFor();
    // what was drawn is there again for who leaves it and comes back
    await page.getByRole('button', { name: 'Leave it' }).click();
    await match.click();
    await page
      .getByRole('status')
      .filter({ hasText: /^30(\.\d)? mm/ })
      .waitFor();
    // an end is moved by arrow keys, too: the lens follows
    await page.getByRole('button', { name: 'Second pair, line 1, one end', exact: true }).focus();
    for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowDown');
    await page
      .getByRole('status')
      .filter({ hasText: /^30(\.\d)? mm/ })
      .waitFor({ state: 'hidden' });
    for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowUp');
    await page.getByRole('button', { name: 'Take this camera' }).click();
    await page.getByText('The camera is matched to its plate').waitFor();
    await expect
      .poll(async () => {
        const { settings } = (await send<Project>('GET', project)).cameras[0]!;
        return Math.max(...settings.matrix.map((x, i) => Math.abs(x - MATRIX[i]!)));
      })
      .toBeLessThan(0.03);
  });

  it('takes the scene in: it lies behind all, with a ground that catches shadow under its own sky', async () => {
    await page.getByRole('button', { name: 'Set the scene into the plate' }).click();
    await page.getByRole('button', { name: 'Keep 8 changes' }).click();
    await page.getByText('Nothing pending').waitFor();
    const p = await send<Project>('GET', project);
    const value = (property: string) => p.base.find((c) => c.property === `environment.${property}`)!.value;
    expect(value('ground')).toBe(true);
    expect(value('groundAt')).toEqual([0, GROUND_M, 0]);
    expect(value('kind')).toBe('gradient');
    const [zenith, below] = ['zenith', 'below'].map((k) => value(k) as unknown as Vector);
    expect(zenith![2]).toBeGreaterThan(zenith![0]); // blue, as the plate's
    expect(below![0]).toBeGreaterThan(below![2]);

    const profileId = await smallProfile(app.base, p.id);
    const cells = [{ cameraId: p.cameras[0]!.id, variantId: p.variants[0]!.id }];
    await send('POST', `${project}/batches`, { profileId, cells });
    await expect
      .poll(async () => (await send<Queue>('GET', '/api/queue')).traces.map((t) => t.state), { timeout: 60_000 })
      .toEqual(['done']);
    const [render] = await send<Render[]>('GET', `${project}/cells/${cells[0]!.cameraId}/${cells[0]!.variantId}`);
    const file = join(home, 'output', render!.files.find((f) => f.kind === 'png')!.path);
    const { data, info } = await sharp(file).removeAlpha().raw().toBuffer({ resolveWithObject: true });
    const colorAt = ([x, y]: FramePoint) => {
      const from = (Math.floor(y * info.height) * info.width + Math.floor(x * info.width)) * 3;
      return [...data.subarray(from, from + 3)];
    };
    const apart = (a: readonly number[], b: readonly number[]) => Math.max(...a.map((c, k) => Math.abs(c - b[k]!)));
    expect(apart(colorAt([0.1, 0.04]), SKY)).toBeLessThanOrEqual(1);
    expect(apart(colorAt([0.9, 0.95]), PAVING)).toBeLessThanOrEqual(1);
    const kettle = colorAt(at(0, 0.2, 0));
    expect(apart(kettle, PAVING)).toBeGreaterThan(20);
    // beside where the kettle touches the ground
    const contact = colorAt(at(0.13, 0, 0.13));
    expect(contact[1]).toBeLessThan(PAVING[1]! - 15);
    expect(errors).toEqual([]);
  });
});
