// From a batch to files: leases, lost nodes, cancelling, and pictures by the real engine, checked by an independent
// reader.
import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Board, Plan, Lease, Project, ProjectSummary, Queue } from '@variscen/contract';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { MeshCache } from '@variscen/engine';
import { DRAWING } from '@variscen/engine';
import { renderTrace } from '../src/node/renderTrace.ts';
import { exrData } from './exrData.ts';
import { type Fixture, ENGINE, cellOf, projectWithScene, startFixture, helloOf } from './fixture.ts';

const run = promisify(execFile);
const never = new AbortController().signal;
let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(async () => {
  await f?.close();
});

const queue = async (p: Project) => (await f.ok<Queue>('GET', '/api/queue')).traces.filter((t) => t.projectId === p.id);
const board = async (p: Project) => (await f.ok<Board>('GET', `/api/projects/${p.id}/board`)).cells;
const submit = (p: Project, ...variants: number[]) =>
  f.ok('POST', `/api/projects/${p.id}/batches`, {
    cells: variants.map((v) => cellOf(p, v)),
    profileId: 'sketch',
    separately: true,
  });
const lease = async (): Promise<Lease> => {
  const l = await f.node.lease(ENGINE);
  expect(l).not.toBeNull();
  return l!;
};
const until = async (what: () => Promise<boolean>) => {
  for (let i = 0; i < 200; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 50));
  }
  throw new Error('It did not come to that.');
};

describe('memory that is told', () => {
  it('is of the process too: what a node says at first, then what it was measured to take', async () => {
    const p = await projectWithScene(f, 'Weighed');
    const ask = () => f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells: [cellOf(p)], profileId: 'sketch' });
    const before = (await ask()).traces[0]!;
    expect(before.processBytes).toBeGreaterThanOrEqual(100e6); // as the node said hello
    expect(before.processBytes).toBeLessThan(102e6);
    await submit(p, 0);
    expect((await queue(p))[0]!.plannedBytes).toBe(before.totalBytes + before.processBytes!);
    await renderTrace(f.node, await lease(), f.machine, never);
    const after = (await ask()).traces[0]!;
    const { peakBytes } = (await board(p))[0]!.render!;
    expect(after.totalBytes + after.processBytes!).toBe(peakBytes); // the same again is planned as it was measured
  });
});

