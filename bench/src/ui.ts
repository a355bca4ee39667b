// How long people wait for the interface: the tree of 20,000 parts, an edit of five thousand objects, the view of the
// full demo while it is turned, edited and flipped through, and a board of 480 cells.
import { DEMO_BASE, DEMO_OPTIONS, DEMO_VARIANTS, makeTeaStall } from '@variscen/demo';
import type { Page } from 'playwright-core';
import { type Seen, forget, getFrom, projectWith, seenOf, sendTo, withApplication } from './application.ts';
import { bigScene } from './bigScene.ts';
import type { Emit } from './figure.ts';

const ORBIT_STEPS = 50;
const EDITS = 9;
const LIGHT_STEPS = 9;
const LIVE_FLIPS = 5;
const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

export async function uiSuite(emit: Emit): Promise<void> {
  await withApplication(async ({ base, page }) => {
    const id = await projectWith(base, 'Market', await bigScene());
    await page.goto(`${base}/projects/${id}/stage`);
    await page.getByLabel('Find in the scene').waitFor();
    await page.locator('[data-loaded=yes]').waitFor({ state: 'attached' });
    await filterTree(page, emit);
    await scrollTree(page, emit);
    await editMany(page, emit);
  });
  await withApplication(async ({ base, page }) => {
    const id = await demoProject(base);
    await page.goto(`${base}/projects/${id}/stage`);
    await page.locator('[data-loaded=yes]').waitFor({ state: 'attached' });
    await page.getByRole('tab', { name: 'All materials' }).click(); // no small pictures beside it
    await page.waitForTimeout(9000);
    await flip(page, emit);
    await editToView(page, emit);
    await orbit(page, emit);
    await liveFirst(page, emit);
    await openBoard(page, base, id, emit);
  });
}

/** The full demo with its options and variants. */
async function demoProject(base: string): Promise<string> {
  const id = await projectWith(base, 'Harvest fair', await makeTeaStall('full'));
  const post = sendTo(base, id, 'POST');
  await post('/recorded', { destination: 'base', set: DEMO_BASE });
  const made = new Map<string, string>();
  for (const o of DEMO_OPTIONS) made.set(o.name, (await post<{ id: string }>('/options', o)).id);
  for (const v of DEMO_VARIANTS.slice(1)) await post('/variants', { optionIds: v.options.map((n) => made.get(n)!) });
  // cameras of a scene come in locked; the view is turned with one that goes along
  const { cameras } = await getFrom<{ cameras: { id: string }[] }>(base, id);
  await sendTo(
    base,
    id,
    'PATCH',
  )('/cameras', {
    cameraIds: cameras.map((c) => c.id),
    handling: { locked: false },
  });
  return id;
}

/** From the key to the list that answers it, painted. */
async function filterTree(page: Page, emit: Emit): Promise<void> {
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
  emit({ name: 'tree-filter-20k', value: middle(times), unit: 'ms' });
  emit({ name: 'tree-filter-20k-slowest', value: Math.max(...times), unit: 'ms' });
}

async function scrollTree(page: Page, emit: Emit): Promise<void> {
  await page.getByLabel('Find in the scene').fill('bowl');
  await page.waitForTimeout(1500);
  const worst = await page.evaluate(
    () =>
      new Promise<number>((done) => {
        const box = document.querySelector('[role=tree]')!;
        let frames = 0;
        let worstMs = 0;
        let last = performance.now();
        const step = () => {
          const now = performance.now();
          if (frames > 0) worstMs = Math.max(worstMs, now - last);
          last = now;
          box.scrollTop += 2600;
          if (++frames < 120) requestAnimationFrame(step);
          else done(worstMs);
        };
        requestAnimationFrame(step);
      }),
  );
  emit({ name: 'tree-scroll-20k', value: worst, unit: 'ms' });
}

