// Finished pictures are looked at in tiles that hold what was rendered, and what people say of them is kept.
import { randomUUID } from 'node:crypto';
import { appendFile, readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { inflateRawSync } from 'node:zlib';
import {
  MOST_REGIONS,
  type Project,
  type Reference,
  type Region,
  type Render,
  type Rendered,
  type Review,
  type RouteAnswer,
} from '@variscen/contract';
import { decodeSrgb, levelsOf, parseLut, tileFromBytes, tileSize, writeExr } from '@variscen/core/image';
import { PLAIN_FILES, PROFILES } from '@variscen/core/plan';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { ENGINE, type Fixture, helloOf, projectWithScene, startFixture } from './fixture.ts';

const never = new AbortController().signal;
let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(() => f?.close());

const EXR = { type: 'float', compression: 'zip', perCell: false, aovsApart: false } as const;
/** A project whose second variant differs by its grade alone. */
async function graded(name: string): Promise<Project> {
  const p = await projectWithScene(f, name);
  const at = `/api/projects/${p.id}`;
  await f.ok('POST', `${at}/options/together`, {
    options: [
      { facet: 'grade', name: 'Brighter', changes: [{ target: 'grade', property: 'grade.exposure', value: 1.5 }] },
    ],
    variant: { fromVariantId: p.variants[0]!.id, name: 'Brighter' },
  });
  return f.ok<Project>('GET', at);
}
async function profileOf(p: Project, more: object): Promise<string> {
  const id = randomUUID();
  const { id: _, ...sketch } = PROFILES[0]!;
  await f.ok('PUT', `/api/projects/${p.id}/profiles/${id}`, {
    ...sketch,
    name: `Own ${id}`,
    denoise: 0,
    samples: 4,
    ...more,
  });
  return id;
}
async function render(p: Project, profileId: string): Promise<void> {
  const cells = p.variants.map((v) => ({ cameraId: p.cameras[0]!.id, variantId: v.id }));
  await f.ok('POST', `/api/projects/${p.id}/batches`, { cells, profileId });
  for (let l = await f.node.lease(ENGINE); l; l = await f.node.lease(ENGINE))
    await renderTrace(f.node, l, f.machine, never);
}
async function newest(p: Project, variant = 0): Promise<Render> {
  const at = `/api/projects/${p.id}/cells/${p.cameras[0]!.id}/${p.variants[variant]!.id}`;
  return (await f.ok<Render[]>('GET', at))[0]!;
}

type About = RouteAnswer<'tiledPicture'>;
const layersOf = (r: Render) => f.ok<RouteAnswer<'pictureLayers'>>('GET', `/api/renders/${r.id}/layers`);
/** A level of a layer, put together of its tiles. */
async function levelOf(r: { readonly id: string }, layer: string, level: number) {
  const at = `/api/renders/${r.id}/layers/${encodeURIComponent(layer)}`;
  const about = await f.ok<About>('GET', at);
  const size = levelsOf(about)[level]!;
  const wanted = Array.from({ length: size.columns * size.rows }, (_, i) => ({
    x: i % size.columns,
    y: Math.floor(i / size.columns),
  }));
  const answer = await fetch(`${f.base}${at}/tiles?at=${wanted.map(({ x, y }) => `${level}.${x}.${y}`).join()}`);
  expect(answer.status).toBe(200);
  const bytes = Buffer.from(await answer.arrayBuffer());
  const pixels = new Float32Array(size.widthPx * size.heightPx * about.channels);
  let from = 0;
  for (const { x, y } of wanted) {
    const length = bytes.readUInt32LE(from);
    const tile = tileSize(size, x, y);
    const part = tileFromBytes(
      inflateRawSync(bytes.subarray(from + 4, from + 4 + length)),
      tile.widthPx,
      about.channels,
    );
    from += 4 + length;
    for (let row = 0; row < tile.heightPx; row++)
      pixels.set(
        part.subarray(row * tile.widthPx * about.channels, (row + 1) * tile.widthPx * about.channels),
        ((y * 256 + row) * size.widthPx + x * 256) * about.channels,
      );
  }
  return { about, size, pixels };
}
const meanOf = (pixels: Float32Array, channels: number, k: number): number => {
  let sum = 0;
  for (let i = k; i < pixels.length; i += channels) sum += pixels[i]!;
  return sum / (pixels.length / channels);
};

describe('a finished picture in tiles', () => {
  it('holds the light that was rendered, at full size and smaller, and so does its sister that differs by its grade', async () => {
    const p = await graded('Looked at');
    await render(
      p,
      await profileOf(p, { widthPx: 300, samples: 1, aovs: ['depth', 'normal'], files: { ...PLAIN_FILES, exr: EXR } }),
    );
    const [base, brighter] = [await newest(p), await newest(p, 1)];
    const { layers, grade } = await layersOf(base);
    expect(layers.map((l) => [l.name, l.kind, l.isLinear])).toEqual([
      ['picture', 'light', true],
      ['depth', 'distance', true],
      ['depth.range', 'share', true],
      ['normal', 'vector', true],
    ]);
    expect(grade.exposureEv).toBe(0);
    const whole = await levelOf(base, 'picture', 0);
    expect(whole.about).toEqual({ widthPx: 300, heightPx: 169, channels: 4 });
    // as its PNG shows it, which the node wrote from the same film
    const png = await sharp(join(f.home, 'output', base.files.find((x) => x.kind === 'png')!.path))
      .raw()
      .toBuffer();
    const shown = await levelOf({ ...base }, 'picture', 1);
    expect(shown.size.widthPx).toBe(150);
    for (let i = 0; i < 300 * 169; i += 177) {
      const code = png[i * 3]! / 255;
      // below the knee of its rolloff the grade of the base changes nothing but the screen's curve
      if (code < 0.6) expect(Math.abs(whole.pixels[i * 4]! - decodeSrgb(code))).toBeLessThan(0.01);
    }
    for (const k of [0, 1, 2, 3]) expect(meanOf(shown.pixels, 4, k)).toBeCloseTo(meanOf(whole.pixels, 4, k), 2);

    const sister = await layersOf(brighter);
    expect(sister.grade.exposureEv).toBe(1.5);
    expect((await levelOf(brighter, 'picture', 0)).pixels).toEqual(whole.pixels);
  });

  it('that was written only as a screen shows it is shown so, and said to be', async () => {
    const p = await graded('Only PNG');
    await render(p, await profileOf(p, { widthPx: 48, files: { ...PLAIN_FILES, exr: null } }));
    const brighter = await newest(p, 1);
    const { layers, grade } = await layersOf(brighter);
    expect(layers).toMatchObject([{ name: 'picture', isLinear: false }]);
    // the grade is in it already
    expect([grade.exposureEv, grade.rolloff]).toEqual([0, 0]);
    const { pixels } = await levelOf(brighter, 'picture', 0);
    const png = await sharp(join(f.home, 'output', brighter.files.find((x) => x.kind === 'png')!.path))
      .raw()
      .toBuffer();
    for (let i = 0; i < 48 * 27; i++) expect(pixels[i * 4 + 1]!).toBeCloseTo(decodeSrgb(png[i * 3 + 1]! / 255), 2);
  });

  it('is made anew where what was kept of it is damaged, once for all who ask, and refused where the file is another', async () => {
    const p = await graded('Damaged');
    await render(p, await profileOf(p, { widthPx: 48, files: { ...PLAIN_FILES, exr: EXR } }));
    const base = await newest(p);
    const before = await levelOf(base, 'picture', 0);
    const folder = join(f.home, 'pictures', base.id);
    expect(await readdir(folder)).toEqual(['picture.tiles']);
    await writeFile(join(folder, 'picture.tiles'), 'not tiles');
    const all = await Promise.all([0, 1, 2].map(() => levelOf(base, 'picture', 0)));
    for (const { pixels } of all) expect(pixels).toEqual(before.pixels);
    expect(await readdir(folder)).toEqual(['picture.tiles']);

    const ask = (path: string) => f.call('GET', `/api/renders/${base.id}/layers/${path}`);
    expect(await ask('normal')).toMatchObject({
      status: 404,
      data: { message: expect.stringMatching(/no layer “normal”/) as string },
    });
    expect((await ask('picture/tiles?at=0.9.0')).status).toBe(404);
    expect((await ask('picture/tiles?at=0.0')).status).toBe(400);
    expect((await ask(encodeURIComponent('../../../x'))).status).toBe(404);

    await rm(join(folder, 'picture.tiles'));
    await appendFile(join(f.home, 'output', base.files.find((x) => x.kind === 'exr')!.path), 'more');
    expect(await ask('picture')).toMatchObject({ status: 409, data: { code: 'FILE_CHANGED' } });
  });
});

describe('what people say of pictures', () => {
  it('is an edit of one or of many, undone and redone, and gone with the last word', async () => {
    const p = await graded('Judged');
    const at = `/api/projects/${p.id}`;
    await render(p, await profileOf(p, { widthPx: 48 }));
    const [a, b] = [await newest(p), await newest(p, 1)];
    const say = (renderIds: string[], change: object) => f.ok('PUT', `${at}/reviews`, { renderIds, change });
    const reviews = () => f.ok<Review[]>('GET', `${at}/reviews`);
    const verdicts = async () => (await reviews()).map((r) => r.verdict).sort();

    await say([a.id, b.id], { verdict: 'approved' });
    expect(await verdicts()).toEqual(['approved', 'approved']);
    const mark = {
      id: randomUUID(),
      points: [
        [0.1, 0.2],
        [0.3, 0.9],
      ],
      text: 'too dark here',
    };
    await say([b.id], { verdict: 'rejected', note: 'The lamp burns out.', marks: [mark] });
    expect((await reviews()).find((r) => r.renderId === b.id)).toMatchObject({
      cameraId: b.cameraId,
      variantId: b.variantId,
      version: 1,
      verdict: 'rejected',
      note: 'The lamp burns out.',
      marks: [mark],
    });
    // what is not named stays
    await say([b.id], { note: 'The lamp is too strong.' });
    expect((await reviews()).find((r) => r.renderId === b.id)).toMatchObject({ verdict: 'rejected', marks: [mark] });

    const { label } = await f.ok<{ label: string }>('POST', `${at}/undo`);
    expect(label).toBe('Note on Front in Brighter, v001');
    expect((await reviews()).find((r) => r.renderId === b.id)!.note).toBe('The lamp burns out.');
    await f.ok('POST', `${at}/undo`);
    await f.ok('POST', `${at}/undo`);
    expect(await reviews()).toEqual([]);
    for (let n = 0; n < 3; n++) await f.ok('POST', `${at}/redo`);
    expect((await reviews()).find((r) => r.renderId === b.id)!.note).toBe('The lamp is too strong.');
    await say([a.id, b.id], { verdict: null, note: '', marks: [] });
    expect(await reviews()).toEqual([]);
  });

  it('is refused of pictures of another project, and where it is beyond what a note holds', async () => {
    const [p, other] = [await graded('One'), await graded('Other')];
    await render(other, await profileOf(other, { widthPx: 48 }));
    const { id } = await newest(other);
    const say = (change: object) => f.call('PUT', `/api/projects/${p.id}/reviews`, { renderIds: [id], change });
    expect(await say({ verdict: 'approved' })).toMatchObject({ status: 404 });
    expect(await say({ verdict: 'perhaps' })).toMatchObject({ status: 400 });
    expect(await say({ note: 'x'.repeat(4001) })).toMatchObject({ status: 400 });
    expect(await say({ marks: [{ id: randomUUID(), points: [[0.5, 1.5]], text: '' }] })).toMatchObject({ status: 400 });
    expect(await f.ok('GET', `/api/projects/${other.id}/reviews`)).toEqual([]);
  });

  it('stands beside every version, newest first, each with what is other than in the one before', async () => {
    const p = await graded('Versions');
    const at = `/api/projects/${p.id}`;
    await render(p, await profileOf(p, { widthPx: 48 }));
    await f.ok('POST', `${at}/options/together`, {
      options: [
        { facet: 'lighting', name: 'Dim', changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 5 }] },
      ],
    });
    const { variants, options } = await f.ok<Project>('GET', at);
    const dim = options.find((o) => o.name === 'Dim')!;
    await f.ok('PATCH', `${at}/variants/${variants[0]!.id}`, { optionIds: [dim.id] });
    await render(p, await profileOf(p, { widthPx: 48, samples: 5 }));
    const rendered = await f.ok<Rendered[]>('GET', `${at}/renders`);
    expect(rendered.map((r) => r.version).sort()).toEqual([1, 1, 2, 2]);
    expect(rendered[0]!.version).toBe(2);
    const newer = rendered.find((r) => r.version === 2 && r.variantId === variants[0]!.id)!;
    const { before, render: about } = await f.ok<RouteAnswer<'render'>>('GET', `/api/renders/${newer.id}`);
    expect(about.samples).toBe(5);
    expect(before).toMatchObject({ version: 1 });
    expect(before!.differences).toEqual([
      {
        subject: 'Lamp',
        what: 'strength',
        was: expect.stringMatching(/^20/) as string,
        is: expect.stringMatching(/^5/) as string,
      },
      { subject: 'Profile', what: 'samples', was: '4', is: '5' },
    ]);
    const first = await f.ok<RouteAnswer<'render'>>('GET', `/api/renders/${before!.renderId}`);
    expect(first.before).toBeNull();
  });
});

