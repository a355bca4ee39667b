import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { BoardCell, CellFrame, Plan } from '@variscen/contract';
import { PROFILES } from '@variscen/core/plan';
import { describe, expect, it } from 'vitest';
import { boardOf, project, show, stubServer } from '../../testing.tsx';
import { PlanPanel } from './PlanPanel.tsx';

const frames = { total: 5, never: 2, current: 2, outdated: 0, waiting: 0, rendering: 0, failed: 1 };
const [still, sequence] = boardOf(project).cells as [BoardCell, BoardCell];
const cells: BoardCell[] = [still, { ...sequence, status: 'failed', frames }];
const frame = (n: number, status: CellFrame['status'], error?: string): CellFrame => ({
  frame: n,
  status,
  renderId: status === 'current' ? sequence.cameraId : null,
  version: status === 'current' ? 1 : null,
  fileFault: null,
  trace: error === undefined ? null : { id: sequence.variantId, fraction: 0, samplesDone: 0, previewVersion: 0, error },
});
const FRAMES = [
  frame(0, 'current'),
  frame(1, 'current'),
  frame(2, 'failed', 'The node ran out of memory.'),
  frame(3, 'never'),
  frame(4, 'never'),
];

function open(shown: BoardCell[], of: CellFrame[] = FRAMES) {
  const planned: unknown[] = [];
  stubServer((what, body) => {
    if (what.includes('/frames')) return of;
    if (what.startsWith('GET /api/profiles')) return { own: [], library: [], outputRoots: ['/pictures'] };
    if (!what.endsWith('/plan')) return undefined;
    planned.push((body as { cells: unknown }).cells);
    return undefined;
  });
  show(<PlanPanel project={project} cells={shown} />);
  return planned;
}
const choose = async (label: string) => {
  const user = userEvent.setup();
  await user.click(screen.getByRole('combobox', { name: 'Frames to render' }));
  await user.click(await screen.findByRole('option', { name: label }));
};
const ref = ({ cameraId, variantId }: BoardCell) => ({ cameraId, variantId });

describe('the plan of a sequence', () => {
  it('is of all frames, or of those that are not up to date', async () => {
    const planned = open(cells);
    await waitFor(() => expect(planned.at(-1)).toEqual([ref(still), ref(sequence)]));
    await choose('Frames that are not up to date');
    await waitFor(() => expect(planned.at(-1)).toEqual([ref(still), { ...ref(sequence), frames: [2, 3, 4] }]));
  });
  it('says when there is nothing to render, and asks for no plan', async () => {
    const planned = open([cells[1]!], [frame(0, 'current'), frame(1, 'waiting')]);
    await waitFor(() => expect(planned).toHaveLength(1));
    await choose('Frames that are not up to date');
    expect(await screen.findByText('All frames are up to date, or wait already.')).toBeTruthy();
    expect(planned).toHaveLength(1);
  });
  it('has the frames by state beside it, with what was wrong, and a film of what is there', async () => {
    open([cells[1]!]);
    const states = await screen.findByRole('list', { name: 'Frames by state' });
    expect(
      within(states)
        .getAllByRole('listitem')
        .map((x) => x.textContent),
    ).toEqual(['Failed2', 'Never rendered3-4', 'Up to date0-1']);
    expect(screen.getByText('The node ran out of memory.')).toBeTruthy();
    await userEvent.setup().click(screen.getByRole('button', { name: 'Play the film' }));
    expect(screen.getByRole<HTMLImageElement>('img', { name: 'Preview film' }).src).toContain('/film?of=');
    expect(screen.getByText('2 pictures, 24 frames a second')).toBeTruthy();
  });
  it('is as ever where no cell is a sequence', async () => {
    const planned = open([still]);
    await waitFor(() => expect(planned).toEqual([[ref(still)]]));
    expect(screen.queryByRole('combobox', { name: 'Frames to render' })).toBeNull();
  });
});

describe('warnings of a plan', () => {
  const WARNINGS = ['The frame seems empty.', 'A lamp stands in glass.'];
  function warned(accepted: string[]) {
    const sent: unknown[] = [];
    stubServer((what, body) => {
      if (what.startsWith('GET /api/profiles')) return { own: [], library: [], outputRoots: ['/pictures'] };
      if (what.endsWith('/plan')) return planWith(WARNINGS);
      if (what.endsWith('/accepted-warnings')) sent.push(body);
      return undefined;
    });
    show(<PlanPanel project={{ ...project, acceptedWarnings: accepted }} cells={[still]} />);
    return { sent, user: userEvent.setup() };
  }
  it('are accepted one by one, by what they say', async () => {
    const { sent, user } = warned(['Of another plan.']);
    const [first] = await screen.findAllByRole('button', { name: 'Accept' });
    await user.click(first!);
    await waitFor(() => expect(sent).toEqual([{ warnings: ['Of another plan.', WARNINGS[0]] }]));
  });
  it('stay folded away once they are accepted, and can be warned of again', async () => {
    const { sent, user } = warned([WARNINGS[0]!]);
    await user.click(await screen.findByText('1 accepted warning'));
    expect(screen.getAllByRole('button', { name: 'Accept' })).toHaveLength(1);
    await user.click(screen.getByRole('button', { name: 'Warn again' }));
    await waitFor(() => expect(sent).toEqual([{ warnings: [] }]));
  });
});
const planWith = (warnings: string[]): Plan =>
  ({
    hash: still.hash,
    profile: PROFILES[0],
    traces: [],
    mostFileBytes: 0,
    freeBytes: 1e9,
    filmBytes: 0,
    aheadS: null,
    doneAt: null,
    errors: [],
    warnings,
  }) as unknown as Plan;
