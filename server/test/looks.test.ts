// Recording looks on a real database: options, variants, pending edits, and two windows on one project.
import type { LooksMatchAnswer, Option, Project, Variant } from '@variscen/contract';
import { WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual } from '@gltf-transform/extensions';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Fixture, projectWithScene, smallScene, startFixture } from './fixture.ts';

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
});
afterAll(async () => {
  await f?.close();
});

const DIM = { target: 'light:Lamp', property: 'light.intensity', value: 2 };
const OFF = { target: 'light:Lamp', property: 'light.on', value: false };
const HIDDEN = { target: 'object:Sheet', property: 'object.shown', value: false };
const BLUE = { target: 'material:Cloth', property: 'material.baseColor', value: [0, 0, 1] };
const key = ({ target, property }: { target: string; property: string }) => ({ target, property });
const NONE = '00000000-0000-4000-8000-000000000000';
async function begin(name: string) {
  const p = await projectWithScene(f, name);
  const at = `/api/projects/${p.id}`;
  const read = () => f.ok<Project>('GET', at);
  const undo = () => f.ok<{ label: string; project: Project }>('POST', `${at}/undo`);
  const option = (facet: string, n: string, changes: unknown[] = []) =>
    f.ok<Option>('POST', `${at}/options`, { facet, name: n, changes });
  return { p, at, read, undo, option, camera: p.cameras[0]!.id };
}

describe('pending edits', () => {
  it('are kept one by one, discarded one by one, and what is not named stays', async () => {
    const { at, read } = await begin('One by one');
    await f.ok('POST', `${at}/pending`, { destination: 'base', set: [DIM, OFF, HIDDEN] });
    await f.ok('POST', `${at}/pending/keep`, { destination: 'base', only: [key(OFF)] });
    await f.ok('POST', `${at}/pending`, { destination: 'base', clear: [key(HIDDEN)] });
    expect([(await read()).base, (await read()).pending.map((x) => x.changes)]).toEqual([[OFF], [[DIM]]]);
    await f.ok('POST', `${at}/pending`, { destination: 'base', clear: 'all' });
    expect((await read()).pending).toEqual([]);
  });
  it('move to another destination, never into one of another facet', async () => {
    const { at, read, option, camera, undo } = await begin('Moved');
    const lamp = await option('lighting', 'Dim');
    await f.ok('POST', `${at}/pending`, { destination: 'base', set: [DIM, HIDDEN] });
    const refused = await f.call('POST', `${at}/pending/move`, { from: 'base', to: `option:${lamp.id}` });
    expect(refused.data.message).toMatch(/“Shown” does not belong to the facet lighting/);
    expect((await read()).pending).toEqual(
      [{ destination: 'base', changes: [DIM, HIDDEN], projectId: undefined }].map(({ projectId: _, ...x }) =>
        expect.objectContaining(x),
      ),
    );
    await f.ok('POST', `${at}/pending/move`, { from: 'base', to: `option:${lamp.id}`, only: [key(DIM)] });
    await f.ok('POST', `${at}/pending/move`, { from: 'base', to: `camera:${camera}` });
    expect(Object.fromEntries((await read()).pending.map((x) => [x.destination, x.changes]))).toEqual({
      [`option:${lamp.id}`]: [DIM],
      [`camera:${camera}`]: [HIDDEN],
    });
    await undo();
    expect(Object.fromEntries((await read()).pending.map((x) => [x.destination, x.changes]))).toEqual({
      [`option:${lamp.id}`]: [DIM],
      base: [HIDDEN],
    });
  });
  it('become two options and a variant with both, as one edit; all or nothing', async () => {
    const { at, read, option, undo } = await begin('Two facets');
    const cloth = await option('materials', 'Blue', [BLUE]);
    const variant = await f.ok<Variant>('POST', `${at}/variants`, { optionIds: [cloth.id] });
    await f.ok('POST', `${at}/pending`, { destination: 'base', set: [DIM, HIDDEN] });
    const before = await read();
    const taken = await f.call('POST', `${at}/pending/keep`, {
      destination: 'base',
      as: [
        { facet: 'visibility', name: 'No sheet' },
        { facet: 'materials', name: 'Nothing of this' },
      ],
    });
    expect([taken.status, taken.data.message]).toEqual([400, 'None of the pending edits belongs to materials.']);
    expect(await read()).toEqual(before);
    const kept = await f.ok<{ project: Project; optionIds: string[]; variantId: string }>(
      'POST',
      `${at}/pending/keep`,
      {
        destination: 'base',
        as: [
          { facet: 'lighting', name: 'Dim' },
          { facet: 'visibility', name: 'No sheet' },
        ],
        variant: { fromVariantId: variant.id },
      },
    );
    const made = kept.project.variants.find((v) => v.id === kept.variantId)!;
    expect(kept.project.options.map((o) => [o.name, o.changes])).toEqual([
      ['Blue', [BLUE]],
      ['Dim', [DIM]],
      ['No sheet', [HIDDEN]],
    ]);
    expect([made.name, made.optionIds]).toEqual(['Dim · Blue · No sheet', [cloth.id, ...kept.optionIds]]);
    expect(kept.project.pending).toEqual([]);
    expect((await undo()).project).toMatchObject({
      options: before.options,
      variants: before.variants,
      pending: before.pending,
    });
  });
  it('clears what is recorded in an option, the base or a patch', async () => {
    const { at, read, option, camera } = await begin('Cleared');
    const lamp = await option('lighting', 'Dim', [DIM, OFF]);
    await f.ok('POST', `${at}/recorded`, { destination: `option:${lamp.id}`, clear: [key(DIM)] });
    await f.ok('POST', `${at}/recorded`, { destination: `camera:${camera}`, set: [HIDDEN] });
    expect([(await read()).options[0]!.changes, (await read()).patches.map((x) => x.changes)]).toEqual([
      [OFF],
      [[HIDDEN]],
    ]);
    await f.ok('POST', `${at}/recorded`, { destination: `camera:${camera}`, clear: [key(HIDDEN)] });
    expect((await read()).patches).toEqual([]);
    expect((await read()).history.undo).toBe('Clear Sheet, shown');
  });
});

