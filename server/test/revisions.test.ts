// Cameras, the history of edits, and newer files of a scene, on a real database: what a person would find again.
import type { Camera, HistoryStep, MatchPreview, Project, Revision } from '@variscen/contract';
import { type Document, WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual, KHRMaterialsVariants } from '@gltf-transform/extensions';
import { unpackMap } from '@variscen/core/environment';
import { writeExr } from '@variscen/core/image';
import { SceneIndex, resolve } from '@variscen/core/looks';
import { PROFILES } from '@variscen/core/plan';
import {
  PLACED_HANDLING,
  type CameraSettings,
  type SceneDocument,
  poseFor,
  unpackGeometry,
} from '@variscen/core/scene';
import { attach, engineCamera, select, settingsOf } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { History } from '../src/domain/history.ts';
import { MIGRATIONS } from '../src/db/dataSource.ts';
import { DataSource } from 'typeorm';
import { type Fixture, projectWithScene, smallScene, startFixture } from './fixture.ts';

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
});
afterAll(async () => {
  await f?.close();
});

const read = (id: string) => f.ok<Project>('GET', `/api/projects/${id}`);
const undo = (id: string) => f.ok<{ label: string; project: Project }>('POST', `/api/projects/${id}/undo`);
const redo = (id: string) => f.ok<{ label: string; project: Project }>('POST', `/api/projects/${id}/redo`);
/** All that a person made, without what the history says about itself. */
const made = ({ history: _, ...rest }: Project) => rest;

/** The small scene as a newer file, changed by `change`. */
async function newer(change: (d: Document) => void): Promise<Uint8Array> {
  const io = new WebIO().registerExtensions([KHRLightsPunctual, KHRMaterialsVariants]);
  const d = await io.readBinary(await smallScene());
  change(d);
  return io.writeBinary(d);
}
const node = (d: Document, name: string) =>
  d
    .getRoot()
    .listNodes()
    .find((n) => n.getName() === name)!;
const bring = (id: string, bytes: Uint8Array) =>
  f.ok<Revision>('POST', `/api/projects/${id}/scene?fileName=newer.glb`, bytes);

describe('the history of a project', () => {
  it('takes every kind of edit back and does it again, to the same rows', async () => {
    const start = await projectWithScene(f, 'Back and forth');
    const at = `/api/projects/${start.id}`;
    const states: Project[] = [await read(start.id)];
    const did = async (method: string, path: string, body?: unknown) => {
      await f.ok(method, `${at}${path}`, body);
      states.push(await read(start.id));
    };
    await did('POST', '/options', { facet: 'lighting', name: 'Dim' });
    const option = states.at(-1)!.options[0]!.id;
    const destination = `option:${option}`;
    const [camera] = start.cameras;
    const change = { target: 'light:Lamp', property: 'light.intensity', value: 2 };
    await did('POST', '/pending', { destination, set: [change] });
    await did('POST', '/pending/keep', { destination });
    await did('POST', '/variants', { optionIds: [option] });
    await did('PATCH', `/options/${option}`, { name: 'Dimmer' });
    await did('POST', '/pending', { destination: `camera:${camera!.id}`, set: [change] });
    await did('POST', '/pending/keep', { destination: `camera:${camera!.id}` });
    await did('PATCH', `/cameras/${camera!.id}`, {
      name: 'Close',
      handling: { ...camera!.handling, notes: 'for the poster' },
    });
    await did('PUT', '/sets', { sets: [{ name: 'Cloths', paths: ['Sheet'] }] });
    await did('PATCH', '', { name: 'There and back' });
    await did('DELETE', `/cameras/${camera!.id}`); // with its patch
    expect(states.at(-1)!.patches).toEqual([]);
    for (let k = states.length - 2; k >= 0; k--) expect(made((await undo(start.id)).project)).toEqual(made(states[k]!));
    expect((await undo(start.id)).project).toMatchObject({ revision: null, cameras: [] }); // the import
    expect((await f.call('POST', `${at}/undo`)).data).toMatchObject({
      code: 'WRONG_STATE',
      message: 'There is nothing to undo.',
    });
    expect(made((await redo(start.id)).project)).toEqual(made(states[0]!));
    for (const s of states.slice(1)) expect(made((await redo(start.id)).project)).toEqual(made(s));
    expect((await read(start.id)).history).toMatchObject({ undo: 'Delete camera Close', redo: null });
  });
  it('names what it would take back, and forgets what was undone once something else is done', async () => {
    const { id } = await projectWithScene(f, 'Labels');
    const at = `/api/projects/${id}`;
    await f.ok('POST', `${at}/pending`, {
      destination: 'base',
      set: [{ target: 'light:Lamp', property: 'light.intensity', value: 2 }],
    });
    await f.ok('POST', `${at}/options`, { facet: 'materials', name: 'Blue' });
    expect((await undo(id)).label).toBe('Make option Blue');
    expect((await read(id)).history).toMatchObject({ undo: 'Edit Lamp, strength', redo: 'Make option Blue' });
    await f.ok('POST', `${at}/options`, { facet: 'materials', name: 'Red' });
    expect((await f.ok<HistoryStep[]>('GET', `${at}/history`)).map((s) => [s.label, s.state])).toEqual([
      ['Make option Red', 'done'],
      ['Edit Lamp, strength', 'done'],
      ['Import the scene small.glb', 'done'],
    ]);
  });
  it('has a slider that is drawn as one step', async () => {
    const { id } = await projectWithScene(f, 'Slider');
    const at = `/api/projects/${id}`;
    for (const value of [2, 3, 4])
      await f.ok('POST', `${at}/pending`, {
        destination: 'base',
        set: [{ target: 'light:Lamp', property: 'light.intensity', value }],
      });
    expect((await undo(id)).project.pending).toEqual([]);
    expect((await redo(id)).project.pending[0]!.changes[0]!.value).toBe(4);
  });
  it('changes nothing where a step cannot be taken back', async () => {
    const { id, cameras } = await projectWithScene(f, 'Gone');
    const at = `/api/projects/${id}`;
    await f.ok('PATCH', `${at}/cameras/${cameras[0]!.id}`, { name: 'Other' });
    await f.running.db.query('DELETE FROM camera WHERE id = $1', [cameras[0]!.id]); // not by an edit
    expect((await f.call('POST', `${at}/undo`)).data).toMatchObject({ code: 'WRONG_STATE' });
    expect((await read(id)).history.undo).toBe('Rename a camera to Other');
  });
});

