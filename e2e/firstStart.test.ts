// The first start: the demo is there, its pictures come by themselves after everything else, and a tour is offered.
import type { ProjectSummary, Queue, Rendered } from '@variscen/contract';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Application,
  ask,
  dropHome,
  makeHome,
  openBrowser,
  openPage,
  startApplication,
  until,
  watch,
} from './application.ts';

let app: Application, browser: Browser, page: Page, errors: string[], home: string, demo: ProjectSummary;
const get = <T>(path: string): Promise<T> => ask<T>(app.base, 'GET', path);

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--demo', 'light');
  [demo] = (await get<ProjectSummary[]>('/api/projects')) as [ProjectSummary];
  browser = await openBrowser();
  page = await openPage(browser);
  errors = watch(page);
  page.setDefaultTimeout(20_000);
}, 180_000);
afterAll(async () => {
  await browser?.close();
  await app?.stop();
  if (home) await dropHome(home);
});

describe('the first start', () => {
  it('has the demo, whose pictures wait behind whatever else is queued, and come', async () => {
    expect(demo).toMatchObject({ isDemo: true, hasScene: true });
    const { batches } = await get<Queue>('/api/queue');
    expect(batches.map((b) => b.profileName)).toEqual(['Sketch']);
    const open = await get<{ priority: string }[]>('/api/queue/open');
    expect(new Set(open.filter((t) => t.priority !== 'normal').map((t) => t.priority))).toEqual(new Set(['low']));
    const rendered = () => get<Rendered[]>(`/api/projects/${demo.id}/renders`);
    await until(async () => (await rendered()).length > 0, 100);
    // the others come as well; what follows needs no more of them
    await ask(app.base, 'PUT', '/api/queue/held', { held: true });
  });

  it('offers a tour that leads from the board to the review by the keyboard, and is not offered again', async () => {
    await page.goto(app.base);
    await page.getByRole('button', { name: 'Take the tour' }).click();
    for (const [i, [title, place]] of [
      ['Every camera in every look', 'board'],
      ['Where you are, and where edits go', 'stage'],
      ['A look is made of options', 'stage'],
      ['A plan before anything renders', 'board'],
      ['The morning after', 'review'],
    ].entries()) {
      await page.getByText(title!).waitFor();
      await page.getByText(`${i + 1} of 5`).waitFor();
      expect(new URL(page.url()).pathname).toBe(`/projects/${demo.id}/${place!}`);
      await page.keyboard.press(i < 4 ? 'ArrowRight' : 'Escape');
    }
    await page.getByText('The morning after').waitFor({ state: 'hidden' });
    await page.goto(`${app.base}/projects`);
    await page.getByRole('link', { name: demo.name }).waitFor();
    expect(await page.getByRole('region', { name: 'Tour' }).count()).toBe(0);
    expect(errors).toEqual([]);
  });

  it('says what was done lately, and where the space goes', async () => {
    await page.getByRole('button', { name: `What was done lately in ${demo.name}` }).click();
    const lately = page.getByRole('dialog', { name: `Lately in “${demo.name}”` });
    await lately.getByText(/^Render \d+ pictures as Sketch/).waitFor();
    await lately.getByRole('button', { name: /more edits$/ }).click();
    await lately.getByText(/^Import /).waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'What takes space…' }).click();
    const space = page.getByRole('dialog', { name: 'What takes space' });
    await space.getByRole('row', { name: new RegExp(demo.name) }).waitFor();
    await page.keyboard.press('Escape');
  });
});
