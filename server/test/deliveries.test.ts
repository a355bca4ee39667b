// Pictures are delivered as they were picked, with what tells what they are; sheets and tables are read by programs
// that know nothing of Variscen.
import { randomUUID } from 'node:crypto';
import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdir, readFile, readdir, writeFile } from 'node:fs/promises';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Delivery, DeliveryAsked, DeliveryPlan, Project, Render, Review, SheetAsked } from '@variscen/contract';
import { PLAIN_FILES, PROFILES } from '@variscen/core/plan';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Deliveries } from '../src/db/entities/index.ts';
import { endBrokenDeliveries } from '../src/domain/deliveries.ts';
import { renderTrace } from '../src/node/renderTrace.ts';
import { ENGINE, type Fixture, helloOf, projectWithScene, startFixture } from './fixture.ts';

const run = promisify(execFile);
const never = new AbortController().signal;
let f: Fixture, p: Project, at: string;
const EXR = { type: 'float', compression: 'zip', perCell: false, aovsApart: false } as const;

async function profileOf(more: object): Promise<string> {
  const id = randomUUID();
  const { id: _, ...sketch } = PROFILES[0]!;
  await f.ok('PUT', `${at}/profiles/${id}`, {
    ...sketch,
    name: `Own ${id}`,
    denoise: 0,
    samples: 4,
    widthPx: 96,
    ...more,
  });
  return id;
}
async function render(profileId: string, variants = p.variants): Promise<void> {
  const cells = variants.map((v) => ({ cameraId: p.cameras[0]!.id, variantId: v.id }));
  await f.ok('POST', `${at}/batches`, { cells, profileId });
  for (let l = await f.node.lease(ENGINE); l; l = await f.node.lease(ENGINE))
    await renderTrace(f.node, l, f.machine, never);
}
async function history(variant: number): Promise<Render[]> {
  return f.ok<Render[]>('GET', `${at}/cells/${p.cameras[0]!.id}/${p.variants[variant]!.id}`);
}
const newest = async (variant: number): Promise<Render> => (await history(variant))[0]!;

beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
  const made = await projectWithScene(f, 'Harvest fair');
  at = `/api/projects/${made.id}`;
  await f.ok('POST', `${at}/options/together`, {
    options: [
      { facet: 'grade', name: 'Brighter', changes: [{ target: 'grade', property: 'grade.exposure', value: 1.5 }] },
    ],
    variant: { fromVariantId: made.variants[0]!.id, name: '=Brighter' },
  });
  p = await f.ok<Project>('GET', at);
  await render(await profileOf({ files: { ...PLAIN_FILES, exr: EXR } }));
});
afterAll(() => f?.close());

const asked = (renderIds: readonly string[], more: Partial<DeliveryAsked> = {}): DeliveryAsked => ({
  name: 'First look',
  renderIds: [...renderIds],
  formats: [{ kind: 'png', widthPx: null, quality: 90 }],
  nameTemplate: '{camera}/{variant}_{version}',
  target: 'folder',
  isGraded: true,
  display: 'srgb',
  hasSheet: false,
  hasPage: false,
  accepts: { outdated: false, rejected: false },
  ...more,
});
async function delivered(what: DeliveryAsked): Promise<Delivery> {
  const { id } = await f.ok<Delivery>('POST', `${at}/deliveries`, what);
  for (;;) {
    const d = (await f.ok<Delivery[]>('GET', `${at}/deliveries`)).find((x) => x.id === id)!;
    if (d.state !== 'writing') return d;
    await new Promise((r) => setTimeout(r, 50));
  }
}
const folderOf = (d: Delivery) => join(f.home, 'output', d.path);
const sha256 = (bytes: Buffer) => createHash('sha256').update(bytes).digest('hex');

