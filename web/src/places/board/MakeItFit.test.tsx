import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { Fit, Plan } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { project, show, stubServer } from '../../testing.tsx';
import { MakeItFit } from './MakeItFit.tsx';

const [close, kettle] = project.cameras;
const [base, lanterns] = project.variants;
const trace = (camera: { id: string }, variant: { id: string }, slower: number | null, isRefused = false) => ({
  cells: [{ cameraId: camera.id, variantId: variant.id }],
  slower,
  isRefused,
});
const planOf = (...traces: object[]) => ({ traces }) as unknown as Plan;
const fit = (more: Partial<Fit>): Fit => ({
  barShare: 0,
  simplifies: false,
  bytes: 2e9,
  fits: false,
  leftOut: 3,
  simplified: 0,
  ...more,
});
const answer = (...tried: Fit[]) => ({
  budgetBytes: 1e9,
  now: fit({ barShare: null, bytes: 4e9, leftOut: 0 }),
  tried,
});
const KEPT = {
  barShare: null,
  keep: ['Bowl'],
  leaveOut: ['Roof'],
  simplifies: false,
  byEvidence: [],
  standIns: {},
  pieces: { engine: '', meshes: {} },
  nits: {},
  from: [],
};
const showPlan = (plan: Plan) => show(<MakeItFit project={project} plan={plan} profileId="sketch" />);

describe('a plan of which something does not fit', () => {
  it('finds for each camera what may go, and keeps it when it is told to, with what was decided by hand', async () => {
    const asked: unknown[] = [];
    const kept: unknown[] = [];
    stubServer((what, body) => {
      if (what.endsWith('/cull/fit')) {
        asked.push(body);
        const { cameraId } = body as { cameraId: string };
        if (cameraId === kettle!.id) return answer(fit({}), fit({ barShare: 0.05, simplifies: true, bytes: 1.5e9 }));
        return answer(fit({}), fit({ barShare: 0.001, simplifies: true, bytes: 9e8, fits: true, simplified: 2 }));
      }
      if (what.startsWith('GET') && what.endsWith('/cull')) return { plan: KEPT };
      if (what.startsWith('PUT')) {
        kept.push(body);
        return project;
      }
      return undefined;
    });
    showPlan(
      planOf(
        trace(close!, base!, 5),
        trace(close!, lanterns!, 1, true),
        trace(kettle!, base!, null),
        trace(kettle!, lanterns!, 1),
      ),
    );
    await userEvent.click(screen.getByRole('button', { name: 'Find what fits for 2 cameras' }));
    const found = await screen.findByRole('region', { name: 'What fits' });
    expect(asked).toEqual([
      { cameraId: close!.id, variantIds: [base!.id, lanterns!.id], profileId: 'sketch' },
      { cameraId: kettle!.id, variantIds: [base!.id], profileId: 'sketch' },
    ]);
    expect(found.textContent).toContain(
      'Counter, close: 900 MB instead of 4 GB without 3 objects that give least, up to 0.1 % of the light, and with 2 objects simplified. The budget is 1 GB.',
    );
    expect(found.textContent).toContain(
      'Kettle square: 1.5 GB instead of 4 GB without 3 objects that give least, up to 5 % of the light, and with 0 objects simplified, which is still over the budget of 1 GB.',
    );
    expect(kept).toEqual([]);
    await userEvent.click(screen.getByRole('button', { name: 'Use for 1 camera' }));
    await waitFor(() =>
      expect(kept).toEqual([
        {
          cameraIds: [close!.id],
          variantIds: [base!.id, lanterns!.id],
          barShare: 0.001,
          simplifies: true,
          keep: ['Bowl'],
          leaveOut: ['Roof'],
        },
      ]),
    );
  });
  it('is left alone where all of it fits', () => {
    showPlan(planOf(trace(close!, base!, 1)));
    expect(screen.queryByRole('button')).toBeNull();
  });
});