describe('options', () => {
  it('are duplicated beside the first, put in order within their facet, noted and tagged', async () => {
    const { at, read, option } = await begin('In order');
    const a = await option('lighting', 'Lamp', [DIM]);
    const wall = await option('materials', 'Blue', [BLUE]);
    const b = await option('lighting', 'Dark', [OFF]);
    await f.ok('PATCH', `${at}/options/${a.id}`, { notes: 'as in the sketch', tag: 'amber' });
    const copy = await f.ok<Option>('POST', `${at}/options/${a.id}/duplicate`, {});
    const again = await f.ok<Option>('POST', `${at}/options/${copy.id}/duplicate`, {});
    expect([copy, again]).toMatchObject([
      { name: 'Lamp 2', changes: [DIM], notes: 'as in the sketch', tag: 'amber' },
      { name: 'Lamp 3' },
    ]);
    expect((await read()).options.map((o) => o.name)).toEqual(['Lamp', 'Lamp 2', 'Lamp 3', 'Blue', 'Dark']);
    await f.ok('PUT', `${at}/options/order`, { optionIds: [b.id, again.id, copy.id, a.id] });
    expect((await read()).options.map((o) => o.name)).toEqual(['Dark', 'Lamp 3', 'Lamp 2', wall.name, 'Lamp']);
  });
  it('that variants use go from them only where that is said, and come back with undo', async () => {
    const { at, read, option, undo } = await begin('Deleted');
    const lamp = await option('lighting', 'Dim', [DIM]);
    const cloth = await option('materials', 'Blue', [BLUE]);
    await f.ok('POST', `${at}/variants`, { optionIds: [lamp.id, cloth.id] });
    await f.ok('POST', `${at}/pending`, { destination: `option:${lamp.id}`, set: [OFF] });
    const before = await read();
    expect((await f.call('DELETE', `${at}/options/${lamp.id}`)).data.message).toMatch(
      /used by the variant “Dim · Blue”/,
    );
    await f.ok('DELETE', `${at}/options/${lamp.id}?fromVariants=yes`);
    expect([(await read()).variants.map((v) => v.name), (await read()).pending]).toEqual([['Base', 'Blue'], []]);
    expect((await undo()).project).toMatchObject({
      options: before.options,
      variants: before.variants,
      pending: before.pending,
    });
  });
});