describe('a delivery', () => {
  it('holds every picture in every format, as its grade shows it, and a manifest that tells each byte', async () => {
    const [base, brighter] = [await newest(0), await newest(1)];
    const formats: DeliveryAsked['formats'] = [
      { kind: 'exr', widthPx: null, quality: 90 },
      { kind: 'png', widthPx: null, quality: 90 },
      { kind: 'jpeg', widthPx: 48, quality: 90 },
      { kind: 'tiff', widthPx: null, quality: 90 },
    ];
    const what = asked([base.id, brighter.id], { formats, hasSheet: true, hasPage: true });
    const plan = await f.ok<DeliveryPlan>('POST', `${at}/deliveries/plan`, what);
    expect(plan.faults).toEqual([]);
    expect(plan.path).toBe('deliveries/harvest-fair/001-first-look');
    expect(plan.files).toHaveLength(8);
    const d = await delivered(what);
    expect(d).toMatchObject({ state: 'done', number: 1, error: null, changes: null });
    const folder = folderOf(d);
    for (const file of plan.files) expect(existsSync(join(folder, file)), file).toBe(true);
    // the PNG is the one that the node wrote, from the same light by the same grade
    const own = brighter.files.find((x) => x.kind === 'png')!.path;
    const pixels = (path: string) => sharp(path).raw().toBuffer();
    const png = join(folder, 'front/brighter_v001.png');
    expect((await pixels(png)).equals(await pixels(join(f.home, 'output', own)))).toBe(true);
    expect(Number((await sharp(join(folder, 'front/brighter_v001.jpg')).metadata()).width)).toBe(48);
    expect((await sharp(join(folder, 'front/brighter_v001.tif')).metadata()).depth).toBe('ushort');
    const { xmpAsString } = await sharp(png).metadata();
    expect(xmpAsString).toMatch(/Front in =Brighter, v001, .* 4 samples, graded: Brighter/);
    await run('exrheader', [join(folder, 'front/base_v001.exr')]);

    const manifest = JSON.parse(await readFile(join(folder, 'manifest.json'), 'utf8')) as {
      pictures: {
        camera: string;
        grade: string;
        options: object[];
        files: { path: string; bytes: number; sha256: string }[];
      }[];
      others: { path: string }[];
    };
    expect(manifest.pictures.map((x) => [x.camera, x.grade, x.files.length])).toEqual([
      ['Front', 'base', 4],
      ['Front', 'Brighter', 4],
    ]);
    for (const file of manifest.pictures.flatMap((x) => x.files)) {
      const bytes = await readFile(join(folder, file.path));
      expect([file.bytes, file.sha256]).toEqual([bytes.length, sha256(bytes)]);
    }
    expect(manifest.others.map((x) => x.path)).toEqual(
      expect.arrayContaining(['contact-sheet.pdf', 'index.html', 'pictures.csv']),
    );
    const { stdout } = await run('pdftotext', ['-layout', join(folder, 'contact-sheet.pdf'), '-']);
    expect(stdout).toMatch(/Harvest fair: First look/);
    expect(stdout).toMatch(/=Brighter · v001/);
    // nothing of it is left aside
    expect((await readdir(join(f.home, 'output', '.unfinished'))).filter((x) => x.startsWith('delivery'))).toEqual([]);
  });

  it('for other screens has other codes of the same colours, and says so in its files and its manifest', async () => {
    const { id } = await newest(1);
    const of = async (display: DeliveryAsked['display']) =>
      folderOf(await delivered(asked([id], { display, name: `For ${display}` })));
    const [srgb, p3] = [await of('srgb'), await of('display-p3')];
    const at = (folder: string) => join(folder, 'front/brighter_v001.png');
    const [plain, wide] = [sharp(at(srgb)), sharp(at(p3))];
    expect((await wide.metadata()).xmpAsString).toMatch(/graded: Brighter, Display P3/);
    const codes = (path: string) => sharp(path, { ignoreIcc: true }).raw().toBuffer();
    expect((await codes(at(p3))).equals(await codes(at(srgb)))).toBe(false);
    // a program that reads profiles sees one picture
    const [a, b] = [await plain.raw().toBuffer(), await wide.raw().toBuffer()];
    a.forEach((x, i) => expect(Math.abs(x - b[i]!)).toBeLessThanOrEqual(2));
    const manifest = JSON.parse(await readFile(join(p3, 'manifest.json'), 'utf8')) as { colours: string };
    expect(manifest.colours).toBe('Display P3');
    await f.running.db.query(`DELETE FROM delivery WHERE asked->>'name' LIKE 'For %'`);
  });

  it('is a zip that a stranger unpacks, and is given out', async () => {
    const d = await delivered(asked([(await newest(0)).id], { target: 'zip', name: 'Zipped' }));
    expect(d.path).toMatch(/\.zip$/);
    const answer = await fetch(`${f.base}${at}/deliveries/${d.id}/zip`);
    expect(answer.headers.get('content-type')).toBe('application/zip');
    const zip = join(f.home, 'given.zip');
    await writeFile(zip, Buffer.from(await answer.arrayBuffer()));
    const { stdout } = await run('python3', [
      '-c',
      'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); print(z.testzip(), sorted(z.namelist()))',
      zip,
    ]);
    expect(stdout).toBe("None ['front/base_v001.png', 'manifest.json', 'pictures.csv']\n");
  });

  it('is stopped while it is written, and leaves nothing', async () => {
    const many: DeliveryAsked['formats'] = [{ kind: 'png16', widthPx: 16_384, quality: 90 }];
    const what = asked([(await newest(0)).id, (await newest(1)).id], {
      formats: many,
      hasPage: true,
      hasSheet: true,
      name: 'Stopped',
    });
    const { id, path } = await f.ok<Delivery>('POST', `${at}/deliveries`, what);
    await f.ok('DELETE', `${at}/deliveries/${id}/writing`);
    const ended = async () => (await f.ok<Delivery[]>('GET', `${at}/deliveries`)).find((d) => d.id === id)!;
    while ((await ended()).state === 'writing') await new Promise((r) => setTimeout(r, 30));
    expect(await ended()).toMatchObject({ state: 'failed', error: 'It was stopped.' });
    expect(existsSync(join(f.home, 'output', path))).toBe(false);
    expect(await f.call('DELETE', `${at}/deliveries/${id}/writing`)).toMatchObject({ status: 409 });
    await f.running.db.getRepository(Deliveries).delete({ id });
  });

  it('is refused where a picture is rejected or out of date, until that is accepted', async () => {
    const base = await newest(0);
    await f.ok('PUT', `${at}/reviews`, { renderIds: [base.id], change: { verdict: 'rejected' } });
    const refused = await f.call('POST', `${at}/deliveries`, asked([base.id]));
    expect(refused).toMatchObject({ status: 409, data: { message: 'Front in Base, v001 is rejected.' } });
    const accepts = { outdated: false, rejected: true };
    expect((await delivered(asked([base.id], { accepts }))).state).toBe('done');
    await f.ok('PUT', `${at}/reviews`, { renderIds: [base.id], change: { verdict: null } });

    await render(await profileOf({ files: { ...PLAIN_FILES, exr: EXR } }), [p.variants[0]!]);
    const { faults } = await f.ok<DeliveryPlan>('POST', `${at}/deliveries/plan`, asked([base.id]));
    expect(faults).toEqual([
      { kind: 'outdated', renderId: base.id, message: 'Front in Base, v001 is older than v002.' },
    ]);
    const now = await delivered(asked([(await newest(0)).id, (await newest(1)).id], { name: 'Second look' }));
    // against the one before it
    expect(now.changes).toEqual({
      number: 3,
      added: ['Front in =Brighter'],
      gone: [],
      changed: [{ picture: 'Front in Base', was: 1, is: 2 }],
      same: 0,
    });
  });

  it('never takes one name twice, nor one that no system takes, nor a place where something lies', async () => {
    const ids = [(await newest(0)).id, (await newest(1)).id];
    const plan = (more: Partial<DeliveryAsked>) =>
      f.ok<DeliveryPlan>('POST', `${at}/deliveries/plan`, asked(ids, more));
    expect((await plan({ nameTemplate: '{camera}' })).faults[0]!.message).toMatch(/Two pictures would be “front.png”/);
    const two: DeliveryAsked['formats'] = [null, 640].map((widthPx) => ({ kind: 'png', widthPx, quality: 90 }));
    expect((await plan({ formats: two })).files.slice(0, 2)).toEqual([
      'front/base_v002_full.png',
      'front/base_v002_640px.png',
    ]);
    expect(await f.call('POST', `${at}/deliveries/plan`, asked(ids, { nameTemplate: '../{camera}' }))).toMatchObject({
      status: 400,
    });
    const { path } = await plan({ name: 'Taken' });
    await mkdir(join(f.home, 'output', path));
    expect((await plan({ name: 'Taken' })).path).toBe(`${path}-2`);
  });

  it('that a stopped server left half-written has failed, and says so', async () => {
    const aside = join(f.home, 'output', '.unfinished', 'delivery-broken');
    const id = randomUUID();
    await mkdir(join(f.home, 'output', '.unfinished', `delivery-${id}`), { recursive: true });
    await mkdir(aside);
    const { db, context } = f.running;
    await db.getRepository(Deliveries).insert({
      id,
      projectId: p.id,
      number: 99,
      asked: asked([(await newest(0)).id]),
      state: 'writing',
      error: null,
      path: 'deliveries/x',
      pictures: [],
      files: [],
      createdAt: new Date(),
    } as never);
    await endBrokenDeliveries(db, context.output);
    const [last] = await f.ok<Delivery[]>('GET', `${at}/deliveries`);
    expect(last).toMatchObject({ number: 99, state: 'failed', error: expect.stringMatching(/stopped/) as string });
    expect(existsSync(join(f.home, 'output', '.unfinished', `delivery-${id}`))).toBe(false);
    await db.getRepository(Deliveries).delete({ id });
  });
});

