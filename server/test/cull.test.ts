// What cameras leave out: measured, named, planned, rendered, and what it cost said.
import { readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { BoardCell, CullEvidenceAnswer, CullPlanAnswer, FitAnswer, Project } from '@variscen/contract';
import { NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { LOST_WITH_DROPPED, countMet, packMet, unpackMet, unpackProof } from '@variscen/core/cull';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { ENGINE, type Fixture, helloOf, projectWithScene, startFixture } from './fixture.ts';

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 0));
}, 120_000);
afterAll(async () => {
  await f?.close();
});
const never = new AbortController().signal;

const urlOf = (p: Project) => `/api/projects/${p.id}`;
const cellOf = (p: Project) => ({ cameraId: p.cameras[0]!.id, variantId: p.variants[0]!.id });
const knownOf = (p: Project) => f.ok('GET', `${urlOf(p)}/cull/evidence?cameraId=${cellOf(p).cameraId}`);
const known = async (p: Project): Promise<CullEvidenceAnswer | null> => (await knownOf(p)).evidence;
const measure = (p: Project) => f.ok<CullEvidenceAnswer>('POST', `${urlOf(p)}/cull/evidence`, cellOf(p));
const setPlan = (p: Project, more: Record<string, unknown>) =>
  f.ok<Project>('PUT', `${urlOf(p)}/cull`, {
    cameraIds: [cellOf(p).cameraId],
    variantIds: [cellOf(p).variantId],
    barShare: null,
    keep: [],
    leaveOut: [],
    ...more,
  });
const planOf = async (p: Project): Promise<CullPlanAnswer | null> =>
  (await f.ok('GET', `${urlOf(p)}/cameras/${cellOf(p).cameraId}/cull`)).plan;