/** Five thousand objects at once, from the click to the word that says what is pending. */
async function editMany(page: Page, emit: Emit): Promise<void> {
  await page.getByLabel('Find in the scene').fill('row bowl 1');
  await page.waitForTimeout(1500);
  await page.getByRole('tree').focus();
  await page.keyboard.press('Control+a');
  const heading = page.getByRole('heading', { name: /selected$/ });
  await heading.waitFor();
  await page.waitForTimeout(2500); // the view draws the rim of the selection, in software, before anybody clicks
  const many = Number((await heading.innerText()).replace(/\D/g, ''));
  await page.evaluate(() => {
    (window as unknown as { painted: Promise<number> }).painted = new Promise<number>((done) => {
      window.addEventListener(
        'click',
        () => {
          const t = performance.now();
          const look = () => {
            if (document.querySelector('.sentence .pending')) requestAnimationFrame(() => done(performance.now() - t));
            else requestAnimationFrame(look);
          };
          look();
        },
        { once: true, capture: true },
      );
    });
  });
  await page.getByRole('switch', { name: /objects, Casts shadow/ }).evaluate((e: HTMLElement) => e.click());
  const ms = await page.evaluate(() => (window as unknown as { painted: Promise<number> }).painted);
  emit({ name: 'bulk-edit-5k', value: (ms * 5000) / many, unit: 'ms' });
  emit({ name: 'bulk-edit-objects', value: many, unit: 'objects' });
}

