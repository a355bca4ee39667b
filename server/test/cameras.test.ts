// Several cameras in one edit, and undo beside another window.
import type { Camera, Project } from '@variscen/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Fixture, projectWithScene, startFixture } from './fixture.ts';

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
});
afterAll(() => f?.close());

const read = (p: Project) => f.ok<Project>('GET', `/api/projects/${p.id}`);
const steps = async (p: Project) => (await f.ok<{ label: string }[]>('GET', `/api/projects/${p.id}/history`)).length;
async function threeCameras(name: string): Promise<Project> {
  const p = await projectWithScene(f, name);
  for (const other of ['Wide', 'Close']) {
    const { settings, handling } = p.cameras[0]!;
    await f.ok('POST', `/api/projects/${p.id}/cameras`, { name: other, settings, handling });
  }
  return read(p);
}

describe('several cameras', () => {
  it('get guides added and taken away as one step, and each keeps its others', async () => {
    const p = await threeCameras('Guides');
    const at = `/api/projects/${p.id}/cameras`;
    const [a, b, c] = p.cameras.map((x) => x.id) as [string, string, string];
    await f.ok('PATCH', at, { cameraIds: [a], handling: { guides: ['safe'] } });
    await f.ok('PATCH', at, { cameraIds: [b], handling: { guides: ['thirds', 'diagonals'] } });
    const before = await steps(p);
    const after = await f.ok<Project>('PATCH', at, {
      cameraIds: [a, b, c],
      guides: { add: ['centre'], remove: ['thirds'] },
    });
    expect(after.cameras.map((x) => x.handling.guides)).toEqual([
      ['safe', 'centre'],
      ['diagonals', 'centre'],
      ['centre'],
    ]);
    expect(await steps(p)).toBe(before + 1);
  });

  it('get values of their own as one step, which one undo takes back whole', async () => {
    const p = await threeCameras('Own values');
    const at = `/api/projects/${p.id}/cameras`;
    const own = p.cameras.map((c, i) => ({ cameraId: c.id, settings: { focalLengthMm: 20 + i * 10 } }));
    const cameraIds = p.cameras.map((c) => c.id);
    const changed = await f.ok<Project>('PATCH', at, { cameraIds, settings: { fStop: 8 }, own });
    const lens = (q: Project) => q.cameras.map((c) => [c.settings.focalLengthMm, c.settings.fStop]);
    expect(lens(changed)).toEqual([20, 30, 40].map((mm) => [mm, 8]));
    await f.ok('POST', `/api/projects/${p.id}/undo`);
    expect(lens(await read(p))).toEqual(lens(p));
  });

  it('are refused whole where one of them would be wrong', async () => {
    const p = await threeCameras('Wrong');
    const at = `/api/projects/${p.id}/cameras`;
    const own = [{ cameraId: p.cameras[2]!.id, settings: { nearM: 50, farM: 1 } }];
    const { status, data } = await f.call('PATCH', at, {
      cameraIds: p.cameras.map((c) => c.id),
      settings: { fStop: 8 },
      own,
    });
    expect([status, data.message]).toEqual([400, expect.stringMatching(/^“Close”: /)]);
    expect((await read(p)).cameras.map((c) => c.settings.fStop)).toEqual(p.cameras.map((c) => c.settings.fStop));
  });

  it('are deleted as one step and come back with one undo, in their places', async () => {
    const p = await threeCameras('Deleted');
    const ids = p.cameras.map((c) => c.id);
    const before = await steps(p);
    await f.ok('POST', `/api/projects/${p.id}/cameras/delete`, { cameraIds: [ids[0], ids[2]] });
    expect((await read(p)).cameras.map((c: Camera) => c.id)).toEqual([ids[1]]);
    expect(await steps(p)).toBe(before + 1);
    await f.ok('POST', `/api/projects/${p.id}/undo`);
    expect((await read(p)).cameras.map((c) => c.id)).toEqual(ids);
  });
});

describe('undo beside another window', () => {
  it('does not take back what the other did and this one has not seen; once it is seen, it does', async () => {
    const p = await projectWithScene(f, 'Two windows');
    const at = `/api/projects/${p.id}`;
    const from = (tab: string, seen: string | null) => ({ 'x-variscen-tab': tab, 'x-variscen-seen': seen ?? '0' });
    const { data: mine } = await f.call<Project>('PATCH', at, { name: 'Mine' }, from('here', p.history.last));
    await f.call('PATCH', at, { name: 'Theirs' }, from('there', mine.history.last));
    const refused = await f.call('POST', `${at}/undo`, undefined, from('here', mine.history.last));
    expect(refused.data).toMatchObject({
      code: 'CONFLICT',
      message: expect.stringMatching(/In another window “.*” was done/),
    });
    expect((await read(p)).name).toBe('Theirs');
    const now = await read(p);
    const done = await f.call('POST', `${at}/undo`, undefined, from('here', now.history.last));
    expect(done.data.project.name).toBe('Mine');
  });
});