describe('cameras', () => {
  it('are added after another, put in order, changed together, and refuse to be moved when locked', async () => {
    const p = await projectWithScene(f, 'Cameras');
    const at = `/api/projects/${p.id}`;
    const [front] = p.cameras as [Camera]; // from the file, so locked
    expect(front.handling.locked).toBe(true);
    const square = await f.ok<Camera>('POST', `${at}/cameras`, {
      name: 'Square',
      settings: { ...front.settings, widthPx: 800, heightPx: 800, depthRangeM: { near: 1, far: 4 } },
    });
    const between = await f.ok<Camera>('POST', `${at}/cameras`, {
      name: 'Between',
      settings: front.settings,
      afterId: front.id,
    });
    const names = async () => (await read(p.id)).cameras.map((c) => c.name);
    expect(await names()).toEqual(['Front', 'Between', 'Square']);
    await f.ok('PUT', `${at}/cameras/order`, { cameraIds: [square.id, front.id] });
    expect(await names()).toEqual(['Square', 'Front', 'Between']);
    const all = await f.ok<Project>('PATCH', `${at}/cameras`, {
      cameraIds: [front.id, square.id],
      settings: { nearM: 0.2, fStop: 2.8, depthRangeM: null },
      handling: { locked: true },
    });
    expect(
      all.cameras.map((c) => [
        c.name,
        c.settings.nearM,
        c.settings.fStop,
        c.settings.widthPx,
        c.settings.depthRangeM,
        c.handling.locked,
      ]),
    ).toEqual([
      ['Square', 0.2, 2.8, 800, undefined, true],
      ['Front', 0.2, 2.8, 144, undefined, true],
      ['Between', 0.1, null, 144, undefined, false],
    ]);
    const moved = { ...square.settings, matrix: square.settings.matrix.map((x, i) => (i === 12 ? x + 1 : x)) };
    expect((await f.call('PATCH', `${at}/cameras/${square.id}`, { settings: moved })).data).toMatchObject({
      code: 'WRONG_STATE',
      message: 'Camera “Square” is locked.',
    });
    await f.ok('PATCH', `${at}/cameras/${between.id}`, { settings: moved });
    const bad = await f.call('PATCH', `${at}/cameras`, { cameraIds: [between.id, front.id], settings: { nearM: 500 } });
    expect(bad.data).toMatchObject({ code: 'INVALID', message: expect.stringMatching(/“Between”|“Front”/) });
    expect((await read(p.id)).cameras.find((c) => c.id === between.id)!.settings.nearM).toBe(0.1);
  });
  it('take a plate, and no other file for one', async () => {
    const tiff = await sharp({ create: { width: 30, height: 20, channels: 3, background: '#884422' } })
      .tiff()
      .toBuffer();
    const plate = await f.ok('POST', '/api/assets?fileName=street.tif', new Uint8Array(tiff));
    expect(plate).toMatchObject({ name: 'street.tif', widthPx: 30, heightPx: 20 });
    const shown = await sharp(
      Buffer.from(await (await fetch(`${f.base}/api/assets/${plate.hash}`)).arrayBuffer()),
    ).metadata();
    expect([shown.format, shown.width]).toEqual(['png', 30]);
    expect(
      (await f.call('POST', '/api/assets?fileName=notes.txt', new TextEncoder().encode('not a picture'))).data,
    ).toMatchObject({ code: 'IMPORT_FAILED', message: expect.stringMatching(/“notes.txt”/) });
    expect(
      (await f.call('POST', '/api/assets?fileName=cut.tif', new Uint8Array(tiff.subarray(0, tiff.length / 2)))).status,
    ).toBe(422);
  });
});