describe('notes from the page of a delivery', () => {
  it('come in as one edit: verdicts are set, notes added once, pictures that are gone counted', async () => {
    const base = await newest(0);
    await f.ok('PUT', `${at}/reviews`, { renderIds: [base.id], change: { note: 'Ours.' } });
    const file = {
      format: 'variscen.notes',
      version: 1,
      delivery: 2,
      notes: [
        { renderId: base.id, verdict: 'approved', note: 'Lovely.' },
        { renderId: randomUUID(), verdict: 'rejected', note: '' },
      ],
    };
    for (let n = 0; n < 2; n++)
      expect(await f.ok('POST', `${at}/reviews/notes`, file)).toEqual({ brought: 1, unknown: 1 });
    const [review] = await f.ok<Review[]>('GET', `${at}/reviews`);
    expect(review).toMatchObject({ verdict: 'approved', note: 'Ours.\nFrom delivery 2: Lovely.' });
    expect(await f.call('POST', `${at}/reviews/notes`, { ...file, format: 'other' })).toMatchObject({ status: 400 });
    const { label } = await f.ok<{ label: string }>('POST', `${at}/undo`);
    expect(label).toMatch(/^Bring 1 notes on delivery 2/);
  });
});

describe('a contact sheet and a table', () => {
  const sheet = async (more: Partial<SheetAsked>): Promise<string> => {
    const renderIds = [(await newest(0)).id, (await newest(1)).id];
    const body = {
      renderIds,
      arrangement: 'grid',
      columns: 4,
      format: 'pdf',
      paper: 'a4',
      orientation: 'landscape',
      widthPx: 1000,
      background: 'white',
      title: 'Stall · Žluť · Чай',
      label: '{version} · {profile}\n{note}',
      ...more,
    };
    const answer = await fetch(`${f.base}${at}/contact-sheet`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    expect(answer.status, await (answer.ok ? '' : answer.clone().text())).toBe(200);
    const file = join(f.home, `sheet.${String(body.format)}`);
    await writeFile(file, Buffer.from(await answer.arrayBuffer()));
    return file;
  };
  it('is a PDF with words in several scripts that a stranger reads, in the house’s typeface', async () => {
    const file = await sheet({});
    const { stdout } = await run('pdftotext', ['-layout', file, '-']);
    for (const words of ['Stall · Žluť · Чай', 'Front', 'Base', '=Brighter', 'v002 · Own'])
      expect(stdout).toContain(words);
    const fonts = (await run('pdffonts', [file])).stdout;
    expect(fonts).toMatch(/IBMPlexSans.*yes yes/);
    expect((await run('pdfinfo', [file])).stdout).toMatch(/Page size:\s+841.89 x 595.28 pts \(A4\)/);
  });
  it('is a PNG as wide as asked for, with the pictures where they should be', async () => {
    const file = await sheet({
      format: 'png',
      arrangement: 'rows',
      columns: 2,
      background: 'black',
      label: '',
      title: '',
    });
    const { data, info } = await sharp(file).raw().toBuffer({ resolveWithObject: true });
    expect(info.width).toBe(1000);
    const at2 = (x: number, y: number) => [...data.subarray((y * info.width + x) * 3, (y * info.width + x) * 3 + 3)];
    expect(at2(5, 5)).toEqual([0, 0, 0]);
    const light = (x: number) => at2(x, Math.round(info.height / 2))[1]!;
    expect(light(250)).toBeGreaterThan(20);
    // the second is graded a stop and a half brighter
    expect(light(750)).toBeGreaterThan(light(250) + 10);
  });
  it('refuses a label that says nothing, by its token', async () => {
    const body = {
      renderIds: [(await newest(0)).id],
      arrangement: 'rows',
      columns: 1,
      format: 'pdf',
      paper: 'a4',
      orientation: 'portrait',
      widthPx: 1000,
      background: 'white',
      title: '',
      label: '{colour}',
    };
    expect(await f.call('POST', `${at}/contact-sheet`, body)).toMatchObject({
      status: 400,
      data: { message: expect.stringMatching(/no token \{colour\}/) as string },
    });
  });
  it('tells what each picture took, and no name is a formula', async () => {
    const answer = await fetch(`${f.base}${at}/renders-table`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ renderIds: [(await newest(1)).id] }),
    });
    const lines = (await answer.text()).replace('\uFEFF', '').trim().split('\n');
    expect(lines).toHaveLength(2);
    expect(lines[0]).toMatch(/^camera,variant,frame,version,profile,width_px/);
    expect(lines[1]).toMatch(/^Front,'=Brighter,,v001,Own [-0-9a-f]+,96,54,4,/);
  });
});
