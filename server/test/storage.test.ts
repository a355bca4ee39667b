// The data folder: what is referred to stays, what nothing refers to goes after some days, damage is named.
import { readFile, readdir, rm, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { NotSoundContent, Project, Render, Storage, StorageUses } from '@variscen/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, projectWithScene, startFixture, helloOf } from './fixture.ts';

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
});
afterAll(async () => {
  await f?.close();
});

const DAY_MS = 24 * 3600 * 1000;
const path = (hash: string) => join(f.home, 'assets', hash.slice(0, 2), hash);
async function stored(): Promise<string[]> {
  const folders = (await readdir(join(f.home, 'assets'))).filter((n) => n.length === 2);
  return (await Promise.all(folders.map((n) => readdir(join(f.home, 'assets', n))))).flat().sort();
}
/** As if everything had been stored so many days ago. */
async function age(days: number): Promise<void> {
  const at = new Date(Date.now() - days * DAY_MS);
  for (const hash of await stored()) await utimes(path(hash), at, at);
}
const look = () => f.ok<Storage>('GET', '/api/storage');
const verify = () => f.ok<{ files: number; notSound: NotSoundContent[] }>('POST', '/api/storage/verify');
const hdr = (v: number) =>
  new Uint8Array([
    ...new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n'),
    ...Array.from({ length: 4 * 8 * 4 }, (_, i) => (i % 4 === 3 ? 129 : v)),
  ]);

describe('the data folder', () => {
  it('is told of before anything lies in it', async () => {
    expect(await look()).toMatchObject({ files: 0, bytes: 0, unusedFiles: 0 });
    expect(await verify()).toEqual({ files: 0, notSound: [] });
  });
  it('keeps what anything refers to, and removes the rest after some days, when it is said', async () => {
    const kept = await projectWithScene(f, 'Kept', { relief: true });
    const gone = await projectWithScene(f, 'Gone', { moving: true });
    const map = await f.ok<{ value: string }>('POST', '/api/environments?fileName=dusk.hdr', hdr(80));
    const whole = await look();
    expect([whole.files, whole.unusedFiles]).toEqual([(await stored()).length, 0]);
    await f.ok('DELETE', `/api/projects/${gone.id}`);
    // nothing refers to some of it any more, but it was stored today
    expect((await look()).unusedFiles).toBe(0);
    await age(8);
    const aged = await look();
    expect(aged.unusedFiles).toBeGreaterThan(0);
    expect(aged.unusedBytes).toBeGreaterThan(0);
    const removed = await f.ok<{ files: number; bytes: number }>('POST', '/api/storage/remove-unused');
    expect(removed).toEqual({ files: aged.unusedFiles, bytes: aged.unusedBytes });
    // what is kept is whole, and goes on working
    expect(await verify()).toEqual({ files: whole.files - removed.files, notSound: [] });
    expect(await stored()).toContain(map.value.split(':')[1]);
    const plan = await f.ok('POST', `/api/projects/${kept.id}/plan`, { cells: [cellOf(kept)], profileId: 'sketch' });
    expect(plan.errors).toEqual([]);
    expect((await f.call('GET', `/api/projects/${kept.id}/board`)).status).toBe(200);
  });
  it('keeps what only the history refers to, so that undo brings it back', async () => {
    const p = await projectWithScene(f, 'Undone');
    const at = `/api/projects/${p.id}`;
    const png = await readFile(new URL('../../core/src/import/samples/woodgrain.png', import.meta.url));
    const image = await f.ok<{ hash: string }>('POST', '/api/assets?fileName=wood.png', new Uint8Array(png));
    const [camera] = p.cameras;
    const plate = { ...image, fit: 'fill', opacity: 1 } as Record<string, unknown>;
    delete plate['mediaType'];
    await f.ok('PATCH', `${at}/cameras/${camera!.id}`, { handling: { ...camera!.handling, plate } });
    await f.ok('POST', `${at}/undo`);
    await age(8);
    await f.ok('POST', '/api/storage/remove-unused');
    expect(await stored()).toContain(image.hash);
  });
  it('names what is gone or damaged, and who refers to it', async () => {
    const p = await projectWithScene(f, 'Named');
    const scene = JSON.parse(await readFile(path(p.revision!.sceneHash), 'utf8')) as { meshes: { blob: string }[] };
    const mesh = path(scene.meshes[0]!.blob);
    const bytes = await readFile(mesh);
    const flipped = Buffer.from(bytes);
    flipped[3]! ^= 1;
    await writeFile(mesh, flipped);
    expect((await verify()).notSound).toEqual([
      {
        hash: scene.meshes[0]!.blob,
        fault: 'damaged',
        what: expect.stringMatching(/^the mesh “/),
        usedBy: expect.arrayContaining(['Named']),
      },
    ]);
    await rm(mesh);
    expect((await verify()).notSound).toMatchObject([{ fault: 'gone', hash: scene.meshes[0]!.blob }]);
    await writeFile(mesh, bytes);
    expect((await verify()).notSound).toEqual([]);
  });
});

