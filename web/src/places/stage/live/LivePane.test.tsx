// Whose turn it is while the queue renders on this machine. The worker stands still: what it is told is what counts.
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, expect, it, vi } from 'vitest';
import { BesideTheQueue } from '../../../engine/besideTheQueue.ts';
import { shownNothing } from '../../../engine/stillWorker.ts';
import { show } from '../../../testing.tsx';

vi.mock('../../../engine/worker/engine.worker.ts?worker', async () => ({
  default: (await import('../../../engine/stillWorker.ts')).StillWorker,
}));
const { LivePane } = await import('./LivePane.tsx');

let queue: BesideTheQueue;
beforeEach(() => {
  queue = new BesideTheQueue();
});
const kinds = () => queue.kinds();
const showPane = () =>
  show(<LivePane {...shownNothing} rect={{ left: 0, top: 0, width: 64, height: 36 }} onCover={() => undefined} />);

it('renders beside the queue, waits for it when it is told to, and goes on when the queue is done', async () => {
  showPane();
  await waitFor(() => expect(kinds()).toEqual(['ask']));
  await userEvent.click(await screen.findByRole('button', { name: 'Let the queue go first' }, { timeout: 10_000 }));
  expect(screen.getByText(/waits for the queue/)).toBeTruthy();
  expect(kinds()).toEqual(['ask', 'forget']);

  queue.isRendering = false;
  await waitFor(() => expect(kinds()).toEqual(['ask', 'forget', 'ask']), { timeout: 15_000 });
  expect(screen.queryByText(/waits for the queue/)).toBeNull();
  expect(screen.queryByRole('button', { name: /queue|Render now/ })).toBeNull();
}, 20_000);

it('remembers that it waits, and renders at once where that is wanted', async () => {
  localStorage.setItem('variscen.live.waits', 'yes');
  showPane();
  await userEvent.click(await screen.findByRole('button', { name: 'Render now' }, { timeout: 10_000 }));
  await waitFor(() => expect(kinds().at(-1)).toBe('ask'));
  expect(localStorage.getItem('variscen.live.waits')).toBe('no');
}, 20_000);