describe('variants', () => {
  it('of all combinations are made as one edit, but for those that are there', async () => {
    const { at, option, undo } = await begin('Combined');
    const lamps = [await option('lighting', 'Dim', [DIM]), await option('lighting', 'Dark', [OFF])];
    const cloth = await option('materials', 'Blue', [BLUE]);
    const combinations = lamps.flatMap((l) => [[l.id], [l.id, cloth.id]]);
    await f.ok('POST', `${at}/variants`, { optionIds: [lamps[0]!.id] });
    const { project, variantIds } = await f.ok<{ project: Project; variantIds: string[] }>(
      'POST',
      `${at}/variants/combine`,
      { combinations },
    );
    expect(project.variants.map((v) => v.name)).toEqual(['Base', 'Dim', 'Dim · Blue', 'Dark', 'Dark · Blue']);
    expect(variantIds).toHaveLength(3);
    expect((await undo()).project.variants.map((v) => v.name)).toEqual(['Base', 'Dim']);
    expect((await f.call('POST', `${at}/variants/combine`, { combinations: [[NONE]] })).status).toBe(404);
  });
  it('are named by the template, by hand, and from their options again', async () => {
    const { at, read, option } = await begin('Named');
    const lamp = await option('lighting', 'Dim');
    const cloth = await option('materials', 'Blue');
    const v = await f.ok<Variant>('POST', `${at}/variants`, { optionIds: [lamp.id, cloth.id] });
    const names = async () => (await read()).variants.map((x) => x.name);
    await f.ok('PATCH', at, { variantTemplate: '{materials} under {lighting}' });
    expect(await names()).toEqual(['Base', 'Blue under Dim']);
    await f.ok('PATCH', `${at}/variants/${v.id}`, { name: 'For the poster' });
    await f.ok('PATCH', `${at}/options/${lamp.id}`, { name: 'Low' });
    expect(await names()).toEqual(['Base', 'For the poster']);
    await f.ok('PATCH', `${at}/variants/${v.id}`, { name: null });
    expect(await names()).toEqual(['Base', 'Blue under Low']);
    expect((await f.call('PATCH', at, { variantTemplate: '{season}' })).data.message).toMatch(/no token \{season\}/);
  });
  it('that show the same say so on the board by the same hash, whatever they are made of', async () => {
    const { at, option, p } = await begin('The same');
    const nothing = await option('lighting', 'As it is', [{ ...DIM, value: 20 }]);
    const dark = await option('lighting', 'Dark', [OFF]);
    for (const optionIds of [[nothing.id], [dark.id]]) await f.ok('POST', `${at}/variants`, { optionIds });
    const { cells } = await f.ok<{ cells: { variantId: string; hash: string }[] }>('GET', `${at}/board`);
    const [base, same, other] = (await f.ok<Project>('GET', `/api/projects/${p.id}`)).variants.map(
      (v) => cells.find((c) => c.variantId === v.id)!.hash,
    );
    expect(same).toBe(base);
    expect(other).not.toBe(base);
  });
});

