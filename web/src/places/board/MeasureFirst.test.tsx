import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { Plan } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { project, show, stubServer } from '../../testing.tsx';
import { MeasureFirst } from './MeasureFirst.tsx';

type Trace = Plan['traces'][number];
const cell = (n: number) => ({ cameraId: `camera ${n}`, variantId: 'base' });
const trace = (n: number, expectedFrom: Trace['expectedFrom']) =>
  ({ cells: [cell(n)], expectedFrom }) as unknown as Trace;
const planOf = (...traces: Trace[]) => ({ traces }) as unknown as Plan;

describe('measuring before anything was rendered', () => {
  it('is offered for each view of which little is known, once, and taken one after another', async () => {
    const measured: unknown[] = [];
    stubServer((what, body) => {
      if (!what.endsWith('/cull/evidence')) return undefined;
      measured.push(body);
      return {};
    });
    const plan = planOf(
      trace(1, null),
      trace(2, 'project'),
      trace(2, 'project'),
      trace(3, 'camera'),
      trace(4, 'measured'),
    );
    show(<MeasureFirst projectId={project.id} plan={plan} />);
    await userEvent.click(screen.getByRole('button', { name: 'Measure 2 views to know how long' }));
    await waitFor(() => expect(measured).toEqual([cell(1), cell(2)]));
    await waitFor(() => expect(screen.queryByRole('button')).toBeNull());
  });
  it('can be stopped', async () => {
    stubServer(() => undefined);
    show(<MeasureFirst projectId={project.id} plan={planOf(trace(1, null), trace(2, null))} />);
    await userEvent.click(screen.getByRole('button', { name: 'Measure 2 views to know how long' }));
    expect(screen.getByRole('status').textContent).toContain('Measuring view 1 of 2');
    await userEvent.click(screen.getByRole('button', { name: 'Stop' }));
  });
  it('is not offered where enough is known', () => {
    show(<MeasureFirst projectId={project.id} plan={planOf(trace(1, 'cell'), trace(2, 'measured'))} />);
    expect(screen.queryByRole('button')).toBeNull();
  });
});