describe('a region of a camera that is measured', () => {
  it('is kept, changed and dropped as edits, and comes back with its camera', async () => {
    const p = await graded('Measured');
    const at = `/api/projects/${p.id}`;
    const regions = () => f.ok<Region[]>('GET', `${at}/regions`);
    const [wall, shade] = [randomUUID(), randomUUID()];
    const cameraId = p.cameras[0]!.id;
    const where = { cameraId, from: [0.1, 0.2], to: [0.3, 0.1] };
    await f.ok('PUT', `${at}/regions/${wall}`, { ...where, name: 'Wall' });
    await f.ok('PUT', `${at}/regions/${shade}`, { ...where, to: [0.9, 0.9], name: 'Shade' });
    await f.ok('PUT', `${at}/regions/${wall}`, { ...where, name: 'Lit wall' });
    expect(await regions()).toEqual([
      { id: wall, ...where, name: 'Lit wall' },
      { id: shade, ...where, to: [0.9, 0.9], name: 'Shade' },
    ]);
    expect(await f.ok('POST', `${at}/undo`)).toMatchObject({ label: 'Rename region Wall to Lit wall' });
    await f.ok('DELETE', `${at}/regions/${shade}`);
    expect((await regions()).map((r) => r.name)).toEqual(['Wall']);
    expect(await f.ok('POST', `${at}/undo`)).toMatchObject({ label: 'Drop region Shade' });
    // the camera must not be the last one to be deleted
    await f.ok('POST', `${at}/cameras`, { name: 'Other', settings: p.cameras[0]!.settings });
    await f.ok('DELETE', `${at}/cameras/${cameraId}`);
    expect(await regions()).toEqual([]);
    await f.ok('POST', `${at}/undo`);
    expect((await regions()).map((r) => r.name)).toEqual(['Wall', 'Shade']);
  });

  it('is refused of another project’s camera, without an area, outside the frame, and where there are too many', async () => {
    const [p, other] = [await graded('Bounds'), await graded('Other bounds')];
    const at = `/api/projects/${p.id}/regions`;
    const put = (body: object, id: string = randomUUID()) =>
      f.call('PUT', `${at}/${id}`, { name: 'R', cameraId: p.cameras[0]!.id, from: [0, 0], to: [0.5, 0.5], ...body });
    expect(await put({ cameraId: other.cameras[0]!.id })).toMatchObject({ status: 404 });
    expect(await put({ to: [0, 0.5] })).toMatchObject({ status: 400, data: { message: 'A region has an area.' } });
    expect(await put({ to: [1.1, 0.5] })).toMatchObject({ status: 400 });
    expect(await put({ name: ' ' })).toMatchObject({ status: 400 });
    const id = randomUUID();
    expect((await put({}, id)).status).toBe(200);
    const theirs = { name: 'R', cameraId: other.cameras[0]!.id, from: [0, 0], to: [1, 1] };
    expect(await f.call('PUT', `/api/projects/${other.id}/regions/${id}`, theirs)).toMatchObject({ status: 404 });
    expect(await f.call('DELETE', `/api/projects/${other.id}/regions/${id}`)).toMatchObject({ status: 404 });
    for (let n = 1; n < MOST_REGIONS; n++) expect((await put({})).status).toBe(200);
    expect(await put({})).toMatchObject({
      status: 400,
      data: { message: expect.stringMatching(/at most 50 regions/) as string },
    });
  });
});