describe('a trace', () => {
  it('goes from waiting to rendering to done; its files become a render, and nothing unfinished stays', async () => {
    const p = await projectWithScene(f, 'Whole way');
    await submit(p, 0);
    expect((await board(p))[0]!.status).toBe('waiting');
    const l = await lease();
    expect((await board(p))[0]!.status).toBe('rendering');
    await renderTrace(f.node, l, f.machine, never);
    const [cell] = await board(p);
    expect(cell).toMatchObject({ status: 'current', render: { version: 1, samples: 12, widthPx: 48, heightPx: 27 } });
    // its picture, in the queue
    expect((await queue(p))[0]).toMatchObject({ state: 'done', renderId: cell!.render!.id });
    const summary = (await f.ok<ProjectSummary[]>('GET', '/api/projects')).find((x) => x.id === p.id)!;
    expect(summary).toMatchObject({ renders: 1, coverRenderId: cell!.render!.id, cameras: 1, variants: 1 });
    expect(Date.parse(summary.changedAt)).toBeGreaterThanOrEqual(Date.parse(summary.createdAt));
    expect(cell!.render!.peakBytes).toBeGreaterThan(20e6); // a measured process, not a plan
    const exr = join(f.home, 'output/whole-way/front/base_v001.exr');
    const header = (await run('exrheader', [exr])).stdout;
    expect(header).toMatch(/R, 16-bit floating-point/);
    expect(header).toMatch(/dataWindow \(type box2i\): \(0 0\) - \(47 26\)/);
    expect(header).toMatch(/variscen:camera \(type string\): "Front"/);
    expect(await sharp(await readFile(exr.replace('.exr', '.png'))).metadata()).toMatchObject({
      width: 48,
      height: 27,
      format: 'png',
      hasProfile: true, // says that it is sRGB
    });
    expect(header).toMatch(
      /chromaticities \(type chromaticities\):[\s\S]*red\s+\(0\.64 0\.33\)[\s\S]*white\s+\(0\.3127 0\.329\)/,
    );
    expect(await readdir(join(f.home, 'output/.unfinished')).catch(() => [])).toEqual([]);
  });

  it('of a snapshot is not touched by later edits, which turn exactly their cells out of date and say why', async () => {
    const p = await projectWithScene(f, 'Snapshot');
    const at = `/api/projects/${p.id}`;
    const dim = await f.ok('POST', `${at}/options`, {
      facet: 'lighting',
      name: 'Dim',
      changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 5 }],
    });
    await f.ok('POST', `${at}/variants`, { optionIds: [dim.id] });
    const now = await f.ok<Project>('GET', at);
    await submit(now, 0, 1);
    await f.ok('PATCH', `${at}/options/${dim.id}`, {
      changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 9 }],
    });
    for (let i = 0; i < 2; i++) await renderTrace(f.node, await lease(), f.machine, never);
    let cells = await board(now);
    expect(cells.map((c) => c.status)).toEqual(['current', 'outdated']);
    expect(cells[1]!.differences).toEqual([{ subject: 'Lamp', what: 'strength', was: '5 cd', is: '9 cd' }]);
    await f.ok('PATCH', `${at}/options/${dim.id}`, {
      name: 'Dimmer',
      changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 5 }],
    });
    cells = await board(now);
    expect(cells.map((c) => c.status)).toEqual(['current', 'current']); // changed back; a new name does not matter
    const mean = async (name: string) =>
      (await sharp(join(f.home, `output/snapshot/front/${name}_v001.png`)).stats()).channels[0]!.mean;
    expect(await mean('dim')).toBeLessThan((await mean('base')) * 0.92);
  });

  it('stays as it is by what it does not show, and is old where the engine has come to draw otherwise', async () => {
    const p = await projectWithScene(f, 'Unseen');
    const [camera] = p.cameras;
    await f.ok('POST', `/api/projects/${p.id}/recorded`, {
      destination: 'base',
      set: [{ target: 'object:Sheet', property: 'object.shown', value: false }],
    });
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    const cell = async () => (await board(p))[0]!;
    expect((await cell()).status).toBe('current');
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera!.id}`, {
      settings: { ...camera!.settings, focusDistanceM: 7, orthoHalfHeightM: 3 },
    });
    await f.ok('POST', `/api/projects/${p.id}/recorded`, {
      destination: 'base',
      set: [{ target: 'material:Cloth', property: 'material.roughness', value: 0.05 }],
    });
    expect(await cell()).toMatchObject({ status: 'current', differences: [] });
    const counts = () => f.ok('GET', `/api/projects/${p.id}/cells`);
    expect(await counts()).toEqual({ total: 1, current: 1 });
    const { id } = (await cell()).render!;
    await f.running.db.query(`UPDATE render SET result = result || '{"drawing": 1000}' WHERE id = $1`, [id]);
    expect(await cell()).toMatchObject({
      status: 'outdated',
      differences: [{ subject: 'Engine', what: 'way of drawing', was: '1000', is: `${DRAWING}` }],
    });
    expect(await counts()).toEqual({ total: 1, current: 0 });
  });

  it('stays up to date where only what its rays never met has changed, and says so, unless the project wants it otherwise', async () => {
    const p = await projectWithScene(f, 'Unmet');
    const at = `/api/projects/${p.id}`;
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    const record = (target: string, property: string, value: unknown) =>
      f.ok('POST', `${at}/recorded`, { destination: 'base', set: [{ target, property, value }] });
    const cell = async () => (await board(p))[0]!;
    const counts = () => f.ok('GET', `${at}/cells`);
    expect(await cell()).toMatchObject({ status: 'current', stands: false });
    // the crate stands behind the wall, far off
    await record('material:Wood', 'material.baseColor', [1, 0, 0]);
    expect(await cell()).toMatchObject({
      status: 'current',
      stands: true,
      differences: [{ subject: 'Wood', what: 'base colour' }],
    });
    await record('object:Crate far away', 'object.shown', false);
    expect(await cell()).toMatchObject({ status: 'current', stands: true });
    expect(await counts()).toEqual({ total: 1, current: 1 });
    await f.ok('PATCH', at, { staysUnmet: false });
    expect(await cell()).toMatchObject({ status: 'outdated', stands: false });
    expect(await counts()).toEqual({ total: 1, current: 0 });
    await f.ok('PATCH', at, { staysUnmet: true });
    // rendered again it is the same
    const before = (await cell()).render!;
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    const again = (await cell()).render!;
    const pixels = async (r: typeof before) =>
      exrData(await readFile(join(f.home, 'output', r.files.find((x) => x.kind === 'exr')!.path)));
    expect((await pixels(again)).equals(await pixels(before))).toBe(true);
    // it could be met where it is now
    await record('object:Crate far away', 'object.shown', true);
    expect(await cell()).toMatchObject({ status: 'outdated', stands: false });
  });

  it('served twice by one trace differs by its grade alone', async () => {
    const p = await projectWithScene(f, 'Grades');
    const at = `/api/projects/${p.id}`;
    const bright = await f.ok('POST', `${at}/options`, {
      facet: 'grade',
      name: 'Bright',
      changes: [{ target: 'grade', property: 'grade.exposure', value: 1.5 }],
    });
    await f.ok('POST', `${at}/variants`, { optionIds: [bright.id] });
    const now = await f.ok<Project>('GET', at);
    expect((await submit(now, 0, 1)).traces).toBe(1);
    await renderTrace(f.node, await lease(), f.machine, never);
    const read = (name: string) => readFile(join(f.home, `output/grades/front/${name}_v001.png`));
    expect((await sharp(await read('bright')).stats()).channels[0]!.mean).toBeGreaterThan(
      (await sharp(await read('base')).stats()).channels[0]!.mean * 1.2,
    );
  });

  it('without objects outside the frame loads less, and says how many it left out', async () => {
    const p = await projectWithScene(f, 'Culling');
    const camera = p.cameras[0]!;
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, {
      settings: { ...camera.settings, cullMarginPct: 5 },
    });
    const plan = await f.ok('POST', `/api/projects/${p.id}/plan`, { cells: [cellOf(p)], profileId: 'sketch' });
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    const [cell] = await board(p);
    // taken is what was planned
    expect(cell!.render).toMatchObject({ droppedObjects: 1, plannedBytes: plan.traces[0].bytes });
  });

  it('of an animated scene shows the frame that its camera says, in the memory that was planned', async () => {
    const p = await projectWithScene(f, 'Moving', { moving: true });
    const camera = p.cameras[0]!;
    const redAt = async (version: string) => {
      const { data, info } = await sharp(join(f.home, `output/moving/front/base_${version}.png`))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
      return (x: number) => data[(13 * info.width + x) * 3]! - data[(13 * info.width + x) * 3 + 1]!;
    };
    expect(p.revision!.report.faults).toEqual([]);
    expect(camera.settings.follows).toBe('Front');
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, { settings: { ...camera.settings, frame: 24 } });
    expect((await board(p))[0]).toMatchObject({
      status: 'outdated',
      differences: [{ subject: 'Camera', what: 'frame', was: 'none', is: '24' }],
    });
    const plan = await f.ok('POST', `/api/projects/${p.id}/plan`, { cells: [cellOf(p)], profileId: 'sketch' });
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    expect((await board(p))[0]!.render).toMatchObject({ version: 2, plannedBytes: plan.traces[0].bytes });
    const before = await redAt('v001');
    const after = await redAt('v002');
    // a metre is about 10.6 pixels at first and 9.1 at the end: the sheet from 19.7…28.3 to 25.9…40.4
    expect([before(24) > 60, before(37) > 60, after(21) > 60, after(28) > 60, after(37) > 60]).toEqual([
      true,
      false,
      false,
      true,
      true,
    ]);
  });

  it('with a displaced surface takes the memory that was planned, more than without, and says where the limit of triangles ended it', async () => {
    const p = await projectWithScene(f, 'Relief', { relief: true });
    const at = `/api/projects/${p.id}`;
    const change = (property: string, value: string | number) => ({
      target: 'material:Plaster',
      property: `material.${property}`,
      value,
    });
    const planOf = (variant: number, profileId: string, q: Project) =>
      f.ok('POST', `${at}/plan`, { cells: [cellOf(q, variant)], profileId });
    const dented = await f.ok('POST', `${at}/options`, {
      facet: 'materials',
      name: 'Dented',
      changes: [change('displacementMap', 'dents'), change('displacement', 0.3)],
    });
    await f.ok('POST', `${at}/variants`, { optionIds: [dented.id] });
    const now = await f.ok<Project>('GET', at);
    const flat = await planOf(0, 'sketch', now);
    const plan = await planOf(1, 'sketch', now);
    expect(plan.traces[0].bytes.acceleration).toBeGreaterThan(flat.traces[0].bytes.acceleration * 2);
    expect(plan.warnings).toEqual([]);
    await submit(now, 0, 1);
    for (let i = 0; i < 2; i++) await renderTrace(f.node, await lease(), f.machine, never);
    expect((await board(now))[1]!.render!.plannedBytes).toEqual(plan.traces[0].bytes);
    const spread = async (name: string) => {
      const { data, info } = await sharp(join(f.home, `output/relief/front/${name}_v001.png`))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
      let sum = 0;
      for (let x = 1; x < info.width; x++)
        sum += Math.abs(data[(3 * info.width + x) * 3]! - data[(3 * info.width + x - 1) * 3]!);
      return sum;
    };
    expect(await spread('dented')).not.toBe(await spread('base'));
    await f.ok('PATCH', `${at}/cameras/${now.cameras[0]!.id}`, {
      settings: { ...now.cameras[0]!.settings, widthPx: 16000, heightPx: 9000 },
    });
    expect((await planOf(1, 'sketch', now)).warnings).toEqual([
      'The displacement of “Wall” is coarser than wanted for Front: it ends at 300,000 triangles.',
    ]);
  });

  it('of a lamp of no size in glass with a volume warns once that it gives no light, until the lamp has a radius', async () => {
    const p = await projectWithScene(f, 'Bulb', { bulb: true });
    const at = `/api/projects/${p.id}`;
    const round = await f.ok('POST', `${at}/options`, {
      facet: 'lighting',
      name: 'Round',
      changes: [{ target: 'light:Lamp', property: 'light.radius', value: 0.05 }],
    });
    const point = await f.ok('POST', `${at}/options`, {
      facet: 'lighting',
      name: 'Point',
      changes: [{ target: 'light:Lamp', property: 'light.radius', value: 0 }],
    });
    const ghost = await f.ok('POST', `${at}/options`, {
      facet: 'visibility',
      name: 'Ghost',
      changes: [{ target: 'object:Bulb', property: 'object.castsShadow', value: false }],
    });
    for (const o of [round, point]) await f.ok('POST', `${at}/variants`, { optionIds: [o.id] });
    await f.ok('POST', `${at}/variants`, { optionIds: [point.id, ghost.id] });
    const now = await f.ok<Project>('GET', at);
    const warnings = async (...variants: number[]) =>
      (await f.ok('POST', `${at}/plan`, { cells: variants.map((v) => cellOf(now, v)), profileId: 'sketch' })).warnings;
    expect(await warnings(1, 3)).toEqual([]); // with a radius; where the glass casts no shadow
    expect(await warnings(1, 2)).toEqual([
      '“Lamp” lights nothing outside “Bulb”: the light of a lamp of no size does not get through clear glass with a volume. Give the lamp a radius, or let it cast no shadow.',
    ]);
  });

  it('of a part of the frame writes that part, and says where it lies', async () => {
    const p = await projectWithScene(f, 'Part');
    const camera = p.cameras[0]!;
    const set = (settings: object) =>
      f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, { settings: { ...camera.settings, ...settings } });
    const png = (version: string) =>
      sharp(join(f.home, `output/part/front/base_${version}.png`))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
    expect(
      (
        await f.call('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, {
          settings: { ...camera.settings, crop: { left: 50, top: 0, right: 50, bottom: 90 } },
        })
      ).data,
    ).toMatchObject({ code: 'INVALID', message: expect.stringMatching(/must begin before it ends/) });
    await set({ crop: { left: 25, top: 100 / 3, right: 75, bottom: 100 } });
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    const header = (await run('exrheader', [join(f.home, 'output/part/front/base_v001.exr')])).stdout;
    expect(header).toMatch(/dataWindow \(type box2i\): \(12 9\) - \(35 26\)/);
    expect(header).toMatch(/displayWindow \(type box2i\): \(0 0\) - \(47 26\)/);
    expect((await png('v001')).info).toMatchObject({ width: 24, height: 18 });
  });

  it('whose picture was deleted, cut short or replaced outside is not up to date, and is not served as if', async () => {
    const p = await projectWithScene(f, 'Outside');
    await submit(p, 0);
    await renderTrace(f.node, await lease(), f.machine, never);
    const [cell] = await board(p);
    expect([cell!.status, cell!.fileFault]).toEqual(['current', null]);
    const path = 'outside/front/base_v001.png';
    const full = join(f.home, 'output', path);
    const sound = await readFile(full);
    const at = `/api/renders/${cell!.render!.id}/files/png`;
    const seen = async () => {
      const [now] = await board(p);
      const { current } = await f.ok<{ current: number }>('GET', `/api/projects/${p.id}/cells`);
      return [now!.status, now!.fileFault, current, (await fetch(f.base + at)).status];
    };
    const gone = ['outdated', { path, fault: 'gone' }, 0, 404];
    const changed = ['outdated', { path, fault: 'changed' }, 0, 409];
    await rm(full);
    expect(await seen()).toEqual(gone);
    await writeFile(full, sound.subarray(0, sound.length - 20));
    expect(await seen()).toEqual(changed);
    const other = Buffer.from(sound);
    other[other.length >> 1]! ^= 1;
    await writeFile(full, other); // as long as it was
    expect(await seen()).toEqual(changed);
    await writeFile(full, sound); // put back: the same bytes at another time
    expect(await seen()).toEqual(['current', null, 1, 200]);
    const { headers } = await fetch(f.base + at);
    expect(headers.get('etag')).toMatch(/^"[0-9a-f]{64}"$/);
  });

  it('versions go up; nothing is overwritten', async () => {
    const p = await projectWithScene(f, 'Versions');
    for (let i = 0; i < 2; i++) {
      await submit(p, 0);
      await renderTrace(f.node, await lease(), f.machine, never);
    }
    const { cameraId, variantId } = cellOf(p);
    expect(
      (await f.ok('GET', `/api/projects/${p.id}/cells/${cameraId}/${variantId}`)).map(
        (r: { version: number }) => r.version,
      ),
    ).toEqual([2, 1]);
    for (const v of ['v001', 'v002'])
      expect(existsSync(join(f.home, `output/versions/front/base_${v}.exr`))).toBe(true);
  });

  it('of a node that is gone is queued again at once, and what the old attempt still sends is refused', async () => {
    const p = await projectWithScene(f, 'Lost node');
    await submit(p, 0);
    const first = await lease();
    await f.node.progress(first, { fraction: 0.5, samplesDone: 6, stage: 'tracing', noise: null });
    await f.running.context.queue.gone('test node');
    expect((await queue(p))[0]).toMatchObject({ state: 'waiting', fraction: 0 });
    await f.node.hello(helloOf(2, 100e6));
    const second = await lease();
    expect(second.traceId).toBe(first.traceId);
    expect((await f.node.progress(first, { fraction: 0.9, samplesDone: 9, stage: 'tracing', noise: null })).goOn).toBe(
      false,
    );
    await expect(f.node.file(first, 0, 'exr', import.meta.filename)).rejects.toMatchObject({ code: 'STALE_ATTEMPT' });
    await renderTrace(f.node, second, f.machine, never);
    expect((await queue(p))[0]).toMatchObject({ state: 'done', attempts: 2 });
    await expect(
      f.node.complete(first, {
        token: first.token,
        samples: 1,
        seconds: 1,
        rays: 1,
        paths: 1,
        plannedBytes: { vertices: 0, acceleration: 0, textures: 0, lights: 0, film: 0, scratch: 0 },
        peakBytes: 1,
        droppedObjects: 0,
      }),
    ).rejects.toMatchObject({ code: 'STALE_ATTEMPT' });
    expect((await board(p))[0]!.render!.version).toBe(1);
  });

  it('that ends its node twice is set aside with its reason, and the rest goes on', async () => {
    const p = await projectWithScene(f, 'Ends nodes');
    const o = await f.ok('POST', `/api/projects/${p.id}/options`, {
      facet: 'lighting',
      name: 'Bright',
      changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 90 }],
    });
    await f.ok('POST', `/api/projects/${p.id}/variants`, { optionIds: [o.id] });
    await submit(await f.ok<Project>('GET', `/api/projects/${p.id}`), 0, 1);
    const first = await lease();
    for (let crash = 0; crash < 2; crash++) {
      if (crash) expect((await lease()).traceId).toBe(first.traceId);
      await f.running.context.queue.gone('test node');
      await f.node.hello(helloOf(2, 100e6));
    }
    const of = async (id: string) => (await queue(p)).find((t) => t.id === id);
    expect(await of(first.traceId)).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/ended by itself 2 times .* set aside, and the rest goes on/),
    });
    const next = await lease();
    expect(next.traceId).not.toBe(first.traceId);
    await renderTrace(f.node, next, f.machine, never);
    // asked for again it is tried again, from nought
    await f.ok('POST', `/api/traces/${first.traceId}/retry`);
    await renderTrace(f.node, await lease(), f.machine, never);
    expect(await of(first.traceId)).toMatchObject({ state: 'done' });
  });

  it('of a node that begins anew is not shown as rendering', async () => {
    const p = await projectWithScene(f, 'Anew');
    await submit(p, 0);
    const before = await lease();
    await f.node.hello(helloOf(2, 100e6));
    expect((await queue(p))[0]).toMatchObject({ state: 'waiting', fraction: 0 });
    const again = await lease();
    expect(again.traceId).toBe(before.traceId);
    await renderTrace(f.node, again, f.machine, never);
  });

  it('whose lease runs out goes back to the queue by itself', async () => {
    const p = await projectWithScene(f, 'Silent node');
    await submit(p, 0);
    const l = await lease();
    await f.running.db.query(`UPDATE trace SET lease_until = now() - interval '1 second' WHERE id = $1`, [l.traceId]);
    await until(async () => (await queue(p))[0]!.state === 'waiting');
    await renderTrace(f.node, await lease(), f.machine, never);
    expect((await queue(p))[0]!.state).toBe('done');
  });

  it('can be cancelled while it renders, and queued again', async () => {
    const p = await projectWithScene(f, 'Cancelled');
    const camera = p.cameras[0]!;
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, {
      settings: { ...camera.settings, widthPx: 3840, heightPx: 2160 },
    });
    await submit(p, 0);
    const l = await lease();
    const rendering = renderTrace(f.node, l, f.machine, never);
    await new Promise((r) => setTimeout(r, 600));
    await f.ok('POST', `/api/traces/${l.traceId}/cancel`);
    await rendering;
    expect((await queue(p))[0]!.state).toBe('cancelled');
    expect((await board(p))[0]).toMatchObject({ status: 'never', render: null });
    expect((await f.call('POST', `/api/traces/${l.traceId}/cancel`)).data).toMatchObject({ code: 'WRONG_STATE' });
    await f.ok('POST', `/api/traces/${l.traceId}/retry`);
    expect((await queue(p))[0]!.state).toBe('waiting');
    await f.ok('POST', `/api/traces/${l.traceId}/cancel`);
    expect(await f.node.lease(ENGINE)).toBeNull();
  });

  it('on a node whose engine cannot start fails with its reason, and the trace can be queued again', async () => {
    const p = await projectWithScene(f, 'No engine');
    await submit(p, 0);
    const l = await lease();
    await renderTrace(f.node, l, { ...f.machine, threads: -1 }, never);
    expect((await queue(p))[0]).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/at least one, not -1/),
    });
    await f.ok('POST', `/api/traces/${l.traceId}/retry`);
    await renderTrace(f.node, await lease(), f.machine, never);
    expect((await board(p))[0]!.status).toBe('current');
  });

  it('beyond the budget of its node fails with what is largest and what to do, and structures built once are kept for the next', async () => {
    const p = await projectWithScene(f, 'Small machine');
    await submit(p, 0);
    const l = await lease();
    const meshCache = new MeshCache(2 ** 26);
    await renderTrace(f.node, l, { ...f.machine, budgetBytes: 2 ** 20, meshCache }, never);
    expect((await queue(p))[0]).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/the budget is 1 MiB\. Largest are .* To save most, /),
    });
    await f.ok('POST', `/api/traces/${l.traceId}/retry`);
    await renderTrace(f.node, await lease(), { ...f.machine, meshCache }, never);
    expect((await board(p))[0]!.status).toBe('current');
    expect(meshCache.size).toBeGreaterThan(0);
  });

  it('that cannot be rendered fails with its reason, and the queue goes on', async () => {
    const p = await projectWithScene(f, 'Failing');
    await submit(p, 0);
    const l = await lease();
    await renderTrace(f.node, { ...l, sceneHash: 'f'.repeat(64) }, f.machine, never);
    expect((await queue(p))[0]).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/not in the data folder/),
    });
    expect((await board(p))[0]!.status).toBe('failed');
    await f.ok('POST', `/api/traces/${l.traceId}/retry`);
    await renderTrace(f.node, await lease(), f.machine, never);
    expect((await board(p))[0]!.status).toBe('current');
  });
});

describe('a batch', () => {
  it('is rendered in the order of the board', async () => {
    const p = await projectWithScene(f, 'In order');
    const at = `/api/projects/${p.id}`;
    for (let i = 1; i < 6; i++) {
      const o = await f.ok('POST', `${at}/options`, {
        facet: 'lighting',
        name: `Lamp ${i}`,
        changes: [{ target: 'light:Lamp', property: 'light.intensity', value: i }],
      });
      await f.ok('POST', `${at}/variants`, { optionIds: [o.id] });
    }
    const now = await f.ok<Project>('GET', at);
    const order = [3, 0, 5, 1, 4, 2];
    await submit(now, ...order);
    const names: string[] = [];
    for (let i = 0; i < order.length; i++) {
      const l = await lease();
      names.push(l.cells[0]!.metadata['variscen:variant']!);
      await f.ok('POST', `/api/traces/${l.traceId}/cancel`);
    }
    expect(names).toEqual(order.map((v) => now.variants[v]!.name));
  });

  it('is queued whole or not at all', async () => {
    const p = await projectWithScene(f, 'Whole batch');
    const before = (await f.ok<Queue>('GET', '/api/queue')).traces.length;
    await f.running.db.query('ALTER TABLE output ADD CONSTRAINT ck_test CHECK (version < 1)  NOT VALID');
    try {
      expect(
        (await f.call('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' })).status,
      ).toBe(500);
    } finally {
      await f.running.db.query('ALTER TABLE output DROP CONSTRAINT ck_test');
    }
    expect((await f.ok<Queue>('GET', '/api/queue')).traces).toHaveLength(before);
    expect(await f.running.db.query(`SELECT 1 FROM batch WHERE project_id = $1`, [p.id])).toEqual([]);
    expect(await f.node.lease(ENGINE)).toBeNull();
  });
  it('refuses two batches that promise the same version at once', async () => {
    const p = await projectWithScene(f, 'Twice');
    const body = { cells: [cellOf(p)], profileId: 'sketch' };
    const answers = await Promise.all([0, 1].map(() => f.call('POST', `/api/projects/${p.id}/batches`, body)));
    expect(answers.map((a) => a.status).sort()).toEqual([200, expect.toSatisfy((s: number) => s === 200 || s === 409)]);
    const paths = await f.running.db.query<{ path: string }[]>(
      'SELECT path FROM output o JOIN trace t ON t.id = o.trace_id WHERE t.project_id = $1',
      [p.id],
    );
    expect(new Set(paths.map((x) => x.path)).size).toBe(paths.length);
    for (const t of await queue(p)) await f.ok('POST', `/api/traces/${t.id}/cancel`);
  });
});
