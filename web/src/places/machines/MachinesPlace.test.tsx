import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { RenderNode } from '@variscen/contract';
import { ALWAYS } from '@variscen/core/plan';
import { describe, expect, it } from 'vitest';
import { show, stubServer } from '../../testing.tsx';
import { MachinesPlace } from './MachinesPlace.tsx';

const machine = (name: string, more: Partial<RenderNode> = {}): RenderNode => ({
  name,
  isOwn: false,
  state: 'idle',
  threads: 4,
  seenAt: new Date().toISOString(),
  threadsNow: 4,
  why: null,
  hours: ALWAYS as RenderNode['hours'],
  isDrained: false,
  budgetMib: null,
  budgetBytes: 8e9,
  usedBytes: 3e8,
  traceId: null,
  work: { traces: 3, slices: 12, seconds: 600, paths: 1.2e8 },
  ...more,
});
const MACHINES = [
  machine('this machine', { isOwn: true, state: 'rendering', threadsNow: 3, why: 'Somebody edits' }),
  machine('Workshop'),
  machine('Attic', {
    state: 'never',
    threads: 0,
    threadsNow: 0,
    seenAt: null,
    budgetBytes: null,
    usedBytes: null,
    work: { traces: 0, slices: 0, seconds: 0, paths: 0 },
  }),
];
function open() {
  const sent: { what: string; body: unknown }[] = [];
  stubServer((what, body) => {
    if (what === 'GET /api/nodes') return MACHINES;
    if (what.startsWith('GET')) return undefined;
    sent.push({ what, body });
    return { name: 'Loft', token: 'the-token' };
  });
  show(<MachinesPlace />);
  return sent;
}
const row = (name: string) => screen.findByRole('row', { name: new RegExp(`^${name}`) });
const choose = async (name: string, item: string) => {
  fireEvent.click(within(await row(name)).getByRole('button', { name: `More for ${name}` }));
  fireEvent.click(await screen.findByRole('menuitem', { name: item }));
};

describe('machines', () => {
  it('say what they do, how fast they are and what they have done', async () => {
    open();
    const text = async (name: string) => (await row(name)).textContent;
    expect(await text('this machine')).toContain(
      'RenderingSomebody edits3 / 4300 MBup to 8 GB200 k paths/s10 min 0 s3 traces, 12 slices',
    );
    expect(await text('Attic')).toContain('Not joined yet————Never');
    expect(screen.getByRole('banner').textContent).toBe(
      '2 machines are there, 1 renders; 1 is away. What they render is in the queue.',
    );
  });

  it('are added by a name, and the token is shown with what is typed there', async () => {
    const sent = open();
    fireEvent.click(await screen.findByRole('button', { name: 'Add a machine' }));
    fireEvent.change(await screen.findByLabelText('What it is called'), { target: { value: ' Loft ' } });
    fireEvent.click(screen.getByRole('button', { name: 'Add the machine' }));
    expect(await screen.findByText(/echo the-token > variscen-token/)).toBeTruthy();
    expect(screen.getByText(/\.\/node --join .* --token-file variscen-token/)).toBeTruthy();
    expect(sent).toEqual([{ what: 'POST /api/nodes', body: { name: 'Loft' } }]);
  });

  it('end what they render and take nothing more, and are removed by name; the one that Variscen runs on is not', async () => {
    const sent = open();
    await choose('Workshop', 'Finish, and take nothing more');
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toEqual({ what: 'PUT /api/nodes', body: { name: 'Workshop', isDrained: true, budgetMib: null } });
    await choose('Workshop', 'Remove the machine…');
    fireEvent.click(await screen.findByRole('button', { name: 'Remove the machine' }));
    await waitFor(() => expect(sent.at(-1)!.what).toBe('DELETE /api/nodes?name=Workshop'));
    fireEvent.click(within(await row('this machine')).getByRole('button', { name: 'More for this machine' }));
    await screen.findByRole('menuitem', { name: 'Working hours…' });
    expect(screen.queryByRole('menuitem', { name: 'Remove the machine…' })).toBeNull();
  });

  it('have a limit of memory that people set', async () => {
    const sent = open();
    await choose('Workshop', 'Memory for a trace…');
    const field = await screen.findByLabelText('Memory for a trace');
    fireEvent.change(field, { target: { value: '2048' } });
    fireEvent.blur(field);
    fireEvent.click(screen.getByRole('button', { name: 'Keep the memory' }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]!.body).toEqual({ name: 'Workshop', isDrained: false, budgetMib: 2048 });
  });
});