describe('a newer scene', () => {
  it('is offered with what it would do, keeps what was recorded, and can be gone back from', async () => {
    const p = await projectWithScene(f, 'Newer');
    const at = `/api/projects/${p.id}`;
    const hidden = (target: string) => ({ target, property: 'object.shown', value: false });
    const option = await f.ok('POST', `${at}/options`, {
      facet: 'visibility',
      name: 'Bare',
      changes: [hidden('object:Sheet'), hidden('object:Wall'), hidden('object:Crate far away')],
    });
    const before = await read(p.id);
    const offered = await bring(
      p.id,
      await newer((d) => {
        node(d, 'Sheet').setName('Cloth sheet');
        node(d, 'Crate far away').dispose();
        node(d, 'Wall').setTranslation([0, 1, -2]);
        node(d, 'Front').setTranslation([0, 0, 4]);
        d.getRoot()
          .listScenes()[0]!
          .addChild(d.createNode('Second').setCamera(d.createCamera('Second').setType('perspective').setYFov(0.5)));
      }),
    );
    expect(offered).toMatchObject({ number: 2, state: 'offered' });
    expect(await read(p.id)).toMatchObject({ revision: { number: 1 }, offered: { number: 2 } });
    const byHand = [{ material: false, from: 'Sheet', to: 'Cloth sheet' }];
    const look = await f.ok<MatchPreview>('POST', `${at}/revisions/${offered.id}/match`, { byHand });
    expect(look).toMatchObject({
      byHand: 1,
      gone: [
        { id: 'Crate far away', recorded: 1 },
        { id: 'Wood', kind: 'material', recorded: 0 },
      ],
      added: [{ kind: 'camera', id: 'Second' }],
      newCameras: ['Second'],
      movedCameras: [{ name: 'Front' }],
    });
    expect(
      look.notable
        .filter((n) => n.moved)
        .map((n) => n.to)
        .sort(),
    ).toEqual(['Front', 'Wall']);
    expect(
      (await f.ok<MatchPreview>('POST', `${at}/revisions/${offered.id}/match`, { byHand: [] })).gone.map((g) => g.id),
    ).toEqual(expect.arrayContaining(['Sheet', 'Crate far away']));
    const now = await f.ok<Project>('POST', `${at}/revisions/${offered.id}/accept`, {
      byHand,
      addCameras: ['Second'],
      moveCameraIds: [p.cameras[0]!.id],
    });
    expect(now).toMatchObject({
      revision: {
        number: 2,
        state: 'accepted',
        match: { byHand: 1, gone: [{ id: 'Crate far away' }, { id: 'Wood' }] },
      },
      offered: null,
      options: [{ id: option.id, changes: before.options[0]!.changes }],
    });
    expect(now.cameras.map((c) => [c.name, c.settings.matrix[14]])).toEqual([
      ['Front', 4],
      ['Second', 0],
    ]);
    const document = JSON.parse(new TextDecoder().decode(await f.running.context.assets.get(now.revision!.sceneHash)));
    expect(document.nodes.find((n: { name: string }) => n.name === 'Cloth sheet')).toMatchObject({
      path: 'Sheet',
      filePath: 'Cloth sheet',
    });
    // by the history, and by choice
    expect(made((await undo(p.id)).project)).toEqual(made({ ...before, offered: null }));
    await redo(p.id);
    expect((await f.ok<Project>('POST', `${at}/revisions/${before.revision!.id}/use`)).revision!.sceneHash).toBe(
      before.revision!.sceneHash,
    );
    expect(
      (await f.ok<Revision[]>('GET', `${at}/revisions`)).map((r) => [r.number, r.state, r.report.fileName]),
    ).toEqual([
      [2, 'accepted', 'newer.glb'],
      [1, 'accepted', 'small.glb'],
    ]);
    expect(
      (await f.call('POST', `${at}/revisions/${offered.id}/accept`, { byHand: [], addCameras: [], moveCameraIds: [] }))
        .data,
    ).toMatchObject({ code: 'WRONG_STATE' });
  });
  it('gives recorded values back to a thing that comes back, or to another by hand', async () => {
    const p = await projectWithScene(f, 'Comes back');
    const at = `/api/projects/${p.id}`;
    const accept = async (bytes: Uint8Array) =>
      f.ok<Project>('POST', `${at}/revisions/${(await bring(p.id, bytes)).id}/accept`, {
        byHand: [],
        addCameras: [],
        moveCameraIds: [],
      });
    await f.ok('POST', `${at}/options`, {
      facet: 'visibility',
      name: 'Bare',
      changes: [{ target: 'object:Sheet', property: 'object.shown', value: false }],
    });
    const without = await accept(
      await newer((d) => {
        node(d, 'Sheet').dispose();
      }),
    );
    expect(without.options[0]!.changes[0]!.target).toBe('object:Sheet');
    const moved = await f.ok<Project>('POST', `${at}/retarget`, { from: 'object:Sheet', to: 'object:Wall' });
    expect(moved.options[0]!.changes).toEqual([{ target: 'object:Wall', property: 'object.shown', value: false }]);
    expect((await undo(p.id)).project.options[0]!.changes[0]!.target).toBe('object:Sheet');
    const again = await accept(await smallScene());
    const document = JSON.parse(
      new TextDecoder().decode(await f.running.context.assets.get(again.revision!.sceneHash)),
    );
    expect(document.nodes.map((n: { path: string }) => n.path)).toContain('Sheet');
    for (const to of ['light:Lamp', 'object:Sheet', 'grade'])
      expect((await f.call('POST', `${at}/retarget`, { from: 'object:Sheet', to })).status).toBe(400);
  });
  it('can be discarded, and makes room for a newer one', async () => {
    const p = await projectWithScene(f, 'Discarded');
    const at = `/api/projects/${p.id}`;
    const first = await bring(p.id, await smallScene());
    const second = await bring(p.id, await smallScene());
    expect((await f.call('POST', `${at}/revisions/${first.id}/match`, { byHand: [] })).data).toMatchObject({
      code: 'WRONG_STATE',
    });
    expect((await f.ok<Project>('DELETE', `${at}/revisions/${second.id}`)).offered).toBeNull();
    expect((await f.call('DELETE', `${at}/revisions/${p.revision!.id}`)).data).toMatchObject({ code: 'WRONG_STATE' });
  });
  it('comes in at a scale', async () => {
    const { id } = await f.ok<Project>('POST', '/api/projects', { name: 'Centimetres' });
    const r = await f.ok<Revision>(
      'POST',
      `/api/projects/${id}/scene?fileName=cm.glb&metresPerUnit=0.01`,
      await smallScene(),
    );
    expect(r.report.sizeM[0]).toBeCloseTo(2.05, 1);
    expect(
      (await f.call('POST', `/api/projects/${id}/scene?fileName=cm.glb&metresPerUnit=0`, await smallScene())).status,
    ).toBe(400);
  });
});

