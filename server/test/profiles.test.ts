// Profiles of one's own, exceptions from them, and the files that they ask for; read by Debian's OpenEXR and
// OpenImageIO, which know nothing of Variscen.
import { execFile } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Board, Plan, Project, Render } from '@variscen/contract';
import { AOVS, PLAIN_FILES, PROFILES, type Profile, type LightGroup } from '@variscen/core/plan';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, projectWithScene, startFixture, helloOf } from './fixture.ts';

const run = promisify(execFile);
const never = new AbortController().signal;
const SKETCH = PROFILES[0]!;

let f: Fixture;
/** Below which profiles may put files, too; on another disk than the application's own. */
let elsewhere: string;
beforeAll(async () => {
  elsewhere = await mkdtemp('/dev/shm/variscen-pictures-');
  f = await startFixture({ outputRoots: [elsewhere, `${elsewhere}-unplugged`] });
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(async () => {
  await f?.close();
  await rm(elsewhere, { recursive: true, force: true });
});

/** As the API takes them: without the id, which stands in the path. */
function bodyOf(profile: Partial<Profile>): object {
  return Object.fromEntries(Object.entries({ ...SKETCH, name: 'Own', ...profile }).filter(([key]) => key !== 'id'));
}
async function put(p: Project, profile: Partial<Profile>, id = randomUUID() as string): Promise<string> {
  await f.ok('PUT', `/api/projects/${p.id}/profiles/${id}`, bodyOf(profile));
  return id;
}
const plan = (p: Project, profileId: string, cells = [cellOf(p)]) =>
  f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells, profileId });
async function render(p: Project, profileId: string, cells = [cellOf(p)]): Promise<Render> {
  await f.ok('POST', `/api/projects/${p.id}/batches`, { cells, profileId });
  for (let l = await f.node.lease(ENGINE); l; l = await f.node.lease(ENGINE))
    await renderTrace(f.node, l, f.machine, never);
  return (await history(p))[0]!;
}
const history = (p: Project, cell = cellOf(p)) =>
  f.ok<Render[]>('GET', `/api/projects/${p.id}/cells/${cell.cameraId}/${cell.variantId}`);
const pathOf = (r: Render, kind: string) => join(f.home, 'output', r.files.find((x) => x.kind === kind)!.path);
const refreshed = (p: Project) => f.ok<Project>('GET', `/api/projects/${p.id}`);

