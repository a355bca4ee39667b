import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { Queue, QueueTrace } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { id, project, show, stubServer } from '../../testing.tsx';
import { QueuePlace } from './QueuePlace.tsx';

const trace = (n: number, camera: string, more: Partial<QueueTrace> = {}): QueueTrace => ({
  id: id(n),
  batchId: id(900),
  projectId: project.id,
  projectName: 'Tea stall',
  state: 'waiting',
  priority: 'normal',
  profileName: 'Proof',
  cells: [{ cameraName: camera, variantName: 'Lanterns', version: 1 }],
  cellCount: 1,
  frame: null,
  sequenceId: null,
  framesAlike: null,
  widthPx: 960,
  heightPx: 540,
  samples: 96,
  fraction: 0,
  samplesDone: 0,
  stage: 'tracing',
  noise: null,
  previewVersion: 0,
  nodeName: null,
  attempts: 0,
  error: null,
  plannedBytes: 2e8,
  peakBytes: null,
  seconds: null,
  expectedS: 120,
  slices: [],
  renderId: null,
  createdAt: '2026-11-01T10:00:00.000Z',
  startedAt: null,
  finishedAt: null,
  ...more,
});
const slice = (row: number, state: 'waiting' | 'rendering' | 'done', nodeName: string | null = null) => ({
  fromRow: row,
  toRow: row + 1,
  state,
  nodeName,
  seconds: null,
});
const OPEN = [
  trace(1, 'Counter', {
    state: 'rendering',
    fraction: 0.3,
    nodeName: 'this machine',
    slices: [
      slice(0, 'done'),
      slice(1, 'rendering', 'this machine'),
      slice(2, 'rendering', 'workshop'),
      slice(3, 'waiting'),
    ],
  }),
  trace(2, 'Kettle'),
  trace(3, 'Lane', { state: 'paused' }),
  trace(4, 'Ware'),
];
const queue: Queue = {
  traces: OPEN,
  counts: { rendering: 1, waiting: 2, paused: 1, failed: 2 },
  batches: [
    {
      id: id(900),
      projectId: project.id,
      projectName: 'Tea stall',
      profileName: 'Proof',
      createdAt: '2026-11-01T10:00:00.000Z',
      counts: { rendering: 1, waiting: 2, paused: 1, done: 3, failed: 0, cancelled: 0 },
      leftS: 400,
    },
  ],
  nodes: [],
  pausedFor: null,
  isHeld: false,
};
const ended = trace(5, 'Counter', { state: 'failed', error: 'The mesh “Kettle” is damaged.' });

const frame = (n: number, at: number, more: Partial<QueueTrace> = {}) =>
  trace(n, 'Walk', { frame: at, sequenceId: id(800), ...more });

function open(traces = OPEN, finished = [ended]) {
  const sent: { what: string; body: unknown }[] = [];
  const asked = stubServer((what, body) => {
    if (what === 'GET /api/queue') return queue;
    if (what.startsWith('GET /api/queue/open')) return traces;
    if (what.startsWith('GET /api/queue/ended')) return { traces: finished, next: null };
    if (what === 'GET /api/projects') return [];
    if (!what.startsWith('GET')) sent.push({ what, body });
    return what.startsWith('GET') ? undefined : { traces: 2 };
  });
  show(<QueuePlace />);
  return { sent, asked };
}
const list = () => screen.findByRole('grid', { name: 'Active traces' });

