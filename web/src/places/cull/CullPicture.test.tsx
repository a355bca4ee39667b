// The file of what a camera needs takes a while: it says how far it is, can be stopped, and says what is in it.
import { Notifications, notifications } from '@mantine/notifications';
import { act, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, expect, it, vi } from 'vitest';
import { useProgress } from '../../api/progress.ts';
import { camera, project, show, variant } from '../../testing.tsx';
import { CullPicture } from './CullPicture.tsx';

interface Asked {
  readonly path: string;
  readonly signal: AbortSignal;
  readonly answer: (r: Response) => void;
}
let asked: Asked[] = [];
let saved: { readonly name: string; readonly bytes: number }[] = [];
beforeEach(() => {
  asked = [];
  saved = [];
  notifications.clean();
  vi.stubGlobal('fetch', (path: string, { signal }: { signal?: AbortSignal }) => {
    if (!path.includes('scene.glb')) return new Promise(() => undefined);
    return new Promise((answer, fail) => {
      signal!.addEventListener('abort', () => fail(new DOMException('aborted', 'AbortError')));
      asked.push({ path, signal: signal!, answer });
    });
  });
  let last: Blob;
  vi.spyOn(URL, 'createObjectURL').mockImplementation((file) => {
    last = file as Blob;
    return 'blob:x';
  });
  vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (this: HTMLAnchorElement) {
    saved.push({ name: this.download, bytes: last.size });
  });
});
const counter = camera(7, 'Counter, close');
const dusk = variant(8, 'Dusk');
const split = (fraction: number) =>
  act(() =>
    useProgress
      .getState()
      .take({ type: 'split', projectId: project.id, cameraId: counter.id, variantId: dusk.id, fraction }),
  );
const button = () => screen.findByRole('button', { name: 'Save what it needs as GLB' });
async function begin(): Promise<Asked> {
  const nothing = () => undefined;
  show(
    <>
      <Notifications />
      <CullPicture
        {...{ project, index: undefined, onFind: nothing, onKeep: nothing }}
        camera={counter}
        variant={dusk}
      />
    </>,
  );
  await userEvent.click(await button());
  await waitFor(() => expect(asked).toHaveLength(1));
  return asked[0]!;
}

it('says how far it is while it is written, and what was saved', async () => {
  const { path, answer } = await begin();
  expect(path).toContain(`cameraId=${counter.id}&variantId=${dusk.id}`);
  screen.getByText(/Writing the file … 0 %/);
  split(0.34);
  screen.getByText(/Writing the file … 34 %/);
  const headers = { 'X-Variscen-Objects': '1200/20000', 'X-Variscen-Triangles': '410000/12000000' };
  answer(new Response(new Uint8Array(2_000_000), { headers }));
  await button();
  expect(saved).toEqual([{ name: 'Tea stall Counter, close.glb', bytes: 2_000_000 }]);
  await screen.findByText(/Counter, close: 2\S* MB saved/);
  screen.getByText('1,200 of 20,000 objects, 410,000 of 12,000,000 triangles.');
});

it('is stopped without a word, and can be begun again, from nothing', async () => {
  const { signal } = await begin();
  split(0.6);
  await userEvent.click(screen.getByRole('button', { name: 'Stop' }));
  await userEvent.click(await button());
  expect(signal.aborted).toBe(true);
  await screen.findByText(/Writing the file … 0 %/);
  expect(asked).toHaveLength(2);
  expect([saved, screen.queryAllByRole('alert').map((a) => a.textContent)]).toEqual([[], []]);
});

it('says why it could not be made', async () => {
  const { answer } = await begin();
  const refusal = { code: 'NO_SPACE', message: 'There is no space for it.', remedy: 'Free some.' };
  answer(new Response(JSON.stringify(refusal), { status: 507 }));
  await screen.findByText('There is no space for it.');
  screen.getByText('Free some.');
  await button();
  expect(saved).toEqual([]);
});
