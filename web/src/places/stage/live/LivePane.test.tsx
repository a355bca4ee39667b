// @vitest-environment jsdom
// Whose turn it is while the queue renders on this machine. The worker stands still: what it is told is what counts.
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { RenderNode } from '@variscen/contract';
import { SceneIndex, resolve } from '@variscen/core/looks';
import { ALWAYS } from '@variscen/core/plan';
import { type SceneDocument, cameraForScene } from '@variscen/core/scene';
import { beforeEach, expect, it, vi } from 'vitest';
import type { ToEngine } from '../../../engine/messages.ts';
import { show, stubServer } from '../../../testing.tsx';

class StillWorker {
  static readonly told: ToEngine[] = [];
  postMessage(m: ToEngine): void {
    StillWorker.told.push(m);
  }
  terminate(): void {}
}
vi.mock('../../../engine/worker/engine.worker.ts?worker', () => ({ default: StillWorker }));
const { LivePane } = await import('./LivePane.tsx');

const scene: SceneDocument = {
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  materials: [],
  lights: [],
  nodes: [],
};
const machine: RenderNode = {
  ...{ name: 'this machine', isOwn: true, state: 'rendering', isDrained: false, traceId: null },
  ...{ threads: 2, threadsNow: 1, why: null, hours: ALWAYS as RenderNode['hours'], seenAt: null },
  ...{ budgetMib: null, budgetBytes: null, usedBytes: null, work: { traces: 0, slices: 0, seconds: 0, paths: 0 } },
};
let isRendering = true;
beforeEach(() => {
  StillWorker.told.length = 0;
  isRendering = true;
  localStorage.clear();
  stubServer((what) =>
    what.endsWith('/nodes') ? [{ ...machine, state: isRendering ? 'rendering' : 'idle' }] : undefined,
  );
});
const kinds = () => StillWorker.told.map((m) => m.kind);
const showPane = () =>
  show(
    <LivePane
      sceneHash="scene"
      state={resolve(new SceneIndex(scene), [])}
      camera={cameraForScene(scene)}
      rect={{ left: 0, top: 0, width: 64, height: 36 }}
      onCover={() => undefined}
    />,
  );

it('renders beside the queue, waits for it when it is told to, and goes on when the queue is done', async () => {
  showPane();
  await waitFor(() => expect(kinds()).toEqual(['ask']));
  await userEvent.click(await screen.findByRole('button', { name: 'Let the queue go first' }));
  expect(screen.getByText(/waits for the queue/)).toBeTruthy();
  expect(kinds()).toEqual(['ask', 'forget']);

  isRendering = false;
  await waitFor(() => expect(kinds()).toEqual(['ask', 'forget', 'ask']), { timeout: 5000 });
  expect(screen.queryByText(/waits for the queue/)).toBeNull();
  expect(screen.queryByRole('button', { name: /queue|Render now/ })).toBeNull();
});

it('remembers that it waits, and renders at once where that is wanted', async () => {
  localStorage.setItem('variscen.live.waits', 'yes');
  showPane();
  await userEvent.click(await screen.findByRole('button', { name: 'Render now' }));
  await waitFor(() => expect(kinds().at(-1)).toBe('ask'));
  expect(localStorage.getItem('variscen.live.waits')).toBe('no');
});