describe('a data folder of an older version', () => {
  it('goes through the migrations with what is in it', async () => {
    const url = new URL(
      f.running.db.options.type === 'postgres' ? String((f.running.db.options as { url?: string }).url) : '',
    );
    await f.running.db.query('CREATE DATABASE older');
    url.pathname = '/older';
    const open = (migrations: typeof MIGRATIONS) =>
      new DataSource({ type: 'postgres', url: url.href, migrations }).initialize();
    const old = await open(MIGRATIONS.slice(0, 2));
    await old.runMigrations();
    await old.query(
      `INSERT INTO project VALUES ('00000000-0000-4000-8000-000000000001', 'Older', '{camera}', '[]', now())`,
    );
    for (const n of [1, 2])
      await old.query(
        `INSERT INTO scene_revision VALUES ('00000000-0000-4000-8000-00000000001${n}', '00000000-0000-4000-8000-000000000001', ${n}, 'hash', '{}', now())`,
      );
    await old.query(
      `INSERT INTO camera VALUES ('00000000-0000-4000-8000-000000000021', '00000000-0000-4000-8000-000000000001', 'Front', 0, '{}')`,
    );
    await old.destroy();
    // with a step of the history as it was kept before it was kept by change: whole rows
    const earlier = await open(MIGRATIONS.slice(0, 7));
    await earlier.runMigrations();
    const [step] = await earlier.query<{ id: string }[]>(
      `INSERT INTO history_step (project_id, label, state, created_at)
        VALUES ('00000000-0000-4000-8000-000000000001', 'Rename the project to Older', 'done', now()) RETURNING id`,
    );
    await earlier.query(
      `INSERT INTO history_row (step_id, table_name, before, after)
        SELECT $1, 'project', to_jsonb(p) || '{"name": "Oldest"}', to_jsonb(p) FROM project p`,
      [step!.id],
    );
    // a camera with a range of frames, and an edit that can be taken back to another
    const handling = { ...PLACED_HANDLING, frames: { first: 1, last: 40, step: 2 } };
    await earlier.query(`UPDATE camera SET handling = $1`, [JSON.stringify(handling)]);
    await earlier.query(
      `INSERT INTO history_row (step_id, table_name, before, after)
        SELECT $1, 'camera', to_jsonb(c) || '{"handling": {"frames": {"first": 3, "last": 3, "step": 1}}}', to_jsonb(c)
          FROM camera c`,
      [step!.id],
    );
    for (const [n, state] of ['done', 'waiting'].entries()) {
      const id = (x: number) => `00000000-0000-4000-8000-0000000000${x}${n}`;
      await earlier.query(`INSERT INTO batch (id, project_id, profile, created_at) VALUES ($1, $2, '{}', now())`, [
        id(3),
        '00000000-0000-4000-8000-000000000001',
      ]);
      await earlier.query(
        `INSERT INTO trace (id, batch_id, project_id, ordinal, state, inputs, profile, width_px, height_px, planned_bytes,
            attempts, fraction, samples_done, cells, created_at, finished_at)
          VALUES ($1, $2, $3, 0, $4, '{}', '{}', 8, 8, 0, 0, 0, 0, '[]', now(), '2026-01-02T03:04:05Z')`,
        [id(4), id(3), '00000000-0000-4000-8000-000000000001', state],
      );
    }
    await earlier.destroy();
    const now = await open(MIGRATIONS);
    try {
      await now.runMigrations();
      // what ended long ago is told to nobody
      expect(await now.query('SELECT ended_at, told_at FROM batch ORDER BY id')).toEqual([
        { ended_at: new Date('2026-01-02T03:04:05Z'), told_at: new Date('2026-01-02T03:04:05Z') },
        { ended_at: null, told_at: null },
      ]);
      const frames = async () =>
        (await now.query<{ frames: unknown }[]>(`SELECT handling->'frames' AS frames FROM camera`))[0]!.frames;
      expect(await frames()).toEqual([{ first: 1, last: 40, step: 2 }]);
      const history = new History(now, () => new Date());
      await history.undo('00000000-0000-4000-8000-000000000001');
      expect(await now.query('SELECT name, name_template FROM project')).toEqual([
        { name: 'Oldest', name_template: '{camera}' },
      ]);
      expect(await frames()).toEqual([{ first: 3, last: 3, step: 1 }]);
      await history.redo('00000000-0000-4000-8000-000000000001');
      expect(await now.query('SELECT name FROM project')).toEqual([{ name: 'Older' }]);
      expect(await now.query('SELECT revision_id, sets FROM project')).toEqual([
        { revision_id: '00000000-0000-4000-8000-000000000012', sets: [] },
      ]);
      expect(await now.query('SELECT state, match FROM scene_revision')).toEqual([
        { state: 'accepted', match: null },
        { state: 'accepted', match: null },
      ]);
      expect((await now.query<{ handling: object }[]>('SELECT handling FROM camera'))[0]!.handling).toEqual({
        locked: true,
        aspectLocked: true,
        notes: '',
        guides: ['thirds'],
        frames: [{ first: 1, last: 40, step: 2 }],
        plate: null,
      });
      await now.query('DELETE FROM project');
    } finally {
      await now.destroy();
    }
  });
});

