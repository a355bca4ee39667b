// The night: a profile and names are set up, two projects are queued, paused, put in order, one trace is cancelled, the
// rest is finished; and the files are read by programs that know nothing of Variscen.
import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { CullPlanAnswer, Project, Queue, QueueTrace } from '@variscen/contract';
import { makeTeaStall } from '@variscen/demo';
import type { Browser, Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import {
  FRAMES_BY,
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
import { accessFaults } from './access.ts';

const run = promisify(execFile);
let app: Application, browser: Browser, page: Page, errors: string[], home: string;
const projects: Project[] = [];

const send = <T>(method: string, path: string, body?: unknown): Promise<T> => ask<T>(app.base, method, path, body);
const open = () => send<QueueTrace[]>('GET', '/api/queue/open');
async function makeProject(name: string): Promise<Project> {
  const { id } = await send<Project>('POST', '/api/projects', { name });
  await send('POST', `/api/projects/${id}/scene?fileName=stall.glb`, await makeTeaStall('light', FRAMES_BY));
  const option = await send<{ id: string }>('POST', `/api/projects/${id}/options`, {
    facet: 'grade',
    name: 'Bright',
    changes: [{ target: 'grade', property: 'grade.exposure', value: 1 }],
  });
  await send('POST', `/api/projects/${id}/variants`, { optionIds: [option.id] });
  return send('GET', `/api/projects/${id}`);
}
const place = (name: string) => page.getByRole('navigation').getByRole('link', { name }).click();
const row = (name: string) => page.getByRole('row', { name: new RegExp(`^${name}`) });

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--no-demo');
  projects.push(await makeProject('First night'), await makeProject('Second night'));
  browser = await openBrowser();
  page = await openPage(browser);
  errors = watch(page);
  page.setDefaultTimeout(30_000);
}, 120_000);
afterEach(async (t) => {
  if (t.task.result?.state === 'fail' && process.env['SHOTS'])
    await page.screenshot({ path: `${process.env['SHOTS']}/${t.task.name.slice(0, 24).replace(/\W/g, '-')}.png` });
});
afterAll(async () => {
  await browser?.close();
  await app?.stop();
  if (home) await dropHome(home);
});

