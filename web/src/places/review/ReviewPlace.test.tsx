import type { Rendered, Review } from '@variscen/contract';
import { NO_GRADE } from '@variscen/core/image';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { id, project, show, stubServer } from '../../testing.tsx';
import { ReviewPlace } from './ReviewPlace.tsx';

const at = `/projects/${project.id}/review`;
const [counter, kettle] = [project.cameras[0]!, project.cameras[1]!];
const [base, lanterns] = [project.variants[0]!, project.variants[1]!];
const picture = (n: number, cameraId: string, variantId: string, version = 1): Rendered => ({
  id: id(n),
  cameraId,
  variantId,
  frame: null,
  version,
  batchId: null,
  profileName: 'Sketch',
  widthPx: 480,
  heightPx: 270,
  createdAt: new Date(2026, 9, 3, 8, n % 60).toISOString(),
});
const RENDERED = [
  picture(104, counter.id, base.id, 2),
  picture(103, kettle.id, base.id),
  picture(102, counter.id, lanterns.id),
  picture(101, counter.id, base.id),
];

/** What the server knows; what is said of pictures is put there, as it does. */
function server() {
  const reviews: Review[] = [];
  const said: unknown[] = [];
  stubServer((what, body) => {
    if (what === `GET /api/projects/${project.id}/renders`) return RENDERED;
    if (what === `GET /api/projects/${project.id}/reviews`) return reviews;
    if (what !== `PUT /api/projects/${project.id}/reviews`) return undefined;
    said.push(body);
    const { renderIds, change } = body as { renderIds: string[]; change: Partial<Review> };
    for (const renderId of renderIds) {
      const was = reviews.findIndex((r) => r.renderId === renderId);
      const { cameraId, variantId, version } = RENDERED.find((r) => r.id === renderId)!;
      const known = reviews[was] ?? {
        renderId,
        cameraId,
        variantId,
        version,
        verdict: null,
        note: '',
        marks: [],
        saidAt: '',
      };
      reviews.splice(was < 0 ? reviews.length : was, was < 0 ? 0 : 1, { ...known, ...change });
    }
    return {};
  });
  return { reviews, said };
}
const entries = () => screen.getAllByRole('option').map((o) => o.getAttribute('aria-label'));
const current = () => screen.getByRole('option', { selected: true }).getAttribute('aria-label');
async function opened(address = at) {
  show(<ReviewPlace project={project} />, address, true);
  await screen.findAllByRole('option');
  return userEvent.setup();
}
beforeEach(() => {
  localStorage.clear();
  // pictures have no size here, so that nothing is asked of what shows them
  vi.stubGlobal('Worker', class {});
});

