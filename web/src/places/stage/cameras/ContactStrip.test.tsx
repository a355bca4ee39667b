// Whose turn it is for pictures that fill up in the background. The worker stands still: what it is told is what
// counts.
import { act, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { beforeEach, expect, it, vi } from 'vitest';
import { BesideTheQueue } from '../../../engine/besideTheQueue.ts';
import { StillWorker, shownNothing } from '../../../engine/stillWorker.ts';
import { project, show } from '../../../testing.tsx';

vi.mock('../../../engine/worker/engine.worker.ts?worker', async () => ({
  default: (await import('../../../engine/stillWorker.ts')).StillWorker,
}));
const { ContactStrip } = await import('./ContactStrip.tsx');

let queue: BesideTheQueue;
beforeEach(() => {
  queue = new BesideTheQueue();
});
const kinds = () => queue.kinds();
function Strip() {
  const [now, setNow] = useState(project);
  return (
    <>
      <button type="button" onClick={() => setNow(structuredClone(project))}>
        The same as other objects
      </button>
      <ContactStrip
        sceneHash={shownNothing.sceneHash}
        index={shownNothing.state.scene}
        project={now}
        variant={now.variants[0]!}
        current={undefined}
        onLook={() => undefined}
      />
    </>
  );
}
const showStrip = () => show(<Strip />);
const isSeen = (seen: boolean) =>
  act(() => {
    vi.spyOn(document, 'hidden', 'get').mockReturnValue(!seen);
    document.dispatchEvent(new Event('visibilitychange'));
  });

it('they wait for the queue where the live render does, say so, and come when it is done', async () => {
  localStorage.setItem('variscen.live.waits', 'yes');
  showStrip();
  expect(await screen.findAllByText(/waits for the queue/)).toHaveLength(project.cameras.length);
  StillWorker.told.length = 0;
  await new Promise((later) => setTimeout(later, 1500));
  expect(kinds()).toEqual([]);
  queue.isRendering = false;
  await waitFor(() => expect(kinds()).toEqual(['ask']), { timeout: 15_000 });
  expect(screen.queryByText(/waits for the queue/)).toBeNull();
}, 20_000);

it('they are made beside the queue otherwise, and not while nobody sees the page', async () => {
  showStrip();
  await waitFor(() => expect(kinds()).toEqual(['ask']), { timeout: 5000 });
  isSeen(false);
  expect(kinds()).toEqual(['ask', 'forget']);
  isSeen(true);
  await waitFor(() => expect(kinds()).toEqual(['ask', 'forget', 'ask']), { timeout: 5000 });
}, 20_000);

it('what is begun goes on when the same comes as other objects', async () => {
  showStrip();
  await waitFor(() => expect(kinds()).toEqual(['ask']), { timeout: 5000 });
  await userEvent.click(screen.getByRole('button', { name: 'The same as other objects' }));
  await new Promise((later) => setTimeout(later, 1500));
  expect(kinds()).toEqual(['ask']);
}, 20_000);