describe('a night', () => {
  it('begins with a profile of one’s own', async () => {
    await page.goto(`${app.base}/projects/${projects[0]!.id}/board`);
    await page.getByRole('gridcell').first().click();
    await page.getByRole('button', { name: 'Profiles…' }).click();
    await page.getByRole('button', { name: 'Make a profile from this one' }).click();
    const form = page.getByRole('form', { name: 'Profile Sketch copy' });
    await form.getByLabel('Name', { exact: true }).fill('Quick');
    await form.getByText('Width', { exact: true }).click();
    await form.getByRole('textbox', { name: 'Width' }).fill('160');
    await form.getByLabel('Samples, at most').fill('4');
    await form.getByRole('checkbox', { name: 'JPEG' }).click();
    expect(await accessFaults(page, '[role=dialog]')).toEqual([]);
    await form.getByRole('button', { name: 'Keep changes' }).click();
    await page.getByRole('form', { name: 'Profile Quick' }).waitFor();
    await page.keyboard.press('Escape');
    const [kept] = (await send<Project>('GET', `/api/projects/${projects[0]!.id}`)).profiles;
    expect(kept).toMatchObject({ name: 'Quick', widthPx: 160, samples: 4, files: { jpeg: 92 } });
  });

  it('a clash of names is told, and a token resolves it', async () => {
    await page.getByRole('button', { name: 'Names…' }).click();
    const template = page.getByRole('textbox', { name: 'Template of file names' });
    await template.fill('{project}/{camera}_{version}');
    await page.getByRole('button', { name: 'Keep the template' }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.getByRole('gridcell', { name: /Stall from the lane in Base/ }).click();
    await page.keyboard.press('Shift+ArrowRight');
    await page
      .getByRole('alert')
      .filter({ hasText: /2 cells would write .*\{variant\}/ })
      .waitFor();
    expect(await page.getByRole('button', { name: 'Render 2 cells' }).isDisabled()).toBe(true);
    await page.getByRole('button', { name: 'Names…' }).click();
    await template.press('End');
    await template.pressSequentially('_');
    await page.getByRole('button', { name: 'variant', exact: true }).click();
    expect(await template.inputValue()).toBe('{project}/{camera}_{version}_{variant}');
    await page.getByText('first-night/stall-from-the-lane_v001_bright.exr').waitFor();
    await page.getByRole('button', { name: 'Keep the template' }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.getByText(/stall-from-the-lane_v001_base\.exr, \.png, \.jpg/).waitFor();
  });

  it('the queue is paused, two projects are queued, put in order, and one is cancelled', async () => {
    await send('PUT', '/api/queue/held', { held: true });
    await page.getByRole('gridcell', { name: /Stall from the lane in Base/ }).click();
    for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowDown');
    await page.getByRole('button', { name: 'Render 3 cells' }).click();
    await until(async () => (await open()).length === 3);
    const [, second] = projects;
    const cells = second!.cameras.slice(0, 2).map((c) => ({ cameraId: c.id, variantId: second!.variants[0]!.id }));
    const [quick] = (await send<Project>('GET', `/api/projects/${projects[0]!.id}`)).profiles;
    const { id: profileId, ...settings } = quick!;
    await send('PUT', `/api/projects/${second!.id}/profiles/${profileId}`, settings);
    await send('POST', `/api/projects/${second!.id}/batches`, { cells, profileId });
    await place('Queue');
    await page.getByText(/^The queue is paused/).waitFor();
    await row('Counter, close in Base').last().click();
    await page.getByRole('grid', { name: 'Active traces' }).focus();
    await page.keyboard.press('Alt+ArrowUp');
    await until(async () => (await open())[3]!.cells[0]!.cameraName === 'Counter, close');
    await row('Stall from the lane in Base').last().getByRole('button').click();
    await page.getByRole('menuitem', { name: 'Render next' }).click();
    await until(async () => (await open())[0]!.projectName === 'Second night');
    await row('Kettle square in Base').click();
    await page.keyboard.press('Delete');
    await until(async () => (await open()).length === 4);
    expect(await accessFaults(page)).toEqual([]);
  });

  it('working hours are painted, and nothing begins outside them', async () => {
    await page.getByRole('button', { name: 'More for this machine' }).click();
    await page.getByRole('menuitem', { name: 'Working hours…' }).click();
    await page.getByText('Nothing', { exact: true }).click();
    for (const day of ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'])
      await page.getByRole('rowheader', { name: day }).click();
    await page.getByRole('button', { name: 'Keep the hours' }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.getByText('Not in its working hours').waitFor();
    await page.getByRole('button', { name: 'Resume the queue' }).click();
    await page.waitForTimeout(1500);
    expect((await open()).map((t) => t.state)).toEqual(['waiting', 'waiting', 'waiting', 'waiting']);
    await page.getByRole('button', { name: 'More for this machine' }).click();
    await page.getByRole('menuitem', { name: 'Working hours…' }).click();
    await page.getByText('All threads', { exact: true }).click();
    for (const day of ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'])
      await page.getByRole('rowheader', { name: day }).click();
    await page.getByRole('button', { name: 'Keep the hours' }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
  });

  it('in the morning all is done, as planned and nothing else', async () => {
    await until(async () => (await open()).length === 0, 120);
    await page.getByText('Nothing is rendering and nothing waits.').waitFor();
    const { traces } = await send<Queue>('GET', '/api/queue');
    expect(traces.map((t) => t.state).sort()).toEqual(['cancelled', 'done', 'done', 'done', 'done']);
    // in the order that was made
    const ended = traces.filter((t) => t.state === 'done').reverse();
    expect(ended[0]!.projectName).toBe('Second night');
    const file = (name: string) => join(home, 'output', name);
    const exr = file('first-night/stall-from-the-lane_v001_base.exr');
    const header = (await run('exrheader', [exr])).stdout;
    expect(header).toMatch(/variscen:profile .*"Quick"/);
    expect(header).toMatch(/displayWindow .*\(0 0\) - \(159 89\)/);
    const { stdout } = await run('oiiotool', [
      '--stats',
      exr,
      exr.replace('.exr', '.png'),
      exr.replace('.exr', '.jpg'),
    ]);
    expect(stdout.match(/160 x +90/g)).toHaveLength(3);
    expect(stdout).not.toMatch(/NanCount: [1-9]|InfCount: [1-9]/);
    expect(existsSync(file('first-night/kettle-square_v001_base.exr'))).toBe(false);
    await page.getByRole('list', { name: 'Finished traces' }).getByText('Cancelled').waitFor();
  });

  it('what a camera leaves out is measured, tried, decided for many at once, and rendered with what it cost', async () => {
    const { id, cameras, variants } = projects[1]!;
    await page.goto(`${app.base}/projects/${id}/cull?variant=${variants[0]!.id}`);
    await page.getByRole('button', { name: 'Measure Base' }).click();
    // a look at the lowest priority, while other tests use the machine
    await page.getByText(/, by [\d,]+ rays\./).waitFor({ timeout: 180_000 });
    const table = page.getByRole('grid', { name: 'Objects and verdicts' });
    await table
      .getByText(/kept: .* of the frame/)
      .first()
      .waitFor();
    const outcome = page.getByRole('region', { name: 'How much may go' }).getByRole('status');
    await outcome.getByText(/Nothing of [\d,]+ objects is left out\. The picture is the same/).waitFor();

    // 1. What gives least goes: it is tried as the slider moves, and kept
    await page.getByRole('slider').focus();
    for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
    await outcome.getByText(/[\d,]+ objects? of [\d,]+ left out/).waitFor();
    const planOf = async () =>
      (await send<{ plan: CullPlanAnswer | null }>('GET', `/api/projects/${id}/cameras/${cameras[0]!.id}/cull`)).plan;
    await until(async () => (await planOf())?.barShare === 0.001);
    const gone = (await planOf())!.byEvidence;
    expect(gone.length).toBeGreaterThan(1);

    // 2. Many are pinned at once, by the keyboard
    await page.getByRole('button', { name: 'left out', exact: true }).click();
    await table.focus();
    await page.keyboard.press('Control+a');
    await page.keyboard.press('p');
    await until(async () => (await planOf())?.keep.length === gone.length);
    expect((await planOf())!.byEvidence.filter((path) => gone.includes(path))).toEqual([]);

    // 3. One that shows is left out by hand
    await page.getByRole('button', { name: 'all', exact: true }).click();
    await page.getByRole('textbox', { name: 'Find an object or a verdict' }).fill('Awning cloth');
    await table.getByRole('row', { name: /Awning cloth/ }).click();
    await page.getByRole('button', { name: 'Leave out L' }).click();
    await table.getByText(/left out by hand; .* of the frame/).waitFor();
    await until(async () => (await planOf())?.leaveOut.length === 1);

    // 4. Decided faster than the server answers, each counts
    await page.getByRole('textbox', { name: 'Find an object or a verdict' }).fill('Kettle');
    const pinned = (await planOf())!.keep.length;
    for (const row of [1, 2, 3]) {
      await table.getByRole('row').nth(row).click();
      await page.keyboard.press('l');
    }
    await until(async () => (await planOf())?.leaveOut.length === 4);
    expect((await planOf())!.keep).toHaveLength(pinned);

    // 5. All that stands in a group is picked together
    await page.getByRole('textbox', { name: 'Find an object or a verdict' }).fill('');
    const only = page.getByLabel('Only of a selection, a material or a group').first();
    await only.fill('awning');
    await page.getByRole('option', { name: /Awning$/ }).click();
    await page.getByRole('button', { name: /^Select all/ }).click();
    const rows = Number(await table.getAttribute('aria-rowcount')) - 1;
    expect(rows).toBeGreaterThan(1);
    await page.getByText(`${rows} objects selected`).waitFor();
    expect(await table.getByRole('row', { selected: true }).filter({ hasText: 'Awning cloth' }).count()).toBe(1);

    // 6. What that costs is proved, both pictures at the same seeds
    await page.getByRole('button', { name: 'Prove it' }).click();
    const proof = page.getByRole('dialog');
    await proof.getByText(/pixels differ\..*With the noise taken out/).waitFor({ timeout: 180_000 });
    const isDrawn = () =>
      proof.locator('canvas').evaluate((c: HTMLCanvasElement) => {
        const { data } = c.getContext('2d')!.getImageData(0, 0, c.width, c.height);
        return data.some((x) => x > 0 && x < 255);
      });
    await until(isDrawn);
    await proof.getByRole('button', { name: 'Difference' }).click();
    await proof.getByText(/Brighter than grey/).waitFor();
    await page.keyboard.press('Escape');
    await proof.waitFor({ state: 'detached' });

    // 7. What it does not see itself is simplified; from elsewhere what it leaves out shows as ghosts
    await page.getByRole('switch', { name: 'Simplify what the camera does not see itself' }).click();
    await until(async () => (await planOf())!.simplifies);
    const simplified = Object.keys((await planOf())!.standIns).length;
    await outcome.getByText(simplified ? /objects? simplified, from / : 'Nothing is simplified').waitFor();
    await page.getByRole('link', { name: 'Look on the Stage' }).click();
    await page.locator('[data-loaded=yes]').waitFor({ timeout: 60_000 });
    await page.locator('header').getByText(cameras[0]!.name).click();
    await page.getByText('Look around freely').click();
    const ghosts = page.getByRole('button', { name: 'Ghosts' });
    const pictureOf = async () => {
      await page.locator('[aria-busy=true]').waitFor({ state: 'hidden' });
      return (await page.getByRole('region', { name: 'View' }).screenshot()).toString('base64');
    };
    await ghosts.click();
    const plain = await pictureOf();
    await ghosts.click();
    await until(async () => (await pictureOf()) !== plain, 30);
    await page.goBack();
    await table.waitFor();

    // 8. Rendered: what it cost at most is said, and by what
    await send('POST', `/api/projects/${id}/batches`, {
      cells: [{ cameraId: cameras[0]!.id, variantId: variants[0]!.id }],
      profileId: 'sketch',
    });
    await until(async () => (await open()).length === 0, 120);
    await page.getByText(/lost at most .* of its light/).waitFor({ timeout: 60_000 });
    await page.getByRole('button', { name: /^Awning cloth \d+ %/ }).waitFor();

    // 9. What it needs is saved, and opens as a scene
    const [saved] = await Promise.all([
      page.waitForEvent('download', { timeout: 60_000 }),
      page.getByRole('button', { name: 'Save what it needs as GLB' }).click(),
    ]);
    await page.getByText(/[\d,]+ of [\d,]+ objects, [\d,]+ of [\d,]+ triangles\./).waitFor();
    const glb = await readFile(await saved.path());
    expect([saved.suggestedFilename().endsWith('.glb'), glb.subarray(0, 4).toString()]).toEqual([true, 'glTF']);

    // 10. Undone, it is as before
    await page.getByRole('button', { name: /^Undo/ }).click();
    await until(async () => (await planOf())?.simplifies === false);
    await page.getByRole('button', { name: /^Undo/ }).click();
    await until(async () => (await planOf())?.leaveOut.length === 3);
  });

  it('shows no error in the browser on the way', () => {
    expect(errors).toEqual([]);
  });
});
