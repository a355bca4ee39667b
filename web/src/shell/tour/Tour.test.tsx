import { act, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useLocation } from 'react-router';
import { beforeEach, describe, expect, it } from 'vitest';
import { project, show, stubServer, summary } from '../../testing.tsx';
import { Tour } from './Tour.tsx';
import { TOUR } from './steps.ts';
import { useTourState } from './tourState.ts';

function Where() {
  return <output>{useLocation().pathname}</output>;
}
/** All that the steps speak of stands on one page here. */
function open(isDemo: boolean): void {
  stubServer((what) => (what === 'GET /api/projects' ? [{ ...summary, isDemo }] : undefined));
  show(
    <>
      {TOUR.map(({ mark }) => (
        <div key={mark} data-tour={mark} />
      ))}
      <Where />
      <Tour />
    </>,
  );
}
const where = () => screen.getByRole('status').textContent;

describe('the tour', () => {
  beforeEach(() => {
    localStorage.clear();
    act(() => useTourState.setState({ status: 'new' }));
  });

  it('is offered where the demo is, and leads through its places once', async () => {
    open(true);
    const user = userEvent.setup();
    await user.click(await screen.findByRole('button', { name: 'Take the tour' }));
    for (const [i, step] of TOUR.entries()) {
      await screen.findByText(step.title);
      expect(screen.getByText(`${i + 1} of 5`)).toBeTruthy();
      expect(where()).toBe(`/projects/${project.id}/${step.place}`);
      await user.click(screen.getByRole('button', { name: i === TOUR.length - 1 ? 'Done' : 'Next' }));
    }
    expect(screen.queryByText(TOUR.at(-1)!.title)).toBeNull();
    expect(localStorage.getItem('variscen.tour')).toBe('ended');
    expect(screen.queryByRole('region', { name: 'Tour' })).toBeNull();
  });

  it('can be left by Escape, or not be taken, and is not offered again', async () => {
    open(true);
    const user = userEvent.setup();
    await user.click(await screen.findByRole('button', { name: 'Take the tour' }));
    await screen.findByText(TOUR[0]!.title);
    await user.keyboard('{Escape}');
    expect(screen.queryByText(TOUR[0]!.title)).toBeNull();
    expect(useTourState.getState().status).toBe('ended');
    act(() => useTourState.setState({ status: 'new' }));
    await user.click(await screen.findByRole('button', { name: 'No, thanks' }));
    expect(screen.queryByRole('region', { name: 'Tour' })).toBeNull();
  });

  it('is not offered without the demo', async () => {
    open(false);
    await act(() => new Promise((r) => setTimeout(r, 50)));
    expect(screen.queryByRole('region', { name: 'Tour' })).toBeNull();
  });
});