describe('two windows on one project', () => {
  const as = (tab: string, seen: string) => ({ 'x-variscen-tab': tab, 'x-variscen-seen': seen });
  it('a change of what the other changed since is refused and says what it did; nothing of it is written', async () => {
    const { at, read, option } = await begin('Two windows');
    const lamp = await option('lighting', 'Dim');
    const seen = (await read()).history.last!;
    await f.ok('PATCH', `${at}/options/${lamp.id}`, { name: 'Low' });
    const refused = await f.call('PATCH', `${at}/options/${lamp.id}`, { name: 'Faint' }, as('mine', seen));
    expect([refused.status, refused.data.code, refused.data.message]).toEqual([
      409,
      'CONFLICT',
      expect.stringMatching(/“Rename an option to Low” was done meanwhile/),
    ]);
    expect((await read()).options[0]!.name).toBe('Low');
    expect((await read()).history.undo).toBe('Rename an option to Low');
    expect(
      (await f.call('PATCH', `${at}/options/${lamp.id}`, { name: 'Faint' }, as('mine', (await read()).history.last!)))
        .status,
    ).toBe(200);
  });
  it('changes of other values of the same destination go side by side', async () => {
    const { at, read } = await begin('Side by side');
    const seen = (await read()).history.last ?? '0';
    expect(
      (await f.call('POST', `${at}/pending`, { destination: 'base', set: [DIM] }, as('theirs', seen))).status,
    ).toBe(200);
    expect(
      (await f.call('POST', `${at}/pending`, { destination: 'base', set: [HIDDEN] }, as('mine', seen))).status,
    ).toBe(200);
    expect((await read()).pending[0]!.changes).toEqual([DIM, HIDDEN]);
    const refused = await f.call(
      'POST',
      `${at}/pending`,
      { destination: 'base', set: [{ ...DIM, value: 7 }] },
      as('mine', seen),
    );
    expect(refused.data.message).toMatch(/“Edit Lamp, strength” was done meanwhile/);
    // keeping all would keep what the window never saw
    expect((await f.call('POST', `${at}/pending/keep`, { destination: 'base' }, as('mine', seen))).data.code).toBe(
      'CONFLICT',
    );
    expect(
      (await f.call('POST', `${at}/pending/keep`, { destination: 'base', only: [key(HIDDEN)] }, as('mine', seen)))
        .status,
    ).toBe(200);
    expect([(await read()).base, (await read()).pending[0]!.changes]).toEqual([[HIDDEN], [DIM]]);
  });
  it('an edit that joins the step before it is seen too', async () => {
    const { at, read } = await begin('A drawn slider');
    const draw = (value: number) =>
      f.call(
        'POST',
        `${at}/pending`,
        { destination: 'base', set: [{ ...DIM, value }] },
        { 'x-variscen-tab': 'theirs' },
      );
    await draw(3);
    const seen = (await read()).history.last!;
    await draw(4); // one step in the history, and later than what this window saw
    const steps = await f.ok<{ label: string }[]>('GET', `${at}/history`);
    expect(steps.map((s) => s.label)).toEqual(['Edit Lamp, strength', 'Import the scene small.glb']);
    expect(
      (await f.call('POST', `${at}/pending`, { destination: 'base', set: [{ ...DIM, value: 9 }] }, as('mine', seen)))
        .data.code,
    ).toBe('CONFLICT');
    expect((await read()).pending[0]!.changes).toEqual([{ ...DIM, value: 4 }]);
  });
  it('its own edits are never in its way, however many are under way', async () => {
    const { at, read } = await begin('One window');
    const seen = (await read()).history.last ?? '0';
    for (const value of [3, 4, 5])
      expect(
        (await f.call('POST', `${at}/pending`, { destination: 'base', set: [{ ...DIM, value }] }, as('mine', seen)))
          .status,
      ).toBe(200);
    expect((await read()).pending[0]!.changes).toEqual([{ ...DIM, value: 5 }]);
  });
});

