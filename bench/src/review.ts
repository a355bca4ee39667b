// How long people wait the morning after: a hundred pictures opened, two of 3840 pixels held against each other by a
// line, the value under the pointer, sixty pictures of 1920 × 1080 graded anew.
import { randomUUID } from 'node:crypto';
import { makeTeaStall } from '@variscen/demo';
import type { Page } from 'playwright-core';
import { bytesOf, getFrom, projectWith, sendTo, withApplication } from './application.ts';
import type { Emit } from './figure.ts';

const VARIANTS = 50;
const DEVELOPED = 60;
const HD = { widthPx: 1920, heightPx: 1080 };
const LARGE = { widthPx: 3840, heightPx: 2160 };

interface Made {
  readonly cameras: readonly { readonly id: string; readonly name: string; readonly settings: object }[];
  readonly variants: readonly { readonly id: string; readonly name: string }[];
}

export async function reviewSuite(emit: Emit): Promise<void> {
  await withApplication(async ({ base, page, serverPid }) => {
    const id = await projectWith(base, 'Harvest fair', await makeTeaStall('light'));
    const made = await render(base, id);
    await openHundred(page, base, id, emit);
    await probe(page, emit);
    await wipe(page, base, id, made, emit);
    await develop(base, id, made, serverPid, emit);
  });
}

/** Fifty grades of two cameras, which two traces serve, and two of a third at 3840 pixels. */
async function render(base: string, id: string): Promise<Made> {
  const post = sendTo(base, id, 'POST');
  const { cameras } = await getFrom<Made>(base, id);
  for (const [i, c] of cameras.slice(0, 3).entries())
    await sendTo(base, id, 'PATCH')(`/cameras/${c.id}`, { settings: { ...c.settings, ...(i < 2 ? HD : LARGE) } });
  const [first] = (await getFrom<Made>(base, id)).variants;
  for (let i = 1; i < VARIANTS; i++) {
    const changes = [{ target: 'grade', property: 'grade.exposure', value: i / 25 - 1 }];
    const options = [{ facet: 'grade', name: `Print ${i}`, changes }];
    await post('/options/together', { options, variant: { fromVariantId: first!.id, name: `Print ${i}` } });
  }
  const made = await getFrom<Made>(base, id);
  const cells = made.cameras
    .slice(0, 3)
    .flatMap((c, i) => made.variants.slice(0, i < 2 ? VARIANTS : 2).map((v) => ({ cameraId: c.id, variantId: v.id })));
  const profileId = randomUUID();
  const answer = await fetch(`${base}/api/profiles`);
  const { id: _, ...sketch } = ((await answer.json()) as { own: { id: string }[] }).own[0]!;
  await put(`${base}/api/projects/${id}/profiles/${profileId}`, {
    ...sketch,
    name: 'Whole',
    sizeFactor: 1,
    samples: 1,
  });
  await post('/batches', { cells, profileId });
  await until(async () => (await boardOf(base, id)).filter((c) => c.render).length === cells.length);
  return made;
}
async function put(url: string, body: unknown): Promise<void> {
  const headers = { 'content-type': 'application/json' };
  const answer = await fetch(url, { method: 'PUT', headers, body: JSON.stringify(body) });
  if (!answer.ok) throw new Error(`${url}: ${answer.status} ${await answer.text()}`);
}
async function boardOf(base: string, id: string): Promise<{ render: { version: number } | null }[]> {
  const answer = await fetch(`${base}/api/projects/${id}/board`);
  return ((await answer.json()) as { cells: { render: { version: number } | null }[] }).cells;
}
async function until(what: () => Promise<boolean>): Promise<void> {
  // asking for the board takes a processor, too
  while (!(await what())) await new Promise((r) => setTimeout(r, 1000));
}

/**
 * From the click to the first picture, whole, and the small ones of all that are in sight, as the page itself sees it:
 * what the browser is driven by takes a while to click, and to look.
 */
