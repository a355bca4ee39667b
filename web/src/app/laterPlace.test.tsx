import { fireEvent, render, screen } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { expect, it, vi } from 'vitest';
import { PlaceBoundary } from './PlaceBoundary.tsx';
import { laterPlace } from './laterPlace.tsx';

const Waiting = () => <p>waiting</p>;
const Review = ({ of }: { readonly of: string }) => <p>Review of {of}</p>;

it('a place is shown when its code is there, and at once where that was read ahead', async () => {
  const { Place, load } = laterPlace(() => Promise.resolve(Review), Waiting);
  const { unmount } = render(<Place of="Dusk" />);
  screen.getByText('waiting');
  await screen.findByText('Review of Dusk');
  unmount();
  await load();
  render(<Place of="Dawn" />);
  screen.getByText('Review of Dawn');
});

it('code that cannot be read is a fault of that place alone, and is asked for again', async () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined);
  let isDown = true;
  const read = () => (isDown ? Promise.reject(new Error('The server does not answer.')) : Promise.resolve(Review));
  const { Place, load } = laterPlace(read, Waiting);
  await expect(load()).rejects.toThrow('does not answer');
  render(
    <MemoryRouter>
      <PlaceBoundary>
        <Place of="Dusk" />
      </PlaceBoundary>
    </MemoryRouter>,
  );
  await screen.findByText('The server does not answer.');
  isDown = false;
  fireEvent.click(screen.getByRole('button', { name: 'Show it again' }));
  await screen.findByText('Review of Dusk');
});
