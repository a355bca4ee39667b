// The morning after: pictures are opened, held against each other, approved and rejected with a mark, developed without
// rendering, put on a contact sheet and delivered; the page that goes out opens from the file system, and notes come
// back.
import { execFile } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Delivery, Project, Queue, Region, Render, Review } from '@variscen/contract';
import { makeTeaStall } from '@variscen/demo';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
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
let app: Application, browser: Browser, page: Page, errors: string[], home: string, project: Project, at: string;

const send = <T>(method: string, path: string, body?: unknown): Promise<T> => ask<T>(app.base, method, path, body);
const cell = (camera: number, variant: number) => ({
  cameraId: project.cameras[camera]!.id,
  variantId: project.variants[variant]!.id,
});
const history = (camera: number, variant: number): Promise<Render[]> => {
  const { cameraId, variantId } = cell(camera, variant);
  return send('GET', `${at}/cells/${cameraId}/${variantId}`);
};
const reviews = () => send<Review[]>('GET', `${at}/reviews`);
const whole = () => page.locator('canvas[data-whole=yes]').first().waitFor();
const option = (name: RegExp) => page.getByRole('option', { name });
const handOver = async (item: string) => {
  await page.getByRole('button', { name: 'Hand over…' }).click();
  await page.getByRole('menuitem', { name: item }).click();
};

beforeAll(async () => {
  home = await makeHome();
  app = await startApplication(home, '--no-demo');
  const { id } = await send<Project>('POST', '/api/projects', { name: 'The morning' });
  at = `/api/projects/${id}`;
  await send('POST', `${at}/scene?fileName=stall.glb`, await makeTeaStall('light', FRAMES_BY));
  const options = [
    { facet: 'grade', name: 'Bright', changes: [{ target: 'grade', property: 'grade.exposure', value: 1 }] },
  ];
  const [base] = (await send<Project>('GET', at)).variants;
  await send('POST', `${at}/options/together`, { options, variant: { fromVariantId: base!.id, name: 'Bright' } });
  project = await send<Project>('GET', at);
  const own = await send<{ own: { id: string }[] }>('GET', '/api/profiles');
  const { id: _, ...sketch } = own.own[0]!;
  const profileId = '5b7f1c1e-3f70-4d7d-9a39-8f9e5b1f1a01';
  await send('PUT', `${at}/profiles/${profileId}`, {
    ...sketch,
    name: 'Tiny',
    widthPx: 320,
    samples: 4,
    aovs: ['depth', 'objects'],
  });
  await send('POST', `${at}/batches`, { profileId, cells: [cell(0, 0), cell(0, 1), cell(1, 0), cell(1, 1)] });
  await until(async () => (await send<Queue>('GET', '/api/queue')).traces.every((t) => t.state === 'done'), 100);
  browser = await openBrowser();
  page = await openPage(browser);
  errors = watch(page);
  page.setDefaultTimeout(20_000);
}, 180_000);
afterEach(async (t) => {
  if (t.task.result?.state === 'fail' && process.env['SHOTS'])
    await page.screenshot({ path: `${process.env['SHOTS']}/${t.task.name.slice(0, 24).replace(/\W/g, '-')}.png` });
});
afterAll(async () => {
  await browser?.close();
  await app?.stop();
  if (home) await dropHome(home);
});