describe('the queue', () => {
  it('says what renders and waits, the slices and who has them, and what of each batch is done', async () => {
    open();
    expect(await screen.findByRole('img', { name: '1 of 4 slices are done' })).toBeTruthy();
    expect(screen.getByText(/slices · this machine, workshop/)).toBeTruthy();
    expect(screen.getByRole('banner').textContent).toBe('Rendering 1 trace, 2 waiting, 1 paused, of all projects.');
    expect(screen.getByText('1 rendering · 2 waiting · 1 paused · 3 done')).toBeTruthy();
    expect(screen.getByText('about 6 min 40 s to come')).toBeTruthy();
    expect(screen.getByText('The mesh “Kettle” is damaged.')).toBeTruthy();
  });

  it('is put in order from the keyboard: one up, several down', async () => {
    const { sent } = open();
    const box = await list();
    for (let i = 0; i < 3; i++) fireEvent.keyDown(box, { key: 'ArrowDown' });
    fireEvent.keyDown(box, { key: 'ArrowUp', altKey: true });
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toEqual({
      what: 'POST /api/queue/move',
      body: { traceIds: [id(3)], sequenceIds: [], before: id(2) },
    });
    fireEvent.keyDown(box, { key: 'ArrowUp', shiftKey: true });
    fireEvent.keyDown(box, { key: 'ArrowDown', altKey: true });
    await waitFor(() => expect(sent).toHaveLength(2));
    expect(sent[1]!.body).toEqual({ traceIds: [id(2), id(3)], sequenceIds: [], before: null });
  });

  it('pauses, resumes and cancels what is selected, and keeps what is done of it', async () => {
    const { sent } = open();
    const box = await list();
    fireEvent.click(within(box).getByRole('row', { name: /^Kettle/ }));
    fireEvent.click(within(box).getByRole('row', { name: /^Lane/ }), { ctrlKey: true });
    fireEvent.click(screen.getByRole('button', { name: /^More for Lane/ }));
    fireEvent.click(await screen.findByRole('menuitem', { name: 'Resume 2 traces' }));
    await waitFor(() => expect(sent.map((x) => x.what)).toEqual([`POST /api/traces/${id(3)}/resume`]));
    fireEvent.keyDown(box, { key: 'Delete' });
    await waitFor(() => expect(sent).toHaveLength(3));
    expect(sent.slice(1).map((x) => x.what)).toEqual([2, 3].map((n) => `POST /api/traces/${id(n)}/cancel?keep=true`));
  });

  it('has what waits of a sequence in one row, which is handled as one', async () => {
    const waiting = frame(6, 2, { framesAlike: [2, 3, 4] });
    const { sent } = open([frame(7, 1, { state: 'rendering' }), waiting, ...OPEN]);
    const box = await list();
    expect(within(box).getByRole('row', { name: 'Walk in Lanterns, v001, frame 1' })).toBeTruthy();
    fireEvent.click(within(box).getByRole('row', { name: 'Walk in Lanterns, v001, frames 2-4' }));
    fireEvent.keyDown(box, { key: 'ArrowDown', altKey: true });
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]!.body).toEqual({ traceIds: [], sequenceIds: [id(800)], before: id(3) });
    fireEvent.click(screen.getByRole('button', { name: /^More for Walk in Lanterns, v001, frames/ }));
    fireEvent.click(await screen.findByRole('menuitem', { name: 'Pause 3 traces' }));
    await waitFor(() => expect(sent).toHaveLength(2));
    fireEvent.keyDown(box, { key: 'Delete' });
    await waitFor(() => expect(sent).toHaveLength(3));
    expect(sent.slice(1).map((x) => x.what)).toEqual([
      `POST /api/sequences/${id(800)}/pause`,
      `POST /api/sequences/${id(800)}/cancel?keep=true`,
    ]);
  });

  it('shows frames that ended alike in one row, tries all that failed again, and renders what is done again', async () => {
    const failed = frame(6, 2, { state: 'failed', error: 'The mesh “Kettle” is damaged.', framesAlike: [2, 3] });
    const done = frame(9, 5, { state: 'done', seconds: 40, framesAlike: [4, 5] });
    const { sent } = open(OPEN, [done, failed, ended]);
    const finished = await screen.findByRole('list', { name: 'Finished traces' });
    const rows = within(finished).getAllByRole('listitem');
    expect(rows.map((r) => r.getAttribute('aria-label'))).toEqual([
      'Walk in Lanterns, v001, frames 4-5',
      'Walk in Lanterns, v001, frames 2-3',
      'Counter in Lanterns, v001',
    ]);
    fireEvent.click(within(rows[1]!).getByRole('button', { name: 'Retry' }));
    fireEvent.click(within(rows[0]!).getByRole('button', { name: 'Render again' }));
    fireEvent.click(within(rows[2]!).getByRole('button', { name: 'Retry' }));
    await waitFor(() => expect(sent).toHaveLength(3));
    expect(sent).toEqual([
      { what: `POST /api/sequences/${id(800)}/retry?state=failed`, body: undefined },
      { what: 'POST /api/queue/rerun', body: { traceIds: [], sequenceIds: [id(800)] } },
      { what: `POST /api/traces/${id(5)}/retry`, body: undefined },
    ]);
  });

  it('is paused as a whole, and all that failed is tried again', async () => {
    const { sent } = open();
    fireEvent.click(await screen.findByRole('button', { name: 'Pause the queue' }));
    fireEvent.click(screen.getByRole('button', { name: 'Retry 2 failed' }));
    await waitFor(() => expect(sent).toHaveLength(2));
    expect(sent).toEqual([
      { what: 'PUT /api/queue/held', body: { held: true } },
      { what: 'POST /api/queue/retry-failed', body: undefined },
    ]);
  });

  it('finds what has finished by name', async () => {
    const { asked } = open();
    fireEvent.change(await screen.findByLabelText('Camera, variant or project'), { target: { value: 'kettle' } });
    await waitFor(() => expect(asked.at(-1)).toBe('GET /api/queue/ended?text=kettle'));
  });
});
