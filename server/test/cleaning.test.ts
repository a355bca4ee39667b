// Files of older pictures are put aside and brought back, and what somebody may still need never goes.
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Cleaning, CleaningPlan, Delivery, Project, Render, RouteAnswer } from '@variscen/contract';
import { PLAIN_FILES, PROFILES } from '@variscen/core/plan';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Cleanings } from '../src/db/entities/index.ts';
import { dropOldCleanings } from '../src/domain/cleaning.ts';
import { renderTrace } from '../src/node/renderTrace.ts';
import { ENGINE, type Fixture, helloOf, projectWithScene, startFixture } from './fixture.ts';

const never = new AbortController().signal;
let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(() => f?.close());

async function profileOf(p: Project): Promise<string> {
  const id = randomUUID();
  const { id: _, ...sketch } = PROFILES[0]!;
  const files = { ...PLAIN_FILES, exr: { type: 'half', compression: 'zip', perCell: false, aovsApart: false } };
  const own = { ...sketch, name: `Own ${id}`, denoise: 0, samples: 1, widthPx: 48, files };
  await f.ok('PUT', `/api/projects/${p.id}/profiles/${id}`, own);
  return id;
}
async function render(p: Project, profileId: string): Promise<void> {
  const cells = [{ cameraId: p.cameras[0]!.id, variantId: p.variants[0]!.id }];
  await f.ok('POST', `/api/projects/${p.id}/batches`, { cells, profileId });
  for (let l = await f.node.lease(ENGINE); l; l = await f.node.lease(ENGINE))
    await renderTrace(f.node, l, f.machine, never);
}
/** The first version first. */
const history = async (p: Project): Promise<Render[]> =>
  (await f.ok<Render[]>('GET', `/api/projects/${p.id}/cells/${p.cameras[0]!.id}/${p.variants[0]!.id}`)).reverse();
const pathOf = (r: Render, kind: string) => join(f.home, 'output', r.files.find((x) => x.kind === kind)!.path);
const rules = (versions: number, keepsDelivered = true) => ({ versions, keepsDelivered });