/** Milliseconds from a key to the next picture of the view that is begun. */
async function keyToView(page: Page, key: string): Promise<number> {
  await page.evaluate(() => {
    (window as unknown as { began: Promise<number> }).began = new Promise<number>((done) => {
      window.addEventListener(
        'keydown',
        () => {
          const t = performance.now();
          const look = () => {
            const { entries } = (window as unknown as { seen: Seen }).seen;
            const frame = entries.find((e) => e.name === 'view frame' && e.startTime > t);
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
  await page.keyboard.press(key);
  return page.evaluate(() => (window as unknown as { began: Promise<number> }).began);
}

/** To the next variant: all of light, materials, environment, placement and visibility. */
async function flip(page: Page, emit: Emit): Promise<void> {
  const times: number[] = [];
  for (let k = 0; k < DEMO_VARIANTS.length * 2; k++) {
    await forget(page);
    times.push(await keyToView(page, '.'));
    await page.waitForTimeout(2500);
  }
  emit({ name: 'flip-full', value: middle(times), unit: 'ms' });
  emit({ name: 'flip-full-slowest', value: Math.max(...times), unit: 'ms' });
}

/** A changed roughness, typed and sent with Enter. */
async function editToView(page: Page, emit: Emit): Promise<void> {
  await page.getByRole('listbox', { name: 'Materials' }).getByRole('option').first().click();
  const field = page.getByRole('textbox', { name: /Roughness/ }).first();
  const times: number[] = [];
  for (let k = 0; k < EDITS; k++) {
    await field.fill((0.2 + 0.05 * k).toFixed(2));
    await page.waitForTimeout(1500);
    await forget(page);
    times.push(await keyToView(page, 'Enter'));
    await page.waitForTimeout(1500);
  }
  emit({ name: 'edit-to-view-full', value: middle(times), unit: 'ms' });
  emit({ name: 'edit-to-view-full-slowest', value: Math.max(...times), unit: 'ms' });
}

/** Through a camera, which goes along: how long a picture takes, and how often React draws the Stage anew meanwhile. */
async function orbit(page: Page, emit: Emit): Promise<void> {
  const whole = (await seenOf(page, 'view frame')).at(-1)!;
  const box = (await page.getByRole('application').boundingBox())!;
  const x = box.x + box.width / 2;
  const y = box.y + box.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 2, y);
  await page.waitForTimeout(1000);
  await forget(page);
  for (let k = 0; k < ORBIT_STEPS; k++) {
    await page.mouse.move(x + k * 3, y + Math.sin(k / 6) * 20);
    await page.waitForTimeout(25);
  }
  const frames = await seenOf(page, 'view frame');
  const drawn = await seenOf(page, 'stage drawn');
  await page.mouse.up();
  emit({ name: 'view-frame-full', value: middle(frames), unit: 'ms' });
  emit({ name: 'view-frame-full-still', value: whole, unit: 'ms' });
  emit({ name: 'orbit-rerenders', value: drawn.length, unit: `commits in ${ORBIT_STEPS} steps` });
}

/** From a key to the first live picture of the next variant, while the one before is rendered. */
async function liveFirst(page: Page, emit: Emit): Promise<void> {
  const button = page.getByRole('button', { name: 'Live render' });
  await button.click();
  const times: number[] = [];
  for (let k = 0; k < LIVE_FLIPS; k++) {
    await page.getByText(/^Live · (?:1[6-9]|[2-9]\d|\d{3,}) samples/).waitFor({ timeout: 120_000 });
    times.push(await keyToLive(page, '.'));
  }
  await lightChange(page, emit);
  await button.click();
  emit({ name: 'live-first', value: middle(times), unit: 'ms' });
  emit({ name: 'live-first-slowest', value: Math.max(...times), unit: 'ms' });
}
/** From a key on the strength of one of its lights to the live picture in that light. */
async function lightChange(page: Page, emit: Emit): Promise<void> {
  await page.getByRole('button', { name: 'Mix lights' }).click();
  await page.getByText(/^Live · (?:1[6-9]|[2-9]\d|\d{3,}) samples/).waitFor({ timeout: 120_000 });
  const rows = page.getByRole('region', { name: 'Mix lights' }).getByRole('group');
  await rows.nth(1).getByRole('slider').focus();
  const times: number[] = [];
  for (let k = 0; k < LIGHT_STEPS; k++) {
    times.push(await keyToLive(page, 'ArrowLeft'));
    await page.waitForTimeout(150); // a new picture is not begun between them
  }
  emit({ name: 'light-change-live', value: middle(times), unit: 'ms' });
  emit({ name: 'light-change-live-slowest', value: Math.max(...times), unit: 'ms' });
}
async function keyToLive(page: Page, key: string): Promise<number> {
  await page.evaluate(() => {
    (window as unknown as { drawn: Promise<number> }).drawn = new Promise<number>((done) => {
      const begin = () => {
        const t = performance.now();
        // a picture sets the canvas' size
        const observer = new MutationObserver(() => {
          observer.disconnect();
          done(performance.now() - t);
        });
        observer.observe(document.querySelector('canvas[aria-label="Live render"]')!, { attributeFilter: ['width'] });
      };
      window.addEventListener('keydown', begin, { once: true, capture: true });
    });
  });
  await page.keyboard.press(key);
  return page.evaluate(() => (window as unknown as { drawn: Promise<number> }).drawn);
}

/** 60 variants × 8 cameras, from the click on its link to cells on the page. */
async function openBoard(page: Page, base: string, id: string, emit: Emit): Promise<void> {
  const post = sendTo(base, id, 'POST');
  const { cameras, variants } = await getFrom<{ cameras: { id: string; settings: object }[]; variants: unknown[] }>(
    base,
    id,
  );
  for (let k = cameras.length; k < 8; k++)
    await post('/cameras', { name: `Extra ${k}`, settings: cameras[0]!.settings });
  for (let k = variants.length; k < 60; k++) await post('/variants', { optionIds: [], name: `Extra ${k}` });
  await page.goto(`${base}/queue`);
  await page.waitForTimeout(3000);
  await page.evaluate(() => {
    (window as unknown as { opened: Promise<number> }).opened = new Promise<number>((done) => {
      window.addEventListener(
        'click',
        () => {
          const t = performance.now();
          const look = () => {
            const known = document.querySelector('[role=gridcell][aria-label*="rendered"]');
            if (known) requestAnimationFrame(() => done(performance.now() - t));
            else requestAnimationFrame(look);
          };
          look();
        },
        { once: true, capture: true },
      );
    });
  });
  await page.getByRole('link', { name: 'Board' }).click();
  const ms = await page.evaluate(() => (window as unknown as { opened: Promise<number> }).opened);
  emit({ name: 'board-60x8-open', value: ms, unit: 'ms' });
  emit({ name: 'board-60x8-cells-held', value: await page.getByRole('gridcell').count(), unit: 'cells of 480' });
}