const plan = (p: Project) => f.ok('POST', `${urlOf(p)}/plan`, { cells: [cellOf(p)], profileId: 'sketch' });
const board = async (p: Project): Promise<BoardCell> => (await f.ok('GET', `${urlOf(p)}/board`)).cells[0];
async function render(p: Project): Promise<BoardCell> {
  await f.ok('POST', `${urlOf(p)}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
  const lease = await f.node.lease(ENGINE, 0);
  await renderTrace(f.node, lease!, f.machine, never);
  return board(p);
}

async function prove(p: Project) {
  const r = await fetch(`${f.base}${urlOf(p)}/cull/proof`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(cellOf(p)),
  });
  expect(r.status).toBe(200);
  return unpackProof(await r.arrayBuffer());
}

const splitOf = (p: Project) =>
  fetch(`${f.base}${urlOf(p)}/cull/scene.glb?${new URLSearchParams(cellOf(p)).toString()}`);
const readGlb = async (r: Response) =>
  (await new NodeIO().registerExtensions(ALL_EXTENSIONS).readBinary(new Uint8Array(await r.arrayBuffer()))).getRoot();
async function projectOf(glb: Uint8Array<ArrayBuffer>, name: string): Promise<Project> {
  const own = await f.ok<Project>('POST', '/api/projects', { name });
  await fetch(`${f.base}${urlOf(own)}/scene?fileName=split.glb`, { method: 'POST', body: glb });
  return f.ok<Project>('GET', urlOf(own));
}

/** Of the ball. */
const BALL_TRIANGLES = 96 * 96 * 2;

describe('what a camera needs', () => {
  it('is measured once, by the whole scene, and known until something changes that it depends on', async () => {
    const p = await projectWithScene(f, 'Measured');
    expect(await knownOf(p)).toEqual({
      evidence: null,
      measuredVariantIds: [],
      unmeasuredVariantIds: [p.variants[0]!.id],
    });
    const [a, b] = await Promise.all([measure(p), measure(p)]);
    expect(a).toEqual(b);
    expect(await known(p)).toEqual(a);
    expect(a.lightPaths).toBe(a.widthPx * a.heightPx * a.samples);
    const light = a.objects.reduce((n, o) => n + o.sight.seen, 0);
    expect(light).toBeGreaterThan(0.05);
    expect(light).toBeLessThanOrEqual(1.01);
    // culling does not change what the whole scene is
    const camera = p.cameras[0]!;
    await f.ok('PATCH', `${urlOf(p)}/cameras/${camera.id}`, { settings: { ...camera.settings, cullMarginPct: 5 } });
    expect(await known(p)).toEqual(a);
    await f.ok('PATCH', `${urlOf(p)}/cameras/${camera.id}`, { settings: { ...camera.settings, focalLengthMm: 50 } });
    expect(await known(p)).toBeNull();
  });

  it('is measured again where what is kept of it is damaged, after it was said', async () => {
    const p = await projectWithScene(f, 'Damaged');
    const { id, settings } = p.cameras[0]!;
    await f.ok('PATCH', `${urlOf(p)}/cameras/${id}`, { settings: { ...settings, focalLengthMm: 41 } });
    const folder = join(f.home, 'evidence', 'known');
    const before = new Set(await readdir(folder).catch(() => []));
    const first = await measure(p);
    const [made] = (await readdir(folder)).filter((name) => !before.has(name));
    await writeFile(join(folder, made!), '{"objects":[');
    const said = await f.call('GET', `${urlOf(p)}/cull/evidence?cameraId=${id}`);
    expect(said).toMatchObject({ status: 409, data: { code: 'DAMAGED' } });
    expect(await known(p)).toBeNull();
    expect((await measure(p)).objects).toEqual(first.objects);
  });

  it('is refused in words for what is not there', async () => {
    const p = await projectWithScene(f, 'Refused');
    const { id, settings } = p.cameras[0]!;
    await f.ok('PATCH', `${urlOf(p)}/cameras/${id}`, { settings: { ...settings, focalLengthMm: 77 } });
    const nobody = '00000000-0000-4000-8000-000000000000';
    const asked = await f.call('POST', `${urlOf(p)}/cull/evidence`, { ...cellOf(p), cameraId: nobody });
    expect(asked).toMatchObject({ status: 404 });
    const unmeasured = await f.call('PUT', `${urlOf(p)}/cull`, {
      cameraIds: [cellOf(p).cameraId],
      variantIds: [cellOf(p).variantId],
      barShare: 0.01,
      keep: [],
      leaveOut: [],
    });
    expect(unmeasured.status).toBe(409);
    expect(unmeasured.data.message).toMatch(/needs in “.*” was not measured/);
    expect((await f.call('PUT', `${urlOf(p)}/cull`, { ...cellOf(p), barShare: 7 })).status).toBe(400);
  });
});

describe('what a camera leaves out', () => {
  it('by name is not loaded, and its picture says what it cost at most, and by what', async () => {
    const p = await projectWithScene(f, 'Named');
    const evidence = await measure(p);
    const seen = [...evidence.objects].sort((a, b) => b.sight.seen - a.sight.seen)[0]!;
    const full = await render(p);
    expect(full.render!.leftOut).toBeNull();
    await setPlan(p, { leaveOut: [seen.path] });
    expect((await board(p)).status).toBe('outdated');
    const planned = (await plan(p)).traces[0];
    expect(planned).toMatchObject({ culls: true, dropped: [seen.path], droppedCount: 1 });
    const lean = await render(p);
    expect(lean.render!.plannedBytes).toEqual(planned.bytes);
    expect(lean.render!.droppedObjects).toBe(1);
    const { atMostShare, doubtedPixels, pixels, most } = lean.render!.leftOut!;
    expect(atMostShare).toBeGreaterThan(seen.brought * 0.5);
    expect(doubtedPixels).toBeGreaterThan(pixels * seen.sight.seen * 0.5);
    expect(most).toEqual([{ object: seen.path, share: 1 }]);
    expect(lean.render!.files.length).toBeGreaterThan(0);
  });

  it('by a rule stays where it is pinned, and pinning it makes the picture outdated', async () => {
    const p = await projectWithScene(f, 'Pinned');
    const { id, settings } = p.cameras[0]!;
    await f.ok('PATCH', `${urlOf(p)}/cameras/${id}`, { settings: { ...settings, cullMarginPct: 5 } });
    const [ruled] = (await plan(p)).traces;
    expect(ruled.droppedCount).toBe(1);
    expect((await render(p)).render!.droppedObjects).toBe(1);
    await setPlan(p, { keep: ruled.dropped });
    expect((await board(p)).status).toBe('outdated');
    expect((await plan(p)).traces[0].droppedCount).toBe(0);
    const pinned = await render(p);
    expect(pinned.status).toBe('current');
    expect(pinned.render!.droppedObjects).toBe(0);
  });

  it('by evidence is what no ray met, at any bar; pins stay, and giving the plan up makes the picture current again', async () => {
    const p = await projectWithScene(f, 'Bar');
    const evidence = await measure(p);
    const first = await render(p);
    expect(first.status).toBe('current');
    await setPlan(p, { barShare: 0 });
    expect((await planOf(p))!.byEvidence.sort()).toEqual([...evidence.unmet].sort());
    await setPlan(p, { barShare: 0.2, keep: evidence.unmet });
    const bold = (await planOf(p))!;
    expect(bold.byEvidence.some((path) => evidence.unmet.includes(path))).toBe(false);
    expect(bold.from).toEqual([p.variants[0]!.name]);
    const cost = bold.byEvidence.reduce((n, path) => {
      const o = evidence.objects.find((x) => x.path === path)!;
      return n + o.brought + o.shadowed;
    }, 0);
    expect(cost).toBeLessThanOrEqual(0.2);
    await setPlan(p, {});
    expect(await planOf(p)).toBeNull();
    expect((await board(p)).status).toBe('current');
    // one edit like any other
    await f.ok('POST', `${urlOf(p)}/undo`);
    expect((await planOf(p))!.barShare).toBe(0.2);
  });

  it('or simplifies, because the camera does not see it itself, hardly changes the picture and stays in its light', async () => {
    const p = await projectWithScene(f, 'Simplified', { ball: true });
    const measured = await measure(p);
    const ball = measured.objects.find((o) => o.path === 'Ball')!;
    expect(ball.times.seen).toBe(0);
    expect(ball.detailM).toBeGreaterThan(0);
    const whole = await render(p);
    const wholePlan = (await plan(p)).traces[0];

    await setPlan(p, { simplifies: true });
    expect((await board(p)).status).toBe('outdated');
    const { standIns } = (await planOf(p))!;
    const [standIn] = Object.values(standIns);
    expect(Object.keys(standIns)).toHaveLength(1);
    expect(standIn!.triangles).toBeLessThan(BALL_TRIANGLES * 0.7);
    const planned = (await plan(p)).traces[0];
    expect(planned).toMatchObject({ droppedCount: 0, simplifiedCount: 1, objects: wholePlan.objects });
    expect(planned.bytes.vertices).toBeLessThan(wholePlan.bytes.vertices);
    const simpler = await render(p);
    expect(simpler.render).toMatchObject({ droppedObjects: 0, simplifiedObjects: 1, leftOut: null });
    expect(whole.render!.simplifiedObjects).toBe(0);

    const proof = await prove(p);
    expect(proof.culled.objects).toBe(proof.whole.objects);
    expect(proof.differingPixels).toBeGreaterThan(0);
    expect(Math.abs(proof.netShare)).toBeLessThan(0.001);
    expect(proof.pixelShare).toBeLessThan(proof.finalNoiseShare);
    // a file of what the camera needs holds it as simple
    const inFile = (await readGlb(await splitOf(p))).listMeshes().find((m) => m.getName().startsWith('Ball'))!;
    expect(inFile.listPrimitives()[0]!.getIndices()!.getCount() / 3).toBe(standIn!.triangles);

    // without it the picture would be another: its shadow falls into the frame
    await setPlan(p, { leaveOut: ['Ball'] });
    const lost = await prove(p);
    expect(lost.netShare).toBeGreaterThan(0.02);
    expect(lost.pixelShare).toBeGreaterThan(lost.finalNoiseShare);
    expect(lost.pixelShare).toBeGreaterThan(lost.chanceShare);

    // pinned it is whole
    const pinned = await setPlan(p, { simplifies: true, keep: ['Ball'] });
    expect(pinned.cameras[0]!.settings.cull!.standIns).toBeUndefined();
    expect((await plan(p)).traces[0]).toMatchObject({ simplifiedCount: 0, bytes: wholePlan.bytes });
  });

  it('goes piece by piece, by evidence, where the object that shows them stays: what that costs is said, too', async () => {
    const p = await projectWithScene(f, 'In part', { ball: true });
    const { objects } = await measure(p);
    const ball = objects.find((o) => o.path === 'Ball')!;
    expect((await render(p)).status).toBe('current');
    // its pieces, which cast a shadow, may go up to the bar, and the ball as a whole may not
    const barShare = (ball.brought + ball.shadowed) * 0.5;
    await setPlan(p, { barShare, keep: objects.filter((o) => o !== ball).map((o) => o.path) });
    const { byEvidence, pieces } = (await planOf(p))!;
    expect(byEvidence).not.toContain('Ball');
    const [out] = Object.values(pieces.meshes);
    expect(Object.keys(pieces.meshes)).toHaveLength(1);
    expect(out!.costShare).toBeGreaterThan(0);
    expect(out!.costShare).toBeLessThanOrEqual(barShare);
    expect(countMet(out!.pieces, out!.count)).toBeGreaterThan(10);
    expect((await board(p)).status).toBe('outdated');
    const planned = await plan(p);
    expect(planned.warnings).toContain(LOST_WITH_DROPPED);
    const [trace] = planned.traces;
    expect(trace).toMatchObject({ droppedCount: byEvidence.length, inPartCount: 1 });
    expect(trace.totalBytes).toBeLessThan(trace.totalBytesWithoutCulling);

    const lean = await render(p);
    expect(lean.render).toMatchObject({ droppedObjects: byEvidence.length, inPartObjects: 1 });
    expect(lean.render!.leftOut!.most.map((m) => m.object)).toContain('Ball');
    expect(lean.render!.leftOut!.atMostShare).toBeGreaterThan(0);
    const proof = await prove(p);
    expect(proof.differingPixels).toBeGreaterThan(0);
    expect(Math.abs(proof.netShare)).toBeLessThanOrEqual(proof.atMostShare!);
    expect(proof.culled.engineBytes).toBeLessThan(proof.whole.engineBytes);

    // a pin keeps all of it
    await setPlan(p, { barShare, keep: objects.map((o) => o.path) });
    expect((await planOf(p))!.pieces.meshes).toEqual({});
    expect((await board(p)).status).toBe('outdated');
    await f.ok('POST', `${urlOf(p)}/undo`);
    expect((await board(p)).status).toBe('current');
  });

  it('is proposed where its pictures do not fit: the least first, and no more than it takes', async () => {
    const p = await projectWithScene(f, 'Fits', { ball: true, hills: true });
    const fit = () =>
      f.ok<FitAnswer>('POST', `${urlOf(p)}/cull/fit`, {
        cameraId: cellOf(p).cameraId,
        variantIds: [cellOf(p).variantId],
        profileId: 'sketch',
      });
    const { budgetBytes, now, tried } = await fit();
    const unmet = (await known(p))!.unmet.length;
    expect(now).toMatchObject({ fits: true, barShare: null, simplifies: false, leftOut: 0, simplified: 0 });
    expect(tried).toEqual([
      {
        barShare: 0,
        simplifies: false,
        bytes: expect.any(Number) as number,
        fits: true,
        leftOut: unmet,
        simplified: 0,
      },
    ]);
    // a budget that holds all but a part of the ball
    const small = tried[0]!.bytes - 200_000;
    expect(small).toBeLessThan(budgetBytes);
    await f.node.hello({ ...helloOf(2, 0), budgetBytes: small });
    const tight = await fit();
    expect(tight.budgetBytes).toBe(small);
    expect(tight.now.fits).toBe(false);
    expect(tight.now.bytes).toBe(now.bytes);
    const [first, second] = tight.tried;
    expect(first).toMatchObject({ barShare: 0, simplifies: false, fits: false });
    expect(second).toMatchObject({ barShare: 0, simplifies: true, fits: true, simplified: 1, leftOut: unmet });
    expect(tight.tried).toHaveLength(2);
    // nothing was changed; what is taken holds
    expect(await planOf(p)).toBeNull();
    await setPlan(p, { barShare: 0, simplifies: true });
    expect((await plan(p)).traces[0]).toMatchObject({ turnsBytes: 0, isRefused: false, simplifiedCount: 1 });
    await f.node.hello(helloOf(2, 0));
  });

  it('by evidence is less where a whole render tells more than the measurement did', async () => {
    const p = await projectWithScene(f, 'Sharpened');
    const { unmet } = await measure(p);
    expect(unmet.length).toBeGreaterThan(0);
    await render(p);
    expect((await known(p))!.unmet).toEqual(unmet);
    // as if some of its rays had come near everything
    const met = packMet([0, 1, 2, 3, 4, 5, 6, 7], 8);
    await f.running.db.query(`UPDATE render SET met = $1 WHERE project_id = $2`, [met, p.id]);
    const now = (await known(p))!;
    expect(now.unmet).toEqual([]);
    expect(now.objects.filter((o) => unmet.includes(o.path)).map((o) => o.brought)).toEqual(
      unmet.map(() => 1 / now.lightPaths),
    );
    await setPlan(p, { barShare: 0 });
    expect((await planOf(p))!.byEvidence).toEqual([]);
    await setPlan(p, { barShare: 0.0005 });
    expect((await planOf(p))!.byEvidence).toEqual(expect.arrayContaining(unmet));
    // it still tells of the picture with nothing left out
    expect((await known(p))!.unmet).toEqual([]);
  });

  it('is held against the whole scene: the same to the bit where nothing is left out, and within what was said elsewhere', async () => {
    const p = await projectWithScene(f, 'Proof');
    const evidence = await measure(p);
    const same = await prove(p);
    expect(same).toMatchObject({ differingPixels: 0, absoluteShare: 0, atMostShare: null, leftOut: [], pixelShare: 0 });
    expect(same.finalNoiseShare).toBeGreaterThan(0);
    expect(same.culledRgb).toEqual(same.wholeRgb);
    const seen = [...evidence.objects].sort((a, b) => b.sight.seen - a.sight.seen)[0]!;
    await setPlan(p, { leaveOut: [seen.path] });
    const lean = await prove(p);
    expect(lean.differingPixels).toBeGreaterThan(lean.widthPx * lean.heightPx * seen.sight.seen * 0.5);
    expect(lean.leftOut).toEqual([seen.path]);
    expect(lean.culled.objects).toBe(lean.whole.objects - 1);
    expect(Math.abs(lean.netShare)).toBeGreaterThan(0);
    expect(Math.abs(lean.netShare)).toBeLessThanOrEqual(lean.atMostShare!);
    expect(lean.object.filter((k) => k === 0).length).toBeGreaterThan(100);
    expect(lean.whole.peakBytes).toBeGreaterThan(lean.whole.engineBytes);
  });

  it('is not in the file that holds what the camera needs, which shows the same picture', async () => {
    const p = await projectWithScene(f, 'Split');
    const evidence = await measure(p);
    const small = [...evidence.objects].filter((o) => o.lit === 0).sort((a, b) => a.brought - b.brought)[0]!;
    const now = await setPlan(p, { leaveOut: [small.path] });
    const told: number[] = [];
    const leave = f.running.context.events.listen((e) => {
      if (e.type === 'split' && e.projectId === p.id) told.push(e.fraction);
    });
    const r = await splitOf(p);
    leave();
    expect(r.status).toBe(200);
    // how far it was, never back
    expect([...told].sort((x, y) => x - y)).toEqual(told);
    expect([told.length > 0, told[0]! > 0, told.at(-1)! <= 1]).toEqual([true, true, true]);
    const left = evidence.objects.length - 1;
    expect(r.headers.get('x-variscen-objects')).toBe(`${left}/${evidence.objects.length + evidence.unmet.length}`);
    const again = await projectOf(new Uint8Array(await r.arrayBuffer()), 'Split again');
    expect(again.cameras.map((c) => c.name)).toEqual([p.cameras[0]!.name]);
    const light = async (of: Project) => (await measure(of)).meanNits;
    const before = await light(now);
    expect(Math.abs((await light(again)) - before) / before).toBeLessThan(0.02 + small.brought + small.shadowed);
    const found = await measure(again);
    expect(found.objects.some((o) => o.path === small.path)).toBe(false);
  });

  it('of large meshes has those pieces alone that rays reached, which show the same picture', async () => {
    const p = await projectWithScene(f, 'Ball', { ball: true, alone: true });
    const triangles = (of: Response) => of.headers.get('x-variscen-triangles')!.split('/').map(Number);
    const whole = await splitOf(p);
    expect(triangles(whole)).toEqual([BALL_TRIANGLES, BALL_TRIANGLES]); // nothing was measured

    const { pieces, meanNits } = await measure(p);
    const { bytes, met } = pieces!.meshes[0]!;
    const isMet = unpackMet(met, bytes.length);
    const reached = bytes.filter((_, piece) => isMet(piece)).length;
    // what faces away is not reached, and there is nothing that light would bounce off towards it
    expect(reached).toBeGreaterThan(bytes.length * 0.4);
    expect(reached).toBeLessThan(bytes.length * 0.95);
    const split = await splitOf(p);
    const [some, ofAll] = triangles(split);
    expect(ofAll).toBe(BALL_TRIANGLES);
    expect(Math.abs(some! / BALL_TRIANGLES - reached / bytes.length)).toBeLessThan(0.1);
    const glb = new Uint8Array(await split.arrayBuffer());
    expect(glb.length).toBeLessThan((await whole.arrayBuffer()).byteLength * 0.95);

    // the same picture, of which there is less to leave out
    const again = await projectOf(glb, 'Ball again');
    const found = await measure(again);
    expect(Math.abs(found.meanNits - meanNits) / meanNits).toBeLessThan(1e-4);
    expect(found.objects.map((o) => o.times.seen)).toEqual((await measure(p)).objects.map((o) => o.times.seen));

    // of a sequence of which not every frame was looked at, meshes stay whole
    const camera = p.cameras[0]!;
    const handling = { ...camera.handling, frames: [{ first: 0, last: 9, step: 1 }] };
    await f.ok('PATCH', `${urlOf(p)}/cameras/${camera.id}`, { handling });
    await measure(p);
    expect(triangles(await splitOf(p))).toEqual([BALL_TRIANGLES, BALL_TRIANGLES]);
  });

  it('hides nothing from that file: what stands behind what is left out is in it', async () => {
    const p = await projectWithScene(f, 'Behind', { ball: true, alone: true, behind: true });
    const objects = (of: Response) => of.headers.get('x-variscen-objects');
    expect((await measure(p)).unmet).toEqual(['Ball']);
    expect(objects(await splitOf(p))).toBe('1/2');
    const now = await setPlan(p, { leaveOut: ['Sheet'] });
    const split = await splitOf(p);
    expect(objects(split)).toBe('1/2');
    expect(split.headers.get('x-variscen-triangles')).not.toBe(`2/${BALL_TRIANGLES + 2}`);
    const again = await projectOf(new Uint8Array(await split.arrayBuffer()), 'Behind again');
    const found = await measure(again);
    expect(found.objects.map((o) => o.path)).toEqual(['Ball']);
    expect(found.meanNits).toBeGreaterThan(0);
    // and it was not measured as if the whole scene looked so
    expect((await known(now))!.unmet).toEqual(['Ball']);
  });

  it('tells as well how long a picture will take, before one was rendered', async () => {
    const p = await projectWithScene(f, 'How long');
    const camera = p.cameras[0]!;
    // as no other project has it
    await f.ok('PATCH', `${urlOf(p)}/cameras/${camera.id}`, { settings: { ...camera.settings, focalLengthMm: 31 } });
    const expected = async () => {
      const { expectedS, expectedFrom } = (await plan(p)).traces[0];
      return { expectedS, expectedFrom };
    };
    const before = await expected();
    expect([null, 'other']).toContain(before.expectedFrom);
    const e = await measure(p);
    const after = await expected();
    const { samples } = (await plan(p)).profile;
    expect(after.expectedFrom).toBe('measured');
    expect(after.expectedS).toBeCloseTo((e.seconds / e.lightPaths) * 48 * 27 * samples, 6);
    // of which nothing can be read, nothing is said
    const folder = join(f.home, 'evidence', 'known');
    for (const name of await readdir(folder)) if (name.endsWith('.cost')) await writeFile(join(folder, name), '{');
    expect(await expected()).toEqual(before);
  });

  it('has its textures in that file no finer than rays look them up', async () => {
    const p = await projectWithScene(f, 'Painted', { painted: true });
    const camera = p.cameras[0]!;
    const set = (widthPx: number, heightPx: number) =>
      f.ok<Project>('PATCH', `${urlOf(p)}/cameras/${camera.id}`, {
        settings: { ...camera.settings, widthPx, heightPx },
      });
    const sizeIn = async () => (await readGlb(await splitOf(p))).listTextures().map((t) => t.getSize());
    await set(48, 27);
    expect(await sizeIn()).toEqual([[1024, 1024]]); // not measured
    expect((await measure(p)).textures).toEqual([{ image: expect.any(String) as string, finest: 1 }]);
    expect(await sizeIn()).toEqual([[512, 512]]);
    await set(144, 81);
    expect((await measure(p)).textures[0]!.finest).toBe(0);
    expect(await sizeIn()).toEqual([[1024, 1024]]);
  });

  it('cannot be rendered where its list is gone, in words', async () => {
    const p = await projectWithScene(f, 'Gone');
    const evidence = await measure(p);
    const now = await setPlan(p, { leaveOut: [evidence.objects[0]!.path] });
    const { plan: hash } = now.cameras[0]!.settings.cull!;
    await rm(f.running.context.assets.path(hash!));
    expect((await plan(p).catch((e: Error) => ({ errors: [{ message: e.message }] }))).errors[0].message).toMatch(
      /The list of what “Front” leaves out is missing/,
    );
  });
});