async function openHundred(page: Page, base: string, id: string, emit: Emit): Promise<void> {
  await page.goto(`${base}/projects/${id}/review`);
  await page.locator('canvas[data-whole=yes]').waitFor();
  const times: number[] = [];
  for (let i = 0; i < 5; i++) {
    await page.goto(`${base}/projects/${id}/board`);
    await page.getByRole('grid').waitFor();
    await page.evaluate(() => {
      const small = () => [...document.querySelectorAll<HTMLImageElement>('[role=option] img')];
      const isThere = () => document.querySelector('canvas[data-whole=yes]') && small().every((x) => x.complete);
      const opened = new Promise<number>((resolve) => {
        const onClick = ({ timeStamp }: MouseEvent) => {
          const look = () => {
            if (isThere()) resolve(performance.now() - timeStamp);
            else requestAnimationFrame(look);
          };
          look();
        };
        addEventListener('click', onClick, { once: true, capture: true });
      });
      Object.assign(window, { opened });
    });
    await page.getByRole('link', { name: 'Review' }).click();
    times.push(await page.evaluate(() => (window as unknown as { opened: Promise<number> }).opened));
    await page.waitForTimeout(2000); // what is made ready for the next picture is done
  }
  emit({ name: 'open-100', value: middle(times), unit: 'ms' });
}

/** From the pointer's move to the value of what is under it. */
async function probe(page: Page, emit: Emit): Promise<void> {
  const times = await page.evaluate(async () => {
    const canvas = document.querySelector('canvas')!;
    const box = canvas.getBoundingClientRect();
    const said = () =>
      [...document.querySelectorAll('.mono')].map((x) => x.textContent).find((t) => t?.endsWith('shown'));
    const out: number[] = [];
    for (let i = 0; i < 40; i++) {
      const before = said();
      const at = { clientX: box.left + 200 + i * 7, clientY: box.top + 200 + i * 3, bubbles: true };
      const began = performance.now();
      canvas.dispatchEvent(new PointerEvent('pointermove', at));
      while (said() === before && performance.now() - began < 500) await new Promise((r) => setTimeout(r, 0));
      out.push(performance.now() - began);
    }
    return out;
  });
  emit({ name: 'pixel-probe', value: middle(times), unit: 'ms' });
}

/** The longest frame while a line is drawn across two pictures of 3840 pixels. */
async function wipe(page: Page, base: string, id: string, made: Made, emit: Emit): Promise<void> {
  const camera = made.cameras[2]!;
  await page.goto(`${base}/projects/${id}/review?of=camera:${camera.id}&how=one`);
  await page.locator('canvas[data-whole=yes]').waitFor();
  for (const key of ['Space', 'ArrowRight', '4']) await page.keyboard.press(key);
  const line = page.getByRole('separator');
  await line.waitFor();
  await page.waitForFunction(() => [...document.querySelectorAll('canvas')].every((c) => c.dataset['whole'] === 'yes'));
  const box = (await line.boundingBox())!;
  await page.evaluate(() => {
    const seen = { longest: 0, last: performance.now() };
    Object.assign(window, { frames: seen });
    const next = () => {
      const now = performance.now();
      seen.longest = Math.max(seen.longest, now - seen.last);
      seen.last = now;
      requestAnimationFrame(next);
    };
    requestAnimationFrame(next);
  });
  await page.mouse.move(box.x + box.width / 2, box.y + 200);
  await page.mouse.down();
  await page.waitForTimeout(300);
  await page.evaluate(() => Object.assign((window as unknown as { frames: object }).frames, { longest: 0 }));
  for (let i = 0; i < 60; i++) await page.mouse.move(box.x - 200 + i * 7, box.y + 200);
  const longest = await page.evaluate(() => (window as unknown as { frames: { longest: number } }).frames.longest);
  await page.mouse.up();
  emit({ name: 'wipe-4k-frame', value: longest, unit: 'ms' });
}

/** From the order to the last file, with the most that the server and its tasks held meanwhile. */
async function develop(base: string, id: string, made: Made, serverPid: number, emit: Emit): Promise<void> {
  const cells = made.cameras
    .slice(0, 2)
    .flatMap((c) => made.variants.slice(0, DEVELOPED / 2).map((v) => ({ cameraId: c.id, variantId: v.id })));
  const set = [{ target: 'grade', property: 'grade.contrast', value: 1.1 }];
  await put(`${base}/api/projects/${id}/grades`, { cells, set, clear: [] });
  let most = 0;
  const began = performance.now();
  await sendTo(base, id, 'POST')('/develop', { cells });
  await until(async () => {
    most = Math.max(most, await bytesOf(serverPid));
    return (await boardOf(base, id)).filter((c) => c.render?.version === 2).length === cells.length;
  });
  emit({ name: 'develop-60', value: (performance.now() - began) / 1000, unit: 's' });
  emit({ name: 'develop-60-memory', value: most / 2 ** 20, unit: 'MiB' });
}

const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;