describe('the history', () => {
  it('goes to any step and back, to the same rows', async () => {
    const { at, read, option } = await begin('Any step');
    const strip = ({ history: _, ...p }: Project) => p;
    const states = [strip(await read())];
    for (const n of ['Low', 'Lower', 'Lowest']) {
      await option('lighting', n, [DIM]);
      states.push(strip(await read()));
    }
    const [imported, ...steps] = (
      await f.ok<{ id: string; label: string; state: string }[]>('GET', `${at}/history`)
    ).reverse();
    const go = (id: string) => f.ok<Project>('POST', `${at}/history/${id}`);
    for (const k of [0, 2, 1, 2]) expect(strip(await go(steps[k]!.id))).toEqual(states[k + 1]);
    expect(strip(await go(imported!.id))).toEqual(states[0]);
    expect((await go('0')).revision).toBeNull();
    expect(strip(await go(steps[2]!.id))).toEqual(states[3]);
    expect((await f.call('POST', `${at}/history/999999999`)).status).toBe(404);
  });
});

describe('options on their way to another project', () => {
  it('go through the library and a file to a scene with other names, as one edit, with a report', async () => {
    const { at, option, p } = await begin('Origin');
    const dim = await option('lighting', 'Dim', [DIM]);
    const blue = await option('materials', 'Blue', [
      BLUE,
      { target: 'object:Crate far away', property: 'object.drawn', value: 'clay' },
    ]);
    const entry = await f.ok<{ id: string; options: unknown[] }>('POST', '/api/library', {
      projectId: p.id,
      optionIds: [dim.id, blue.id],
      name: 'Evening',
    });
    const file = await f.ok('GET', `${at}/looks?options=${dim.id},${blue.id}`);
    expect(await f.ok('GET', `/api/library/${entry.id}`)).toEqual(file);
    expect(
      (await f.call('POST', '/api/library', { projectId: p.id, optionIds: [dim.id], name: 'EVENING' })).data.code,
    ).toBe('NAME_TAKEN');
    // the same scene under other names
    const io = new WebIO().registerExtensions([KHRLightsPunctual]);
    const d = await io.readBinary(await smallScene());
    const rename = (from: string, to: string) =>
      d
        .getRoot()
        .listNodes()
        .find((n) => n.getName() === from)!
        .setName(to);
    rename('Lamp', 'LAMP');
    rename('Crate far away', 'Box');
    d.getRoot()
      .listMaterials()
      .find((m) => m.getName() === 'Cloth')!
      .setName('Linen');
    const other = await f.ok<Project>('POST', '/api/projects', { name: 'Elsewhere' });
    const there = `/api/projects/${other.id}`;
    await f.ok('POST', `${there}/scene?fileName=other.glb`, await io.writeBinary(d));
    await f.ok('POST', `${there}/options`, { facet: 'lighting', name: 'dim' });
    const report = await f.ok<LooksMatchAnswer>('POST', `${there}/looks/match`, { source: { entryId: entry.id } });
    const found = Object.fromEntries(report.things.map((t) => [t.target, [t.to, t.how]]));
    expect(found).toEqual({
      'light:Lamp': ['light:LAMP', 'name'],
      'material:Cloth': [null, null],
      'object:Crate far away': ['object:Box', 'material'],
    });
    expect(report.options.map((o) => [o.name, o.taken])).toEqual([
      ['Dim', true],
      ['Blue', false],
    ]);
    const { project, left } = await f.ok<{ project: Project; left: number }>('POST', `${there}/looks`, {
      source: { file },
      byHand: { 'material:Cloth': 'material:Linen' },
    });
    expect(project.options.map((o) => [o.name, o.changes])).toEqual([
      ['dim', []],
      ['Dim 2', [{ ...DIM, target: 'light:LAMP' }]],
      [
        'Blue',
        [
          { ...BLUE, target: 'material:Linen' },
          { target: 'object:Box', property: 'object.drawn', value: 'clay' },
        ],
      ],
    ]);
    expect([left, project.history.undo]).toEqual([0, 'Import 2 options']);
    await f.ok('DELETE', `/api/library/${entry.id}`);
    expect((await f.call('GET', `/api/library/${entry.id}`)).status).toBe(404);
  });
  it('come partly, and a file that is none is refused with its fault', async () => {
    const { at, option } = await begin('Partly');
    const dim = await option('lighting', 'Dim', [DIM, { ...OFF, target: 'light:Lamp 7' }]);
    const blue = await option('materials', 'Blue', [BLUE]);
    const file = await f.ok('GET', `${at}/looks?options=${dim.id},${blue.id}`);
    const to = await begin('Receiver');
    const first = await f.ok<{ project: Project; left: number }>('POST', `${to.at}/looks`, {
      source: { file },
      only: [0],
    });
    expect([first.project.options.map((o) => o.changes), first.left]).toEqual([[[DIM]], 1]);
    expect(
      (await f.ok<{ project: Project }>('POST', `${to.at}/looks`, { source: { file }, only: [0], keepUnmatched: true }))
        .project.options[1]!.changes,
    ).toHaveLength(2);
    for (const [bad, why] of [
      [{ ...file, version: 2 }, /newer Variscen/],
      [{ ...file, options: [{ ...file.options[0], changes: [{ ...DIM, value: -1 }] }] }, /Strength goes from 0/],
      [{ hello: 1 }, /not a file of options/],
    ] as const) {
      const r = await f.call('POST', `${to.at}/looks`, { source: { file: bad } });
      expect([r.status, r.data.message]).toEqual([400, expect.stringMatching(why)]);
    }
  });
});