describe('a grade of finished pictures', () => {
  const EXR_FILES = { ...PLAIN_FILES, exr: EXR };
  const grading = (of: string, value: number) => ({ target: 'grade', property: `grade.${of}`, value });
  const exposure = (value: number) => grading('exposure', value);
  const cellsOf = (p: Project, ...variants: number[]) =>
    variants.map((v) => ({ cameraId: p.cameras[0]!.id, variantId: p.variants[v]!.id }));
  const pixels = (r: Render) =>
    sharp(join(f.home, 'output', r.files.find((x) => x.kind === 'png')!.path))
      .raw()
      .toBuffer();
  const until = async (what: () => Promise<boolean>) => {
    for (const end = Date.now() + 20_000; Date.now() < end; await new Promise((r) => setTimeout(r, 50)))
      if (await what()) return;
    throw new Error('It did not come to that in time.');
  };

  it('is changed for some of them as one edit, and they are made anew from their light: the pictures that rendering gives', async () => {
    const p = await graded('Developed');
    const at = `/api/projects/${p.id}`;
    const profile = await profileOf(p, { widthPx: 48, files: EXR_FILES });
    await render(p, profile);
    const traces = async () => (await f.ok<{ traces: unknown[] }>('GET', '/api/queue')).traces.length;
    const before = await traces();
    const lens = [grading('vignette', 0.5), grading('bloom', 0.2)];
    await f.ok('PUT', `${at}/grades`, { cells: cellsOf(p, 0, 1), set: [exposure(0.7), ...lens], clear: [] });
    const { cells, refused } = await f.ok<RouteAnswer<'develop'>>('POST', `${at}/develop`, { cells: cellsOf(p, 0, 1) });
    expect([cells.length, refused]).toEqual([2, []]);
    await until(async () => (await newest(p)).version + (await newest(p, 1)).version === 4);
    const [first, second] = [await newest(p), await newest(p, 1)];
    expect(first).toMatchObject({ version: 2, developedFrom: 1, samples: 4 });
    expect(await traces()).toBe(before);
    // one light by one grade is one picture, and it is up to date
    expect((await pixels(first)).equals(await pixels(second))).toBe(true);
    const board = await f.ok<{ cells: { status: string }[] }>('GET', `${at}/board`);
    expect(board.cells.map((c) => c.status)).toEqual(['current', 'current']);
    expect((await layersOf(first)).grade.exposureEv).toBe(0.7);
    // again rendered, with the same samples, it is the same to the code
    await render(p, profile);
    const traced = await newest(p);
    expect(traced).toMatchObject({ version: 3, developedFrom: null });
    expect((await pixels(traced)).equals(await pixels(first))).toBe(true);
    const { label } = await f.ok<{ label: string }>('POST', `${at}/undo`);
    expect(label).toBe('Grade 2 pictures');
  });

  it('of a variant that was never rendered comes from another whose light is the same; what differs in more is rendered', async () => {
    const p = await graded('Alike');
    const at = `/api/projects/${p.id}`;
    await render(p, await profileOf(p, { widthPx: 48, files: EXR_FILES }));
    const add = (name: string, facet: string, change: object) =>
      f.ok('POST', `${at}/options/together`, {
        options: [{ facet, name, changes: [change] }],
        variant: { fromVariantId: p.variants[0]!.id, name },
      });
    await add('Darker', 'grade', exposure(-1));
    await add('Dim', 'lighting', { target: 'light:Lamp', property: 'light.intensity', value: 5 });
    const now = await f.ok<Project>('GET', at);
    const plan = await f.ok<RouteAnswer<'planDevelop'>>('POST', `${at}/developable`, { cells: cellsOf(now, 0, 2, 3) });
    expect(plan.cells).toEqual(cellsOf(now, 2));
    expect(plan.refused.map((r) => r.why)).toEqual([
      'It is up to date.',
      'No stored picture differs from it in its grade alone.',
    ]);
    await f.ok('POST', `${at}/develop`, { cells: cellsOf(now, 2) });
    await until(
      async () =>
        (await f.ok<Render[]>('GET', `${at}/cells/${now.cameras[0]!.id}/${now.variants[2]!.id}`)).length === 1,
    );
    const darker = await newest(now, 2);
    const [a, b] = [await pixels(darker), await pixels(await newest(now))];
    expect(a.reduce((x, y) => x + y)).toBeLessThan(b.reduce((x, y) => x + y) * 0.9);
    // its light is that of the other's file, which lies where it lay
    expect(darker.files.find((x) => x.kind === 'exr')!.path).toBe(
      (await newest(now)).files.find((x) => x.kind === 'exr')!.path,
    );
  });

  it('that cannot be made keeps no other of the same light from being made', async () => {
    const p = await graded('One LUT is gone');
    const at = `/api/projects/${p.id}`;
    await render(p, await profileOf(p, { widthPx: 48, files: EXR_FILES }));
    const cube = ['LUT_3D_SIZE 2', ...Array.from({ length: 8 }, (_, i) => `${i & 1} ${(i >> 1) & 1} ${i >> 2}`)];
    const bytes = new TextEncoder().encode(cube.join('\n'));
    const { value } = await f.ok<{ value: string }>('POST', '/api/luts?fileName=gone.cube', bytes);
    const add = (name: string, change: object) =>
      f.ok('POST', `${at}/options/together`, {
        options: [{ facet: 'grade', name, changes: [change] }],
        variant: { fromVariantId: p.variants[0]!.id, name },
      });
    await add('Darker', exposure(-1));
    await add('By a LUT', { target: 'grade', property: 'grade.lut', value });
    await add('Bluish', { target: 'grade', property: 'grade.whiteKelvin', value: 5000 });
    const now = await f.ok<Project>('GET', at);
    const { hash } = parseLut(value)!;
    await rm(join(f.home, 'assets', hash.slice(0, 2), hash));
    await f.ok('POST', `${at}/develop`, { cells: cellsOf(now, 2, 3, 4) });
    const made = async (variant: number) =>
      (await f.ok<Render[]>('GET', `${at}/cells/${now.cameras[0]!.id}/${now.variants[variant]!.id}`)).length;
    await until(async () => (await made(2)) === 1 && (await made(4)) === 1);
    expect(await made(3)).toBe(0);
  });

  it('is refused with what is no grade, and without the light of a picture', async () => {
    const p = await graded('No light');
    const at = `/api/projects/${p.id}`;
    await render(p, await profileOf(p, { widthPx: 48, files: { ...PLAIN_FILES, exr: null } }));
    const set = [{ target: 'light:Lamp', property: 'light.intensity', value: 5 }];
    expect(await f.call('PUT', `${at}/grades`, { cells: cellsOf(p, 0), set, clear: [] })).toMatchObject({
      status: 400,
    });
    await f.ok('PUT', `${at}/grades`, { cells: cellsOf(p, 0), set: [exposure(1)], clear: [] });
    const { cells, refused } = await f.ok<RouteAnswer<'develop'>>('POST', `${at}/develop`, { cells: cellsOf(p, 0) });
    expect([cells, refused.length]).toEqual([[], 1]);
  });
});

