import type { Plan } from '@variscen/contract';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { id, project, show } from '../../testing.tsx';
import { WholePlan } from './WholePlan.tsx';

type PlannedTrace = Plan['traces'][number];
const bytes = { vertices: 4e6, acceleration: 9e6, textures: 2e6, lights: 1e6, film: 50e6, scratch: 5e6 };
const trace = (n: number, over: Partial<PlannedTrace> = {}): PlannedTrace => ({
  hash: n.toString(16).padStart(64, '0'),
  cells: [
    {
      cameraId: id(11 + (n % 2)),
      variantId: id(21),
      frame: null,
      version: 1,
      path: `cell-${n}`,
      files: [`cell-${n}.exr`, `cell-${n}.png`],
    },
  ],
  profile: null,
  exceptions: [],
  widthPx: 640,
  heightPx: 360,
  samples: 12,
  bytes,
  totalBytes: 71e6,
  bytesWithoutCulling: bytes,
  totalBytesWithoutCulling: 71e6,
  processBytes: 120e6,
  objects: 50,
  dropped: [],
  droppedCount: 0,
  simplifiedCount: 0,
  inPartCount: 0,
  turnsBytes: 0,
  slower: 1,
  isRefused: false,
  culls: false,
  lightings: 1,
  expectedS: 9,
  expectedFrom: 'camera',
  ...over,
});
const plan = (...traces: PlannedTrace[]): Plan => ({ traces, errors: [], warnings: [] }) as unknown as Plan;
const rows = () => screen.getAllByRole('row').slice(1);

describe('the whole plan', () => {
  it('sums up, and says of each trace what engine and process take', () => {
    show(<WholePlan plan={plan(trace(0), trace(1, { totalBytes: 180e6 }))} project={project} />);
    expect(screen.getByText('2 cells from 2 traces · about 18 s in all · 300 MB at most at a time')).toBeTruthy();
    expect(rows().map((r) => within(r).getAllByRole('cell')[0]!.textContent)).toEqual([
      'Counter, close in Base',
      'Kettle square in Base',
    ]);
    expect(
      within(rows()[1]!)
        .getAllByRole('cell')
        .slice(4, 7)
        .map((c) => c.textContent),
    ).toEqual(['180 MB', '120 MB', '300 MB']);
  });

  it('says so where nothing was measured yet, and does not pretend to know the whole', () => {
    show(<WholePlan plan={plan(trace(0, { processBytes: null, expectedS: null }))} project={project} />);
    expect(screen.getByText(/render time not measured yet · 71 MB at most at a time, and the process/)).toBeTruthy();
  });

  it('opens a line to its files, its memory by kind and what it leaves out', async () => {
    const culled = trace(1, { culls: true, dropped: ['Lane/Crate'], droppedCount: 3, totalBytesWithoutCulling: 90e6 });
    show(<WholePlan plan={plan(trace(0), culled)} project={project} />);
    expect(screen.queryByText('cell-1.exr')).toBeNull();
    await userEvent.setup().click(screen.getByRole('button', { name: 'Kettle square in Base' }));
    for (const words of ['cell-1.exr', 'cell-1.png', 'Film', 'The process itself', '3 objects left out', 'and 2 more'])
      expect(screen.getByText(words)).toBeTruthy();
    expect(screen.queryByText('cell-0.exr')).toBeNull();
  });

  it('has a sequence in one line: the time of all frames, the memory of the largest, every file', () => {
    const frames = [0, 1, 2, 8].map((frame) => {
      const t = trace(frame * 2, { totalBytes: 71e6 + frame * 1e6 });
      return { ...t, cells: t.cells.map((c) => ({ ...c, frame })) };
    });
    show(<WholePlan plan={plan(...frames)} project={project} />);
    expect(screen.getByText(/^4 pictures from 4 traces · about 36 s in all/)).toBeTruthy();
    expect(rows()).toHaveLength(1);
    const cells = within(rows()[0]!).getAllByRole('cell');
    expect(cells[0]!.textContent).toBe('Counter, close in Base, frames 0-2, 8');
    expect([cells[3]!.textContent, cells[6]!.textContent]).toEqual(['36 s', '199 MB']);
    for (const file of ['cell-0.exr', 'cell-16.png']) expect(screen.getByText(file)).toBeTruthy();
  });

  it('holds the lines in sight of thousands', () => {
    show(<WholePlan plan={plan(...Array.from({ length: 3000 }, (_, i) => trace(i)))} project={project} />);
    expect(screen.getByRole('table').getAttribute('aria-rowcount')).toBe('3001');
    expect(rows().length).toBeLessThan(100);
  });
});