describe('what a grade and a material bring in', () => {
  it('is kept by content: a LUT is read whole or refused, and an image says its size', async () => {
    const rows = (swap: boolean) =>
      Array.from({ length: 8 }, (_, i) => {
        const c = [i & 1, (i >> 1) & 1, i >> 2];
        return (swap ? c.reverse() : c).join(' ');
      }).join('\n');
    const lut = await f.ok<{ value: string; size: number }>(
      'POST',
      '/api/luts?fileName=swap.cube',
      new TextEncoder().encode(`LUT_3D_SIZE 2\n${rows(true)}\n`),
    );
    expect([lut.size, lut.value]).toEqual([2, expect.stringMatching(/^lut:[0-9a-f]{64}:2:swap.cube$/)]);
    const torn = await f.call(
      'POST',
      '/api/luts?fileName=torn.cube',
      new TextEncoder().encode('LUT_3D_SIZE 2\n0 0 0\n'),
    );
    expect([torn.status, torn.data.message]).toEqual([
      422,
      expect.stringMatching(/“torn.cube” has 1 rows instead of 8/),
    ]);
    const png = new Uint8Array(
      await sharp({ create: { width: 6, height: 4, channels: 3, background: '#804020' } })
        .png()
        .toBuffer(),
    );
    expect(await f.ok('POST', '/api/assets?fileName=bark.png', png)).toMatchObject({
      name: 'bark.png',
      widthPx: 6,
      heightPx: 4,
      mediaType: 'image/png',
    });
  });
});