describe('the review', () => {
  it('goes through the latest of every cell by its keys, and through versions', async () => {
    server();
    const user = await opened();
    expect(entries()).toEqual([
      'Counter, close in Base, v002',
      'Counter, close in Paper lanterns, v001',
      'Kettle square in Base, v001',
    ]);
    await user.keyboard('{ArrowRight}{ArrowRight}{ArrowRight}');
    expect(current()).toBe('Kettle square in Base, v001');
    await user.keyboard('{ArrowLeft}{ArrowLeft}{ArrowDown}');
    // an older version is looked at though it is not among those that are gone through
    expect(screen.getByRole('complementary').textContent).toMatch(/v001 of 2 versions/);
    await user.keyboard('{ArrowUp}');
    expect(current()).toBe('Counter, close in Base, v002');
  });

  it('approves, rejects and takes it back at once, as one edit each', async () => {
    const { said } = server();
    const user = await opened();
    await user.keyboard('a');
    expect(current()).toBe('Counter, close in Base, v002, Approved');
    await user.keyboard('{ArrowRight}r');
    expect(current()).toBe('Counter, close in Paper lanterns, v001, Rejected');
    await user.keyboard('r');
    await waitFor(() => expect(said).toHaveLength(3));
    expect(said).toEqual([
      { renderIds: [id(104)], change: { verdict: 'approved' } },
      { renderIds: [id(102)], change: { verdict: 'rejected' } },
      { renderIds: [id(102)], change: { verdict: null } },
    ]);
    expect(screen.getByText('1 approved', { exact: false })).toBeTruthy();
    await waitFor(() => expect(current()).toBe('Counter, close in Paper lanterns, v001'));
  });

  it('of what is not judged yet keeps a picture until one goes on', async () => {
    server();
    const user = await opened(`${at}?show=open`);
    await user.keyboard('{ArrowRight}{ArrowLeft}a');
    expect(entries()[0]).toBe('Counter, close in Base, v002, Approved');
    await user.keyboard('{ArrowRight}');
    await waitFor(() => expect(entries()).toHaveLength(2));
    expect(current()).toBe('Counter, close in Paper lanterns, v001');
  });

  it('writes a note without its keys being taken, and shows on a newer version what was asked of it', async () => {
    const { reviews } = server();
    const user = await opened();
    await user.keyboard('{ArrowDown}n');
    await user.keyboard('a brighter counter, r');
    await user.keyboard('{Control>}{Enter}{/Control}');
    await waitFor(() =>
      expect(reviews).toMatchObject([{ renderId: id(101), note: 'a brighter counter, r', verdict: null }]),
    );
    await user.keyboard('{ArrowUp}');
    const asked = screen.getByText('Asked before').parentElement!;
    expect(within(asked).getByText('a brighter counter, r')).toBeTruthy();
  });

  it('holds pictures beside the one that is gone to, and three at most', async () => {
    server();
    const user = await opened();
    await user.keyboard(' {ArrowRight}2');
    expect(screen.getByRole('radio', { name: 'Side by side' }).getAttribute('aria-checked')).toBe('true');
    expect(screen.getAllByRole('figure')).toHaveLength(2);
    expect(screen.getAllByRole('option')[0]!.getAttribute('aria-label')).toMatch(/held$/);
    await user.keyboard('{ArrowLeft} ');
    expect(screen.getAllByRole('option')[0]!.getAttribute('aria-label')).not.toMatch(/held/);
  });

  it('opens where one stopped', async () => {
    server();
    const user = await opened();
    await user.keyboard('{ArrowRight}4');
    await waitFor(() => expect(localStorage.getItem(`variscen.review.${project.id}`)).toContain(id(102)));
    document.body.innerHTML = '';
    await opened();
    expect(current()).toBe('Counter, close in Paper lanterns, v001');
    expect(screen.getByRole('radio', { name: 'Wipe' }).getAttribute('aria-checked')).toBe('true');
  });

  it('asks nothing more of a reference that is closed while it is opened', async () => {
    const reference = {
      id: id(301),
      name: 'From elsewhere.exr',
      widthPx: 480,
      heightPx: 270,
      isLinear: true,
      remarks: [],
      createdAt: '2026-11-02T10:00:00.000Z',
    };
    const layers = [{ name: 'picture', kind: 'light', channels: ['R', 'G', 'B'], isLinear: true }];
    const references = `/api/projects/${project.id}/references`;
    stubServer((what) => {
      if (what === `GET /api/projects/${project.id}/renders`) return RENDERED;
      if (what === `GET /api/projects/${project.id}/reviews`) return [];
      if (what === `GET ${references}`) return [reference];
      if (what === `DELETE ${references}/${reference.id}`) return { name: reference.name };
      return what.endsWith('/layers') ? { layers, grade: NO_GRADE } : undefined; // its tiles are made for long
    });
    const stubbed = fetch;
    const happened: string[] = [];
    vi.stubGlobal('fetch', (path: string, init?: RequestInit) => {
      if (path.endsWith(`${reference.id}/layers/picture`)) {
        happened.push('asked');
        init?.signal?.addEventListener('abort', () => happened.push('given up'));
      }
      if (init?.method === 'DELETE') happened.push('closed');
      return stubbed(path, init);
    });
    const user = await opened(`${at}?with=${reference.id}&how=wipe`);
    await waitFor(() => expect(happened).toEqual(['asked']));
    await user.click(screen.getByRole('button', { name: 'References' }));
    await user.click(await screen.findByRole('menuitem', { name: `Close ${reference.name}` }));
    await waitFor(() => expect(happened).toEqual(['asked', 'given up', 'closed']));
  });
});