describe('environment maps', () => {
  it('come in once, and a render is lit by them', async () => {
    const light = (nits: number) =>
      writeExr({
        width: 64,
        height: 32,
        channels: ['R', 'G', 'B'].map((name) => ({
          name,
          type: 'half' as const,
          data: new Float32Array(64 * 32).fill(nits),
        })),
      });
    const bringMap = (name: string, bytes: Uint8Array) => f.call('POST', `/api/environments?fileName=${name}`, bytes);
    const { data: map } = await bringMap('evening.exr', light(2));
    await bringMap('evening.exr', light(2));
    expect(await f.ok('GET', '/api/environments')).toEqual([
      { value: map.value, name: 'evening.exr', width: 64, height: 32 },
    ]);
    expect((await bringMap('torn.exr', light(2).slice(0, 400))).data).toMatchObject({
      code: 'IMPORT_FAILED',
      message: expect.stringMatching(/“torn.exr” is cut short/),
    });
    const p = await projectWithScene(f, 'Lit by a map');
    const at = `/api/projects/${p.id}`;
    const option = await f.ok('POST', `${at}/options`, {
      facet: 'environment',
      name: 'Evening',
      changes: [{ target: 'environment', property: 'environment.kind', value: map.value }],
    });
    const variant = await f.ok('POST', `${at}/variants`, { optionIds: [option.id] });
    const cells = [p.variants[0]!.id, variant.id].map((variantId) => ({ cameraId: p.cameras[0]!.id, variantId }));
    const plan = await f.ok('POST', `${at}/plan`, { cells, profileId: 'sketch' });
    expect(plan.errors).toEqual([]);
    const lights = cells.map(
      (c) =>
        plan.traces.find((t: { cells: { variantId: string }[] }) => t.cells[0]!.variantId === c.variantId).bytes.lights,
    );
    expect(lights[1]).toBeLessThan(lights[0]); // 64 × 32 texels, where a generated sky has 256 × 128
    const picture = async (kind: string) => {
      const d = JSON.parse(
        new TextDecoder().decode(await f.running.context.assets.get(p.revision!.sceneHash)),
      ) as SceneDocument;
      const state = resolve(new SceneIndex(d), [
        {
          id: 'base',
          name: '',
          kind: 'base',
          changes: [
            { target: 'environment', property: 'environment.kind', value: kind },
            { target: 'light:Lamp', property: 'light.on', value: false },
          ],
        },
      ]);
      const selection = select(poseFor(d, undefined, p.cameras[0]!.settings as CameraSettings), state);
      const get = (hash: string) => f.running.context.assets.get(hash);
      const engine = await openNodeEngine(1);
      try {
        const scene = await attach(
          selection,
          {
            geometry: async (i) => unpackGeometry(await get(d.meshes[i]!.blob), d.meshes[i]!),
            deform: () => Promise.reject(new Error()),
            pixels: () => Promise.reject(new Error()),
            environment: async (sky) => unpackMap(await get(sky.hash), sky),
          },
          PROFILES[0]!.displacement,
          9,
        );
        await engine.load(scene, settingsOf(PROFILES[0]!, { widthPx: 16, heightPx: 9 }, selection));
        await engine.render({ camera: engineCamera(selection.pose.now.camera), samples: 16 });
        return engine.picture().rgba.reduce((sum, x, i) => (i % 4 === 1 ? sum + x : sum), 0) / (16 * 9);
      } finally {
        await engine.close();
      }
    };
    // white light of 2 nits from everywhere against 0.5 from above and 0.25 from below
    expect(await picture(map.value)).toBeGreaterThan((await picture('even')) * 3);
  });
  it('a file’s own choice of materials becomes an option', async () => {
    const { id } = await f.ok<Project>('POST', '/api/projects', { name: 'Variants of the file' });
    await f.ok(
      'POST',
      `/api/projects/${id}/scene?fileName=choices.glb`,
      await newer((d) => {
        const v = d.createExtension(KHRMaterialsVariants);
        const sheet = d
          .getRoot()
          .listMeshes()
          .find((m) => m.getName() === 'Sheet')!
          .listPrimitives()[0]!;
        const wood = d
          .getRoot()
          .listMaterials()
          .find((m) => m.getName() === 'Wood')!;
        sheet.setExtension(
          'KHR_materials_variants',
          v.createMappingList().addMapping(v.createMapping().setMaterial(wood).addVariant(v.createVariant('All wood'))),
        );
      }),
    );
    expect((await read(id)).options).toMatchObject([
      {
        facet: 'materials',
        name: 'All wood',
        changes: [{ target: 'object:Sheet', property: 'object.material', value: 'Wood' }],
      },
    ]);
  });
});
