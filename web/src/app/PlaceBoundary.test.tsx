import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it, vi } from 'vitest';
import { show } from '../testing.tsx';
import { PlaceBoundary, Unreadable } from './PlaceBoundary.tsx';

it('a fault of a place is said, the rest stays, and it can be shown again', async () => {
  vi.spyOn(console, 'error').mockReturnValue(undefined);
  let isBroken = true;
  const Place = () => {
    if (isBroken) throw new Error('The kettle has no spout.');
    return <p>The stall</p>;
  };
  show(
    <>
      <nav>Rail</nav>
      <PlaceBoundary>
        <Place />
      </PlaceBoundary>
    </>,
  );
  expect(screen.getByRole('alert').textContent).toMatch(/The kettle has no spout/);
  expect(screen.getByText('Rail')).toBeTruthy();
  isBroken = false;
  await userEvent.setup().click(screen.getByRole('button', { name: 'Show it again' }));
  expect(screen.getByText('The stall')).toBeTruthy();
});

it('what cannot be read says why and what to do, and is asked for again', async () => {
  const onAgain = vi.fn();
  const error = Object.assign(new Error('The server does not answer.'), { remedy: 'See whether ./start still runs.' });
  show(<Unreadable what="This project" error={error} onAgain={onAgain} />);
  expect(screen.getByRole('alert').textContent).toMatch(/See whether \.\/start still runs/);
  await userEvent.setup().click(screen.getByRole('button', { name: 'Try again' }));
  expect(onAgain).toHaveBeenCalledOnce();
});