describe('a profile of one’s own', () => {
  it('is made, changed and deleted as a step of the project, and renders as it says', async () => {
    const p = await projectWithScene(f, 'Own profile');
    const id = await put(p, { samples: 3, widthPx: 96, denoise: 0 });
    const first = await render(p, id);
    expect(first).toMatchObject({ widthPx: 96, heightPx: 54, samples: 3, profile: { id, name: 'Own' } });
    await put(p, { samples: 5, name: 'Other' }, id);
    expect((await plan(p, id)).profile).toMatchObject({ samples: 5, name: 'Other' });
    await f.ok('POST', `/api/projects/${p.id}/undo`);
    expect((await plan(p, id)).profile).toMatchObject({ samples: 3, name: 'Own' });
    await f.ok('DELETE', `/api/projects/${p.id}/profiles/${id}`);
    const body = { cells: [cellOf(p)], profileId: id };
    expect((await f.call('POST', `/api/projects/${p.id}/plan`, body)).data.message).toMatch(/may have been deleted/);
    expect((await history(p))[0]!.profile.name).toBe('Own'); // what was rendered keeps it
  });
  it('of the library serves every project, and two have not one name', async () => {
    const id = randomUUID();
    await f.ok('PUT', `/api/profiles/${id}`, bodyOf({ name: 'House', samples: 2 }));
    for (const name of ['One', 'Two'])
      expect((await plan(await projectWithScene(f, name), id)).profile.samples).toBe(2);
    const again = await f.call('PUT', `/api/profiles/${randomUUID()}`, bodyOf({ name: 'house' }));
    expect(again.data).toMatchObject({ code: 'NAME_TAKEN' });
    await f.ok('DELETE', `/api/profiles/${id}`);
    expect((await f.ok('GET', '/api/profiles')).library).toEqual([]);
  });
  it.each([
    [{ samples: 0 }, /samples/],
    [{ widthPx: 20_000 }, /widthPx/],
    [{ files: { ...PLAIN_FILES, exr: null, png: null } }, /at least one file format/],
    [{ files: { ...PLAIN_FILES, jpeg: 101 } }, /jpeg/],
    [{ nameTemplate: '{nothing}' }, /no token \{nothing\}/],
    [{ aovs: ['depth', 'depth'] as never }, /named twice/],
    [{ outputFolder: '../elsewhere' }, /outputFolder.*leads out of it/],
    [{ outputFolder: 'finals/con' }, /keep for devices/],
    [{ outputFolder: 'finals/{camera}' }, /folders may not have/],
    [{ outputFolder: `/mnt/${'茶'.repeat(90)}` }, /270 bytes, and disks take 255/],
  ])('out of its ranges is refused: %j', async (wrong, said) => {
    const p = await projectWithScene(f, 'Ranges');
    const r = await f.call('PUT', `/api/projects/${p.id}/profiles/${randomUUID()}`, bodyOf(wrong));
    expect([r.status, r.data.message]).toEqual([400, expect.stringMatching(said)]);
  });
  it('of direct light alone has the light that the whole picture has of it', async () => {
    const p = await projectWithScene(f, 'Direct');
    const files = { ...PLAIN_FILES, exr: { ...PLAIN_FILES.exr!, type: 'float' as const } };
    const how = { samples: 300, widthPx: 48, denoise: 0, aovs: ['direct', 'indirect', 'emission'] as const, files };
    const meansOf = async (r: Render, channels: string) => {
      const { stdout } = await run('oiiotool', [pathOf(r, 'exr'), '--ch', channels, '--printstats']);
      return /Stats Avg: (.*?)\(/.exec(stdout)![1]!.trim().split(/\s+/).map(Number);
    };
    const whole = await render(p, await put(p, { ...how, name: 'Whole' }));
    const direct = await render(p, await put(p, { ...how, name: 'Direct', integrator: 'direct' }));
    const [light, bounced] = await meansOf(direct, 'direct.G,indirect.G');
    expect(bounced).toBe(0);
    expect(light).toBeGreaterThan(0.1);
    expect(light! / (await meansOf(whole, 'direct.G'))[0]!).toBeCloseTo(1, 1.5);
    expect((await meansOf(whole, 'indirect.G'))[0]).toBeGreaterThan(0);
  });
  it('names files by a template of its own', async () => {
    const p = await projectWithScene(f, 'Named');
    const id = await put(p, { nameTemplate: 'client/{camera}-{profile}-{version}' });
    expect((await plan(p, id)).traces[0]!.cells[0]!.path).toBe('client/front-own-v001');
  });
});

describe('the output folder of a profile', () => {
  it('takes its files, on another disk too, where they are looked after as any other', async () => {
    const p = await projectWithScene(f, 'Folders');
    const near = await render(p, await put(p, { outputFolder: 'finals/night', name: 'Near' }));
    expect(near.files[0]!.path).toBe('finals/night/folders/front/base_v001.exr');
    expect(existsSync(pathOf(near, 'png'))).toBe(true);
    const id = await put(p, { outputFolder: `${elsewhere}/night` });
    const far = await render(p, id);
    const png = far.files.find((x) => x.kind === 'png')!;
    expect(png.path).toBe(`${elsewhere}/night/folders/front/base_v002.png`);
    expect((await sharp(png.path).metadata()).width).toBe(far.widthPx);
    expect(await readdir(`${elsewhere}/night/folders/front`)).toHaveLength(3); // and nothing half-done beside them
    expect((await fetch(`${f.base}/api/renders/${far.id}/files/png`)).status).toBe(200);
    // theirs at the next version's place: the version rises
    await writeFile(`${elsewhere}/night/folders/front/base_v003.exr`, 'theirs');
    expect((await plan(p, id)).traces[0]!.cells[0]!.files[0]).toBe(`${elsewhere}/night/folders/front/base_v004.exr`);
    await rm(png.path);
    const board = await f.ok<Board>('GET', `/api/projects/${p.id}/board?profileId=${id}`);
    expect(JSON.stringify(board.cells)).toContain(`"path":"${png.path}","fault":"gone"`);
  });
  it('is refused in the plan where it is not allowed, not there, or a file', async () => {
    const p = await projectWithScene(f, 'Refused folders');
    const said = async (outputFolder: string) =>
      (await plan(p, await put(p, { outputFolder, name: outputFolder }))).errors.map((e) => e.message).join();
    expect(await said('/var')).toMatch(/“\/var” is below none that is allowed: .*Take one of them/);
    expect(await said(`${elsewhere}-unplugged/night`)).toMatch(
      /-unplugged is not there\. Make it, or connect its disk/,
    );
    await writeFile(`${elsewhere}/file`, 'theirs');
    expect(await said(`${elsewhere}/file/night`)).toMatch(/is a file, so that no folder can be made there/);
    const profileId = await put(p, { outputFolder: '/var', name: 'Refused' });
    const body = { cells: [cellOf(p)], profileId };
    expect((await f.call('POST', `/api/projects/${p.id}/batches`, body)).data.code).toBe('PLAN_HAS_ERRORS');
    expect((await f.ok('GET', '/api/profiles')).outputRoots).toEqual([
      join(f.home, 'output'),
      elsewhere,
      `${elsewhere}-unplugged`,
    ]);
  });
});

describe('what light is followed', () => {
  it('directly from lights alone is darker than all of it, and clay has no colour', async () => {
    const p = await projectWithScene(f, 'Light');
    const colours = async (integrator: Profile['integrator']) => {
      const r = await render(p, await put(p, { integrator, name: integrator, samples: 32, denoise: 0 }));
      const { data } = await sharp(pathOf(r, 'png')).raw().toBuffer({ resolveWithObject: true });
      const at = (27 / 2) | 0;
      const middle = (at * 48 + 24) * 3;
      return { mean: data.reduce((a, b) => a + b, 0) / data.length, middle: [...data.subarray(middle, middle + 3)] };
    };
    const [full, direct, clay] = [await colours('full'), await colours('direct'), await colours('clay')];
    expect(direct.mean).toBeLessThan(full.mean);
    expect(full.middle[0]! - full.middle[1]!).toBeGreaterThan(40); // the sheet is red
    expect(Math.abs(clay.middle[0]! - clay.middle[1]!)).toBeLessThan(12);
  });
});

describe('files', () => {
  it('of every format hold the picture, say whose it is, and whether it is graded', async () => {
    const p = await projectWithScene(f, 'Formats');
    const files = { ...PLAIN_FILES, png: 16, tiff: '16', jpeg: 90, webp: 80 } as const;
    const r = await render(p, await put(p, { files }));
    expect(r.files.map((x) => x.kind)).toEqual(['exr', 'png', 'tiff', 'jpeg', 'webp', 'thumbnail']);
    const [png, tiff, jpeg, webp] = await Promise.all(
      ['png', 'tiff', 'jpeg', 'webp'].map((kind) => sharp(pathOf(r, kind)).metadata()),
    );
    expect([png!.depth, tiff!.depth, jpeg!.format, webp!.format]).toEqual(['ushort', 'ushort', 'jpeg', 'webp']);
    for (const m of [png, tiff, jpeg, webp])
      expect([m!.width, m!.height, m!.icc !== undefined]).toEqual([48, 27, true]);
    for (const m of [png, tiff, jpeg, webp])
      expect(m!.xmp!.toString('utf8')).toContain('Front in Base, v001, Own, 12 samples, graded');
    const info = (await run('oiiotool', ['--info', '-v', pathOf(r, 'tiff'), pathOf(r, 'jpeg')])).stdout;
    expect(info.match(/ImageDescription: "Front in Base, v001, Own, 12 samples, graded"/g)).toHaveLength(2);
    expect(info).toMatch(/uint16 tiff/);
    const means = await Promise.all(
      ['png', 'tiff', 'jpeg', 'webp'].map(async (kind) => {
        const { channels } = await sharp(pathOf(r, kind)).stats();
        const unit = kind === 'png' || kind === 'tiff' ? 65_535 : 255;
        return channels[0]!.mean / unit;
      }),
    );
    for (const mean of means) expect(Math.abs(mean - means[0]!)).toBeLessThan(0.01);
  });
  it('as floats hold linear light: the OpenEXR’s own', async () => {
    const p = await projectWithScene(f, 'Floats');
    const exr = { type: 'float', compression: 'none', aovsApart: false, perCell: false } as const;
    const r = await render(p, await put(p, { files: { ...PLAIN_FILES, exr, png: null, tiff: 'float' } }));
    const header = (await run('exrheader', [pathOf(r, 'exr')])).stdout;
    expect(header).toMatch(/R, 32-bit floating-point/);
    expect(header).toMatch(/compression .*: none/);
    const { stdout } = await run('oiiotool', [pathOf(r, 'exr'), '--ch', 'R,G,B', pathOf(r, 'tiff'), '--diff']);
    expect(stdout).toMatch(/PASS/);
    expect((await run('oiiotool', ['--info', '-v', pathOf(r, 'tiff')])).stdout).toMatch(
      /float tiff[\s\S]*linear Rec. 709/,
    );
  });
  it.each(['zip', 'zips', 'none'] as const)('packed as %s are read the same', async (compression) => {
    const p = await projectWithScene(f, `Packed ${compression}`);
    const exr = { type: 'half', compression, aovsApart: false, perCell: false } as const;
    const r = await render(p, await put(p, { files: { ...PLAIN_FILES, exr } }));
    const zip = await render(p, 'sketch');
    expect((await run('oiiotool', [pathOf(r, 'exr'), pathOf(zip, 'exr'), '--diff'])).stdout).toMatch(/PASS/);
  });
  it('of AOVs apart are one each, with their layers; floats where they are asked for', async () => {
    const p = await projectWithScene(f, 'Apart');
    const aovs = AOVS.filter((a) => a !== 'motion' && a !== 'lightGroups');
    const exr = { type: 'half', compression: 'zip', aovsApart: true, perCell: false } as const;
    const r = await render(p, await put(p, { aovs, floatAovs: ['normal'], files: { ...PLAIN_FILES, exr } }));
    expect(r.files.filter((x) => x.kind.startsWith('exr-')).map((x) => x.kind)).toEqual(aovs.map((a) => `exr-${a}`));
    const channels = async (kind: string) =>
      (await run('exrheader', [pathOf(r, kind)])).stdout.match(/^ {4}\S+, \d+-bit/gm)!.map((line) => line.trim());
    expect(await channels('exr')).toEqual(
      ['A', 'B', 'G', 'R']
        .map((c) => `${c}, 16-bit`)
        .concat(['traced.B, 16-bit', 'traced.G, 16-bit', 'traced.R, 16-bit']),
    );
    expect(await channels('exr-normal')).toEqual(['X', 'Y', 'Z'].map((c) => `normal.${c}, 32-bit`));
    expect(await channels('exr-albedo')).toEqual(['B', 'G', 'R'].map((c) => `albedo.${c}, 16-bit`));
    expect(r.files.find((x) => x.kind === 'exr-depth')!.path).toBe('apart/front/base_v001.depth.exr');
    // what was rendered with them is not written over by what is rendered without
    expect((await plan(p, 'sketch')).traces[0]!.cells[0]!.version).toBe(2);
  });
  it('of light groups hold those that the profile names alone, and all of them where it names none', async () => {
    const p = await projectWithScene(f, 'Groups');
    const set = [{ target: 'light:Lamp', property: 'light.group', value: '3' }];
    await f.ok('POST', `/api/projects/${p.id}/recorded`, { destination: 'base', set });
    const id = randomUUID();
    const groups = async (lightGroups: LightGroup[] | null) => {
      const r = await render(p, await put(p, { aovs: ['lightGroups'], lightGroups }, id));
      const header = (await run('exrheader', [pathOf(r, 'exr')])).stdout;
      return [...new Set(header.match(/light\.\d/g))].sort();
    };
    expect(await groups(null)).toEqual(['light.1', 'light.3']);
    expect(await groups(['3'])).toEqual(['light.3']);
    expect(await groups(['2', '3'])).toEqual(['light.3']); // nothing shines in the other
  });
  it('of AOVs apart stand where the template says {aov}, and the picture’s own says picture', async () => {
    const p = await projectWithScene(f, 'Token');
    const exr = { type: 'half', compression: 'zip', aovsApart: true, perCell: false } as const;
    const nameTemplate = '{project}/{aov}/{camera}_{version}.{aov}';
    const id = await put(p, { aovs: ['depth', 'normal'], nameTemplate, files: { ...PLAIN_FILES, exr } });
    const promised = (await plan(p, id)).traces[0]!.cells[0]!.files;
    const paths = (version: string) => [
      `token/picture/front_${version}.picture.exr`,
      `token/depth/front_${version}.depth.exr`,
      `token/normal/front_${version}.normal.exr`,
      `token/picture/front_${version}.picture.png`,
    ];
    expect(promised).toEqual(paths('v001'));
    const r = await render(p, id);
    expect(r.files.filter((x) => x.kind !== 'thumbnail').map((x) => x.path)).toEqual(paths('v001'));
    for (const kind of ['exr', 'exr-depth', 'exr-normal']) expect(existsSync(pathOf(r, kind))).toBe(true);
    // theirs in the place of an AOV alone: the version of all rises
    await writeFile(join(f.home, 'output/token/depth/front_v002.depth.exr'), 'theirs');
    expect((await plan(p, id)).traces[0]!.cells[0]!.files).toEqual(paths('v003'));
    const again = await f.ok<{ id: string }>('POST', `/api/projects/${p.id}/batches`, {
      cells: [cellOf(p)],
      profileId: id,
    });
    expect(again.id).toBeTruthy();
    expect((await plan(p, id)).traces[0]!.cells[0]!.files).toEqual(paths('v004')); // v003 is promised
  });
  it('of light are shared by cells that differ by their grade alone, or one each', async () => {
    const p = await projectWithScene(f, 'Shared');
    const changes = [{ target: 'grade', property: 'grade.exposure', value: 1 }];
    const o = await f.ok('POST', `/api/projects/${p.id}/options`, { facet: 'grade', name: 'Bright', changes });
    await f.ok('POST', `/api/projects/${p.id}/variants`, { optionIds: [o.id] });
    const now = await refreshed(p);
    const cells = [cellOf(now, 0), cellOf(now, 1)];
    await render(now, 'sketch', cells);
    const [base, bright] = [(await history(now, cells[0]))[0]!, (await history(now, cells[1]))[0]!];
    expect(pathOf(bright, 'exr')).toBe(pathOf(base, 'exr'));
    expect(pathOf(bright, 'png')).not.toBe(pathOf(base, 'png'));
    expect((await readdir(join(f.home, 'output/shared/front'))).filter((n) => n.endsWith('.exr'))).toHaveLength(1);
    const each = { ...PLAIN_FILES, exr: { ...PLAIN_FILES.exr!, perCell: true } };
    await render(now, await put(now, { files: each }), cells);
    expect((await readdir(join(f.home, 'output/shared/front'))).filter((n) => n.endsWith('.exr'))).toHaveLength(3);
  });
  it('that a screen shows may be without the grade', async () => {
    const p = await projectWithScene(f, 'Ungraded');
    await f
      .ok('PATCH', `/api/projects/${p.id}/base`, {
        changes: [{ target: 'grade', property: 'grade.exposure', value: 2 }],
      })
      .catch(() => undefined);
    const r = await render(p, await put(p, { files: { ...PLAIN_FILES, graded: false } }));
    expect((await sharp(pathOf(r, 'png')).metadata()).xmp!.toString('utf8')).toContain('not graded');
    expect(existsSync(pathOf(r, 'thumbnail'))).toBe(true);
  });
});

describe('exceptions', () => {
  it('of a camera and of a cell change what they name, for every profile or for one, and take traces of their own', async () => {
    const p = await projectWithScene(f, 'Exceptions');
    const made = await f.ok('POST', `/api/projects/${p.id}/cameras`, {
      name: 'Second',
      settings: { ...p.cameras[0]!.settings, focalLengthMm: 40 },
      afterId: p.cameras[0]!.id,
    });
    await f.ok('POST', `/api/projects/${p.id}/variants`, { optionIds: [] });
    const now = await refreshed(p);
    const cells = [cellOf(now, 0, 0), cellOf(now, 1, 0), cellOf(now, 0, 1), cellOf(now, 1, 1)];
    const tracesOf = async (profileId: string) => (await plan(now, profileId, cells)).traces;
    expect((await tracesOf('sketch')).map((t) => t.cells.length)).toEqual([2, 2]);
    const set = (exceptions: object[]) => f.ok('PUT', `/api/projects/${p.id}/exceptions`, { exceptions });
    const [front, second] = now.cameras.map((c) => c.id);
    expect(second).toBe(made.id);
    await set([
      { cameraId: second, variantId: null, profileId: null, settings: { denoise: 0, samples: 4 } },
      { cameraId: second, variantId: now.variants[1]!.id, profileId: 'sketch', settings: { samples: 7 } },
    ]);
    const sketch = await tracesOf('sketch');
    expect(sketch.map((t) => [t.cells.length, t.samples, t.profile?.denoise ?? null, t.exceptions])).toEqual([
      [2, 12, null, []],
      [1, 4, 0, ['denoise', 'samples']],
      [1, 7, 0, ['denoise', 'samples']],
    ]);
    expect((await tracesOf('proof')).map((t) => t.samples)).toEqual([96, 4]);
    // one place changes it for all, one step takes it back; without settings it goes
    await set(
      [front, second].map((cameraId) => ({ cameraId, variantId: null, profileId: null, settings: { samples: 2 } })),
    );
    expect((await tracesOf('proof')).map((t) => t.samples)).toEqual([2, 2]);
    await f.ok('POST', `/api/projects/${p.id}/undo`);
    expect((await tracesOf('proof')).map((t) => t.samples)).toEqual([96, 4]);
    await set([{ cameraId: second, variantId: null, profileId: null, settings: {} }]);
    expect((await refreshed(p)).exceptions).toHaveLength(1);
    expect((await tracesOf('proof')).map((t) => t.samples)).toEqual([96, 96]);
  });
  it('in formats write those files, and their renders keep how they were made', async () => {
    const p = await projectWithScene(f, 'Format of one');
    const { cameraId } = cellOf(p);
    const settings = { files: { ...PLAIN_FILES, tiff: '16' } };
    await f.ok('PUT', `/api/projects/${p.id}/exceptions`, {
      exceptions: [{ cameraId, variantId: null, profileId: null, settings }],
    });
    const r = await render(await refreshed(p), 'sketch');
    expect(r.files.map((x) => x.kind)).toEqual(['exr', 'png', 'tiff', 'thumbnail']);
    expect(r.profile).toMatchObject({ id: 'sketch', files: { tiff: '16' } });
    const head = (await readFile(pathOf(r, 'tiff'))).subarray(0, 2).toString('latin1');
    expect(['II', 'MM']).toContain(head);
  });
});

describe('the board of a profile', () => {
  it('does not let a Sketch hide a Final, and is out of date where the profile is set up otherwise', async () => {
    const p = await projectWithScene(f, 'By profile');
    const id = await put(p, { samples: 4, name: 'Quick final' });
    await render(p, id);
    await render(p, 'sketch');
    const cellIn = async (query: string) => (await f.ok<Board>('GET', `/api/projects/${p.id}/board${query}`)).cells[0]!;
    expect((await cellIn('')).render!.profile.name).toBe('Sketch');
    expect(await cellIn(`?profileId=${id}`)).toMatchObject({ status: 'current', render: { version: 1, samples: 4 } });
    expect(await cellIn('?profileId=sketch')).toMatchObject({ status: 'current', render: { version: 2 } });
    expect(await cellIn('?profileId=final')).toMatchObject({ status: 'never', render: null });
    // the profile is set up otherwise: its pictures are out of date, and say why; others are not
    await put(p, { samples: 6, name: 'Quick final' }, id);
    expect(await cellIn(`?profileId=${id}`)).toMatchObject({
      status: 'outdated',
      differences: [{ subject: 'Profile Quick final', what: 'samples', was: '4', is: '6' }],
    });
    expect((await cellIn('?profileId=sketch')).status).toBe('current');
    // another name draws the same picture
    await put(p, { samples: 4, name: 'Renamed' }, id);
    expect((await cellIn(`?profileId=${id}`)).status).toBe('current');
    // an exception is a way to be rendered, too
    const { cameraId } = cellOf(p);
    const exception = { cameraId, variantId: null, profileId: id, settings: { denoise: 0 } };
    await f.ok('PUT', `/api/projects/${p.id}/exceptions`, { exceptions: [exception] });
    expect((await cellIn(`?profileId=${id}`)).differences).toMatchObject([{ what: 'denoise', was: '1', is: '0' }]);
    // the scene’s state counts as ever
    await f.ok('PUT', `/api/projects/${p.id}/exceptions`, { exceptions: [{ ...exception, settings: {} }] });
    const camera = (await refreshed(p)).cameras[0]!;
    const settings = { ...camera.settings, focalLengthMm: 31 };
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, { settings });
    expect(await cellIn(`?profileId=${id}`)).toMatchObject({ status: 'outdated', render: { version: 1 } });
    expect((await f.call('GET', `/api/projects/${p.id}/board?profileId=nothing`)).status).toBe(400);
  });
});