describe('what takes space', () => {
  it('is told by project, and what is made again may go', async () => {
    const p = await projectWithScene(f, 'Takes space');
    await f.node.hello(helloOf(2, 100e6));
    const render = async () => {
      await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
      await renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, new AbortController().signal);
    };
    const uses = async () => {
      const all = await f.ok<StorageUses>('GET', '/api/storage/uses');
      return all.projects.find((x) => x.projectId === p.id)!;
    };
    const nothing = { pictures: 0, older: 0, aside: 0, deliveries: 0, references: 0, films: 0, tiles: 0 };
    expect(await uses()).toMatchObject(nothing);
    await render();
    const once = await uses();
    const [newest] = await f.ok<Render[]>(
      'GET',
      `/api/projects/${p.id}/cells/${p.cameras[0]!.id}/${p.variants[0]!.id}`,
    );
    expect(once).toMatchObject({ ...nothing, pictures: newest!.files.reduce((n, x) => n + x.bytes, 0) });
    await render();
    expect(await uses()).toMatchObject({ older: once.pictures });
    await f.ok('GET', `/api/renders/${newest!.id}/layers/picture`);
    const { tiles } = await uses();
    expect(tiles).toBeGreaterThan(0);
    const underWay = join(f.home, 'pictures', newest!.id, 'normal.tiles-1.new');
    await writeFile(underWay, '');
    const dropped = await f.ok<{ bytes: number }>('POST', '/api/storage/drop-made', { what: 'tiles' });
    await rm(underWay); // what is being made was left
    expect(dropped.bytes).toBeGreaterThanOrEqual(tiles);
    expect((await uses()).tiles).toBe(0);
    // looked at again, they are there again
    await f.ok('GET', `/api/renders/${newest!.id}/layers/picture`);
    expect((await uses()).tiles).toBe(tiles);
  });
});

describe('a project that is deleted', () => {
  const rendered = async (name: string): Promise<Project> => {
    const p = await projectWithScene(f, name);
    await f.node.hello(helloOf(2, 100e6));
    await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
    await renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, new AbortController().signal);
    return p;
  };
  it('keeps the records of its renders beside the pictures, or drops them, as is said', async () => {
    for (const expected of ['last-words/records.json', 'last-words/records-2.json']) {
      const p = await rendered('Last words');
      const { recordsPath } = await f.ok<{ recordsPath: string }>('DELETE', `/api/projects/${p.id}?records=keep`);
      expect(recordsPath).toBe(expected);
      const kept = JSON.parse(await readFile(join(f.home, 'output', recordsPath), 'utf8')) as {
        records: { camera: string; variant: string; inputs: { scene: string }; files: { path: string }[] }[];
      };
      expect(kept.records).toMatchObject([
        { camera: 'Front', variant: 'Base', inputs: { scene: p.revision!.sceneHash } },
      ]);
      expect(await readFile(join(f.home, 'output', kept.records[0]!.files[0]!.path))).toBeTruthy();
    }
    const dropped = await rendered('Dropped');
    expect(await f.ok('DELETE', `/api/projects/${dropped.id}?records=drop`)).toEqual({ recordsPath: null });
    expect(await readdir(join(f.home, 'output/dropped'))).toEqual(['front']);
  });
});