describe('a picture of others', () => {
  const open = (p: Project, fileName: string, body: Uint8Array) =>
    fetch(`${f.base}/api/projects/${p.id}/references?fileName=${encodeURIComponent(fileName)}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: body as Uint8Array<ArrayBuffer>,
    });

  it('is opened, looked at by its layers as renders are, and closed', async () => {
    const p = await projectWithScene(f, 'Held against others');
    const data = Float32Array.from({ length: 30 * 20 }, (_, i) => i / 100);
    const channels = ['R', 'G', 'B', 'grain.Y'].map((name) => ({ name, type: 'float', data }) as const);
    const exr = writeExr({ width: 30, height: 20, channels });
    const first = (await (await open(p, 'Wall of the lane.exr', exr)).json()) as Reference;
    expect(first).toMatchObject({
      name: 'Wall of the lane.exr',
      widthPx: 30,
      heightPx: 20,
      isLinear: true,
      remarks: [],
    });
    // once more it is the same
    expect(((await (await open(p, 'Wall of the lane.exr', exr)).json()) as Reference).id).toBe(first.id);
    const { layers } = await f.ok<RouteAnswer<'pictureLayers'>>('GET', `/api/renders/${first.id}/layers`);
    expect(layers.map((l) => l.name)).toEqual(['picture', 'grain']);
    const { pixels, about } = await levelOf(first, 'picture', 0);
    expect(about).toEqual({ widthPx: 30, heightPx: 20, channels: 3 });
    for (const i of [0, 299, 599]) expect(pixels[i * 3]!).toBeCloseTo(data[i]!, 2);

    const red = { create: { width: 8, height: 6, channels: 3, background: '#c00000' } } as const;
    const shown = (await (await open(p, 'Print.png', await sharp(red).png().toBuffer())).json()) as Reference;
    expect(shown).toMatchObject({ widthPx: 8, heightPx: 6, isLinear: false });
    expect((await levelOf(shown, 'picture', 0)).pixels[0]).toBeCloseTo(decodeSrgb(0xc0 / 255), 2);

    const list = () => f.ok<Reference[]>('GET', `/api/projects/${p.id}/references`);
    expect((await list()).map((r) => r.name)).toEqual(['Print.png', 'Wall of the lane.exr']);
    await f.ok('DELETE', `/api/projects/${p.id}/references/${first.id}`);
    expect((await list()).map((r) => r.name)).toEqual(['Print.png']);
    expect((await fetch(`${f.base}/api/renders/${first.id}/layers`)).status).toBe(404);
  });

  it('that is closed while it is made ready is gone, and that is no fault', async () => {
    const p = await projectWithScene(f, 'Closed too soon');
    const data = new Float32Array(700 * 500).fill(0.5);
    const channels = ['R', 'G', 'B'].map((name) => ({ name, type: 'float', data }) as const);
    const exr = writeExr({ width: 700, height: 500, channels });
    const answers: number[] = [];
    for (let waitMs = 0; waitMs < 160; waitMs += 20) {
      const { id } = (await (await open(p, `Wall ${waitMs}.exr`, exr)).json()) as Reference;
      const asked = fetch(`${f.base}/api/renders/${id}/layers/picture`);
      await new Promise((r) => setTimeout(r, waitMs));
      await f.ok('DELETE', `/api/projects/${p.id}/references/${id}`);
      answers.push((await asked).status);
    }
    for (const status of answers) expect([200, 404]).toContain(status);
  });

  it('that cannot be read is refused by its name, and nothing is there', async () => {
    const p = await projectWithScene(f, 'Held against nothing');
    const answer = await open(p, 'Words.exr', new TextEncoder().encode('These are words.'));
    expect(answer.status).toBe(422);
    expect(((await answer.json()) as { message: string }).message).toContain('“Words.exr”');
    expect(await f.ok('GET', `/api/projects/${p.id}/references`)).toEqual([]);
  });
});