describe('cleaning up', () => {
  it('takes what is older than the newest versions of its profile, and neither what is approved nor what was delivered', async () => {
    const p = await projectWithScene(f, 'Cleaned');
    const at = `/api/projects/${p.id}`;
    const [sketch, final] = [await profileOf(p), await profileOf(p)];
    await render(p, final);
    for (let n = 0; n < 4; n++) await render(p, sketch);
    const [ofFinal, first, second, third, last] = (await history(p)) as [Render, Render, Render, Render, Render];
    await f.ok('PUT', `${at}/reviews`, { renderIds: [first.id], change: { verdict: 'approved' } });
    const delivery = {
      name: 'Out',
      renderIds: [second.id],
      formats: [{ kind: 'png', widthPx: null, quality: 90 }],
      nameTemplate: '{camera}_{version}',
      target: 'folder',
      isGraded: true,
      display: 'srgb',
      hasSheet: false,
      hasPage: false,
      accepts: { outdated: true, rejected: false },
    };
    await f.ok('POST', `${at}/deliveries`, delivery);
    while ((await f.ok<Delivery[]>('GET', `${at}/deliveries`))[0]!.state === 'writing')
      await new Promise((r) => setTimeout(r, 30));

    const plan = await f.ok<CleaningPlan>('POST', `${at}/cleanings/plan`, rules(1));
    expect(plan).toMatchObject({ renders: 5, goes: { renders: 1, files: 2 }, stays: { approved: 1, delivered: 1 } });
    expect(plan.pictures.map((x) => x.name)).toEqual(['Front in Base, v004']);
    expect((await f.ok<CleaningPlan>('POST', `${at}/cleanings/plan`, rules(1, false))).goes.renders).toBe(2);

    await f.ok('GET', `/api/renders/${third.id}/layers/picture`);
    const cleaning = await f.ok<Cleaning>('POST', `${at}/cleanings`, rules(1));
    expect(cleaning).toMatchObject({ state: 'aside', renders: 1, files: 2 });
    for (const r of [ofFinal, first, second, last]) expect(existsSync(pathOf(r, 'exr'))).toBe(true);
    expect([existsSync(pathOf(third, 'exr')), existsSync(pathOf(third, 'png'))]).toEqual([false, false]);
    // what is known of it stays, and its small picture, which is looked at
    expect((await history(p))[3]).toMatchObject({ id: third.id, isCleaned: true, samples: 1 });
    expect(existsSync(pathOf(third, 'thumbnail'))).toBe(true);
    expect(existsSync(join(f.home, 'pictures', third.id))).toBe(false);
    const { layers } = await f.ok<RouteAnswer<'pictureLayers'>>('GET', `/api/renders/${third.id}/layers`);
    expect(layers).toMatchObject([{ name: 'picture', isLinear: false }]);
    const board = await f.ok<{ cells: { status: string }[] }>('GET', `${at}/board`);
    expect(board.cells[0]!.status).toBe('current');

    // it does not go out as what is left of it
    const out = { ...delivery, renderIds: [third.id] };
    const refused = await f.call('POST', `${at}/deliveries`, out);
    expect(refused).toMatchObject({ status: 409, data: { message: expect.stringMatching(/cleaned up/) as string } });
    expect(await f.ok('GET', `/api/renders/${third.id}/layers/picture`)).toMatchObject({ channels: 4 });

    const undone = await f.ok<Cleaning>('POST', `${at}/cleanings/${cleaning.id}/undo`);
    expect(undone.state).toBe('undone');
    expect([existsSync(pathOf(third, 'exr')), existsSync(pathOf(third, 'png'))]).toEqual([true, true]);
    expect((await history(p))[3]!.isCleaned).toBe(false);
    expect(existsSync(join(f.home, 'pictures', third.id))).toBe(false);
    const back = await f.ok<RouteAnswer<'pictureLayers'>>('GET', `/api/renders/${third.id}/layers`);
    expect(back.layers[0]).toMatchObject({ isLinear: true });
    expect(await f.call('POST', `${at}/cleanings/${cleaning.id}/undo`)).toMatchObject({ status: 409 });
  });

  it('never takes a file that a picture which stays shares, and puts nothing over another file', async () => {
    const p = await projectWithScene(f, 'Shared');
    const at = `/api/projects/${p.id}`;
    const cells = [{ cameraId: p.cameras[0]!.id, variantId: p.variants[0]!.id }];
    await render(p, await profileOf(p));
    const set = [{ target: 'grade', property: 'grade.exposure', value: 1 }];
    await f.ok('PUT', `${at}/grades`, { cells, set, clear: [] });
    await f.ok('POST', `${at}/develop`, { cells });
    while ((await history(p)).length < 2) await new Promise((r) => setTimeout(r, 30));
    const [traced, developed] = (await history(p)) as [Render, Render];
    const cleaning = await f.ok<Cleaning>('POST', `${at}/cleanings`, rules(1));
    expect(cleaning.files).toBe(1);
    expect(existsSync(pathOf(developed, 'exr'))).toBe(true);
    await writeFile(pathOf(traced, 'png'), 'something else');
    const refused = await f.call('POST', `${at}/cleanings/${cleaning.id}/undo`);
    expect(refused).toMatchObject({
      status: 507,
      data: { message: expect.stringMatching(/put there by something else/) as string },
    });
  });

  it('is gone for good after a week, and not before', async () => {
    const p = await projectWithScene(f, 'Old');
    const at = `/api/projects/${p.id}`;
    const profile = await profileOf(p);
    for (let n = 0; n < 2; n++) await render(p, profile);
    const { id } = await f.ok<Cleaning>('POST', `${at}/cleanings`, rules(1));
    const { context } = f.running;
    const aside = join(f.home, 'output', '.cleaned', id);
    const inDays = (days: number) => ({ ...context, now: () => new Date(Date.now() + days * 24 * 3600 * 1000) });
    await dropOldCleanings(inDays(6.9));
    expect(existsSync(aside)).toBe(true);
    await dropOldCleanings(inDays(7.1));
    expect(existsSync(aside)).toBe(false);
    expect((await f.ok<Cleaning[]>('GET', `${at}/cleanings`))[0]!.state).toBe('gone');
    expect(await context.db.getRepository(Cleanings).countBy({ id })).toBe(1);
    expect(await f.call('POST', `${at}/cleanings`, rules(1))).toMatchObject({ status: 409 });
  });
});