describe('the morning after', () => {
  it('from the board the pictures of selected cells are looked at, pixel for pixel as they were delivered', async () => {
    await page.goto(`${app.base}/projects/${project.id}/board`);
    await page.getByRole('gridcell').first().click();
    await page.getByRole('gridcell', { name: /Counter, close in Bright/ }).click({ modifiers: ['Shift'] });
    await page.getByRole('link', { name: 'Review 4 pictures' }).click();
    await page.getByText('4 pictures', { exact: false }).first().waitFor();
    await whole();
    const [picture] = await history(0, 0);
    const png = join(home, 'output', picture!.files.find((f) => f.kind === 'png')!.path);
    // what is under the pointer is what the file has there
    const box = (await page.getByRole('img', { name: /Stall from the lane in Base, v001: Picture/ }).boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    const line = await page.getByText(/ shown$/).innerText();
    const [, x, y, codes] = /(\d+), (\d+) .* · ([\d ]+) shown/.exec(line)!;
    const raw = await sharp(png).raw().toBuffer({ resolveWithObject: true });
    const from = (Number(y) * raw.info.width + Number(x)) * raw.info.channels;
    const wanted = [...raw.data.subarray(from, from + 3)];
    codes!
      .split(' ')
      .map(Number)
      .forEach((code, k) => expect(Math.abs(code - wanted[k]!)).toBeLessThanOrEqual(1));
  });

  it('a click says what is there: it is looked at alone, and selected on the Stage', async () => {
    const box = (await page.getByRole('img', { name: /Stall from the lane in Base, v001: Picture/ }).boundingBox())!;
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    const here = page.getByRole('region', { name: 'What is here' });
    const isolate = here.getByRole('button', { name: /^Isolate / }).first();
    const name = (await isolate.getAttribute('aria-label'))!.slice('Isolate '.length);
    await isolate.click();
    const alone = `${name.split('/').at(-1)!} alone`;
    await page.getByText(alone).waitFor();
    // all but the object is dark
    const mask = await fetch(app.base + (await page.locator('image[href*="/mask"]').getAttribute('href')));
    const { data, info } = await sharp(Buffer.from(await mask.arrayBuffer()))
      .raw()
      .toBuffer({ resolveWithObject: true });
    const alphas = data.filter((_, i) => i % info.channels === info.channels - 1);
    expect(alphas[Math.floor(info.height / 2) * info.width + Math.floor(info.width / 2)]).toBeLessThan(100);
    expect(alphas.filter((a) => a > 200).length).toBeGreaterThan(alphas.length / 4);
    const link = here.getByRole('link', { name: `Select ${name} on the Stage` });
    const target = new URL((await link.getAttribute('href'))!, app.base).searchParams;
    expect(target.get('selected')).toBe(`object:${name}`);
    await page.keyboard.press('Escape');
    await here.waitFor({ state: 'hidden' });
    expect(await page.getByText(alone).count()).toBe(0);
  });

  it('anything is found by its name: what is asked for opens on the Stage, and the help from anywhere', async () => {
    const before = page.url();
    await page.keyboard.press('Control+k');
    await page.getByRole('textbox', { name: 'Find' }).fill('kettle square');
    await page.getByRole('button', { name: /^Kettle square Camera/ }).waitFor();
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/stage\?camera=/);
    expect(new URL(page.url()).searchParams.get('camera')).toBe(
      project.cameras.find((c) => c.name === 'Kettle square')!.id,
    );
    await page.keyboard.press('?');
    await page.getByRole('dialog', { name: 'Keys and words' }).getByText('Through the variants').waitFor();
    await page.keyboard.press('Escape');
    await page.goto(before);
    await whole();
  });

  it('two are held against each other: by a wipe that the keyboard moves, and by their difference', async () => {
    await page.keyboard.press('Space');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('4');
    const line = page.getByRole('separator', { name: 'Line between the two pictures' });
    await line.focus();
    await page.keyboard.press('End');
    expect(await line.getAttribute('aria-valuenow')).toBe('100');
    await page.keyboard.press('Escape');
    await page.getByRole('radio', { name: 'Difference' }).click();
    // a stop apart
    await page.getByText(/mean .* ΔE00 · most .* of pixels noticed/).waitFor();
    // against itself there is none in light, since the two share their light
    await page.getByRole('combobox', { name: 'Difference' }).click();
    await page.getByRole('option', { name: 'of light' }).click();
    await page.getByText('Not one pixel in sight differs.').waitFor();
    await page.getByRole('radio', { name: 'One' }).click();
  });

  it('a picture of others is held against one: the same light, saved by another program, does not differ', async () => {
    await page.keyboard.press('ArrowLeft');
    await page.keyboard.press('Space');
    const [picture] = await history(0, 0);
    const exr = join(home, 'output', picture!.files.find((f) => f.kind === 'exr')!.path);
    const other = join(home, 'From elsewhere.exr');
    await run('oiiotool', [exr, '--ch', 'R,G,B,A', '--compression', 'piz', '-o', other]);
    await page.getByLabel('File of a reference').setInputFiles(other);
    await page.getByText('From elsewhere.exr').waitFor();
    await page.getByRole('radio', { name: 'Difference' }).click();
    await page.getByText('Stall from the lane in Base, v001 less From elsewhere.exr').waitFor();
    await page.getByText('Not one pixel in sight differs.').waitFor();
    await page.getByRole('button', { name: 'References' }).click();
    await page.getByRole('menuitem', { name: 'Close From elsewhere.exr' }).click();
    await until(async () => (await send<unknown[]>('GET', `${at}/references`)).length === 0);
    await page.keyboard.press('Escape');
    // one that has ids says what is there, too; the Stage is of this project's own pictures
    await page.getByLabel('File of a reference').setInputFiles(exr);
    const name = exr.split('/').at(-1)!;
    await page.getByRole('radio', { name: 'Side by side' }).click();
    const box = (await page.getByRole('img', { name: `${name}: Picture` }).boundingBox())!;
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    const here = page.getByRole('region', { name: 'What is here' });
    await here.getByText(name).waitFor();
    await here
      .getByRole('button', { name: /^Isolate / })
      .first()
      .waitFor();
    expect(await here.getByRole('link').count()).toBe(0);
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'References' }).click();
    await page.getByRole('menuitem', { name: `Close ${name}` }).click();
    await until(async () => (await send<unknown[]>('GET', `${at}/references`)).length === 0);
    await page.keyboard.press('Escape');
    await page.getByRole('radio', { name: 'One' }).click();
  });

  it('a region is kept for a camera, and measured in the next picture of it, and in another way of showing it', async () => {
    await page.goto(`${app.base}/projects/${project.id}/review`);
    await whole();
    const box = (await page.getByRole('img', { name: /Stall from the lane in Base, v001: Picture/ }).boundingBox())!;
    await page.keyboard.down('Shift');
    await page.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.4);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.6, { steps: 3 });
    await page.mouse.up();
    await page.keyboard.up('Shift');
    await page.getByRole('button', { name: 'Keep', exact: true }).click();
    const name = page.getByRole('textbox', { name: 'Name of the region' });
    await name.fill('Counter top');
    await name.press('Enter');
    const mean = page.getByRole('button', { name: 'Measure Counter top' });
    const figures = async () => (await mean.innerText()).split(' ').map(Number);
    await until(async () => (await figures()).length === 3);
    const [base] = await figures();
    await page.getByRole('main').press('ArrowRight');
    await page.getByRole('heading', { name: 'Stall from the lane' }).waitFor();
    await page.getByText('in Bright').waitFor();
    // the same light, which is graded a stop brighter: light is what is measured
    await until(async () => Math.abs((await figures())[0]! - base!) <= base! * 0.05);
    await page.getByRole('button', { name: 'Undo' }).first().click();
    await page.getByRole('button', { name: 'Measure Region 1' }).waitFor();
    await page.getByRole('button', { name: 'Drop Region 1' }).click();
    await page.getByRole('region', { name: 'Regions' }).waitFor({ state: 'detached' });
    expect(await send<Region[]>('GET', `${at}/regions`)).toEqual([]);
  });

  it('a layer is looked at in a range that fits it', async () => {
    await page.getByRole('combobox', { name: 'Layer' }).click();
    await page.getByRole('option', { name: 'Depth', exact: true }).click();
    await page.getByRole('img', { name: /: Depth$/ }).waitFor();
    await whole();
    await page.getByRole('combobox', { name: 'Layer' }).click();
    await page.getByRole('option', { name: 'Picture', exact: true }).click();
    await whole();
  });

  it('one is approved, one rejected with a note and a mark; the board says so', async () => {
    await option(/^Stall from the lane in Base/).click();
    await page.keyboard.press('a');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('r');
    await page.keyboard.press('n');
    await page.keyboard.type('The awning burns out.');
    await page.keyboard.press('Control+Enter');
    await page.keyboard.press('m');
    const box = (await page.getByRole('img', { name: /Stall from the lane in Bright/ }).boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.4, box.y + box.height * 0.4);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.6, box.y + box.height * 0.5, { steps: 6 });
    await page.mouse.up();
    await page.getByLabel('Mark 1', { exact: true }).fill('here');
    await page.keyboard.press('Enter');
    await page.keyboard.press('Escape');
    await until(async () => (await reviews()).some((r) => r.marks[0]?.text === 'here'));
    const rejected = (await reviews()).find((r) => r.verdict === 'rejected')!;
    expect(rejected).toMatchObject({ note: 'The awning burns out.', variantId: project.variants[1]!.id });
    expect(rejected.marks[0]!.points.length).toBeGreaterThan(3);
    expect(await accessFaults(page)).toEqual([]);
    await page.getByRole('navigation').getByRole('link', { name: 'Board' }).click();
    await page.getByRole('gridcell', { name: /Stall from the lane in Bright: .*Rejected/ }).waitFor();
    await page.getByRole('button', { name: 'Approved 1' }).click();
    await page.getByRole('gridcell', { name: /Stall from the lane in Base/, selected: true }).waitFor();
  });

  it('a correction is seen at once, kept for the picture, and is a new version that nobody rendered', async () => {
    await page.getByRole('navigation').getByRole('link', { name: 'Review' }).click();
    await option(/^Stall from the lane in Bright/).click();
    await page.getByText('Develop', { exact: true }).click();
    const exposure = page.getByLabel('Exposure', { exact: true });
    await exposure.fill('0.2');
    await exposure.press('Enter');
    const traces = (await send<Queue>('GET', '/api/queue')).traces.length;
    await page.getByRole('button', { name: 'Keep and develop' }).click();
    await option(/^Stall from the lane in Bright, v002/).waitFor();
    await page.getByText('Asked before').waitFor();
    expect(await page.getByRole('complementary', { name: 'This picture' }).innerText()).toContain(
      'The awning burns out.',
    );
    expect((await send<Queue>('GET', '/api/queue')).traces.length).toBe(traces);
    expect((await history(0, 1))[0]).toMatchObject({ version: 2, developedFrom: 1 });
    await page.getByText('Develop', { exact: true }).click();
  });

  it('they go onto a contact sheet, and out as a delivery with a page that opens from the file system', async () => {
    await handOver('Contact sheet…');
    await page.getByLabel('Title').fill('Morning sheet');
    const [sheet] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Make the PDF' }).click(),
    ]);
    const { stdout } = await run('pdftotext', ['-layout', await sheet.path(), '-']);
    expect(stdout).toMatch(/Morning sheet[\s\S]*Bright[\s\S]*Stall from/);
    await handOver('Deliver…');
    await page.getByLabel('Name', { exact: true }).fill('For the fair');
    await page.getByLabel('With a page for a browser').check({ force: true });
    await page.getByRole('button', { name: 'Deliver 4 pictures' }).click();
    await page.getByText(/files?, .* in deliveries\//).waitFor();
    const [delivery] = await send<Delivery[]>('GET', `${at}/deliveries`);
    expect(delivery).toMatchObject({ state: 'done', number: 1 });
    await page.keyboard.press('Escape');

    const client = await openPage(browser);
    await client.goto(`file://${join(home, 'output', delivery!.path, 'index.html')}`);
    await client.getByRole('button', { name: 'Compare with this' }).click();
    await client.locator('#facets').getByRole('button', { name: 'Bright' }).click();
    await client.getByLabel('Line between the two pictures').fill('30');
    await client.getByRole('button', { name: 'Approve' }).click();
    await client.getByLabel('Note').fill('Just right.');
    const [notes] = await Promise.all([
      client.waitForEvent('download'),
      client.getByRole('button', { name: 'Save notes as a file' }).click(),
    ]);
    const file = join(home, 'notes.json');
    await notes.saveAs(file);
    expect(JSON.parse(await readFile(file, 'utf8'))).toMatchObject({ format: 'variscen.notes', delivery: 1 });
    await client.close();

    await page.getByLabel('File of notes').setInputFiles(file);
    await page.getByText('Notes on 1 picture are in').waitFor();
    await until(async () =>
      (await reviews()).some((r) => r.note === 'From delivery 1: Just right.' && r.verdict === 'approved'),
    );
    expect(errors).toEqual([]);
  });
});