describe('the scene as a file', () => {
  it('goes out as GLB with options of Materials as its variants, and comes in with them as options', async () => {
    const { at, option } = await begin('Goes out');
    const wood = await option('materials', 'All wood', [
      { target: 'object:Sheet', property: 'object.material', value: 'Wood' },
    ]);
    const dim = await option('lighting', 'Dim', [DIM]);
    expect((await f.call('GET', `${at}/scene.glb?options=${dim.id}`)).data.message).toMatch(/no option of Materials/);
    const r = await fetch(`${f.base}${at}/scene.glb?options=${wood.id}`);
    expect([r.status, r.headers.get('content-type'), r.headers.get('content-disposition')]).toEqual([
      200,
      'model/gltf-binary',
      expect.stringMatching(/^attachment; filename="?goes-out\.glb"?$/),
    ]);
    await f.ok('PATCH', at, { name: 'Чайная “стена” 茶' });
    const other = await fetch(`${f.base}${at}/scene.glb`);
    const named = decodeURIComponent(/filename\*=UTF-8''(\S+)/.exec(other.headers.get('content-disposition')!)![1]!);
    expect([other.status, named]).toEqual([200, 'чайная-стена-茶.glb']);
    await other.arrayBuffer();
    const again = await f.ok<Project>('POST', '/api/projects', { name: 'Comes in' });
    await f.ok('POST', `/api/projects/${again.id}/scene?fileName=goes-out.glb`, new Uint8Array(await r.arrayBuffer()));
    expect((await f.ok<Project>('GET', `/api/projects/${again.id}`)).options).toMatchObject([
      {
        facet: 'materials',
        name: 'All wood',
        changes: [{ target: 'object:Sheet', property: 'object.material', value: 'Wood' }],
      },
    ]);
  });
});

describe('lights that looks add', () => {
  const KEY = 'light:+spot/Key';
  const of = (target: string) => [
    { target, property: 'light.added', value: true },
    { target, property: 'light.intensity', value: 40 },
  ];
  const lightsIn = (p: Project) =>
    [p.base, ...[...p.options, ...p.patches, ...p.pending].map((x) => x.changes)].map((list) =>
      list.map((c) => c.target),
    );

  it('are called otherwise wherever anything says something of them, as one step, and never as another', async () => {
    const { at, read, option, camera, undo } = await begin('Renamed lights');
    await option('lighting', 'Night', [...of(KEY), ...of('light:+spot/Fill')]);
    await f.ok('POST', `${at}/pending`, { destination: `camera:${camera}`, set: [of(KEY)[1]] });
    const { path, project } = await f.ok<{ path: string; project: Project }>('POST', `${at}/lights/rename`, {
      path: '+spot/Key',
      name: ' Rim / left ',
    });
    expect(path).toBe('+spot/Rim left');
    const named = JSON.stringify(lightsIn(project));
    expect(named).not.toContain(KEY);
    expect(named.match(/\+spot\/Rim left/g)).toHaveLength(3);
    const taken = await f.call('POST', `${at}/lights/rename`, { path, name: 'Fill' });
    expect(taken.data.message).toMatch(/name is taken/);
    expect((await f.call('POST', `${at}/lights/rename`, { path: '+spot/Gone', name: 'New' })).status).toBe(404);
    expect((await f.call('POST', `${at}/lights/rename`, { path: 'Lamp', name: 'New' })).status).toBe(400);
    expect((await f.call('POST', `${at}/lights/rename`, { path, name: '///' })).data.message).toMatch(
      /letter or digit/,
    );
    await undo();
    expect(JSON.stringify(lightsIn(await read()))).toContain(KEY);
  });

  it('are taken out of one destination, or of all, and undo brings them back', async () => {
    const { at, read, option, undo } = await begin('Removed lights');
    const night = await option('lighting', 'Night', of(KEY));
    await option('lighting', 'Dusk', of(KEY));
    await f.ok('POST', `${at}/pending`, { destination: `option:${night.id}`, set: [{ ...of(KEY)[1], value: 3 }] });
    const body = { paths: ['+spot/Key'] };
    const one = await f.ok<Project>('POST', `${at}/lights/remove`, { ...body, destination: `option:${night.id}` });
    expect(one.options.map((o) => o.changes.length)).toEqual([0, 2]);
    expect(one.pending).toEqual([]);
    const all = await f.ok<Project>('POST', `${at}/lights/remove`, body);
    expect(all.options.map((o) => o.changes.length)).toEqual([0, 0]);
    expect((await f.call('POST', `${at}/lights/remove`, body)).status).toBe(404);
    await undo();
    await undo();
    expect((await read()).options.map((o) => o.changes.length)).toEqual([2, 2]);
  });
});
