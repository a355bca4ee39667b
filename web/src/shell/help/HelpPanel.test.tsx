import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { describe, expect, it } from 'vitest';
import { show } from '../../testing.tsx';
import { HelpPanel } from './HelpPanel.tsx';
import { keysAt } from './placeKeys.ts';

function Opened() {
  const [isOpen, setOpen] = useState(false);
  return <HelpPanel isOpen={isOpen} onOpen={setOpen} />;
}

describe('the help', () => {
  it('says the keys of the place that one is at, then those of everywhere', () => {
    const names = (path: string) => keysAt(path).map((g) => g.name);
    expect(names('/projects/5f/board')).toEqual(['Board', 'Everywhere']);
    expect(names('/projects/5f/stage')[0]).toBe('Stage');
    expect(names('/queue')).toEqual(['Everywhere']);
  });

  it('opens and closes by ?, not while somebody types one, and has the words', async () => {
    show(
      <>
        <Opened />
        <input aria-label="Name" />
      </>,
      '/projects/5f/review',
    );
    const user = userEvent.setup();
    await user.type(screen.getByLabelText('Name'), '?');
    expect(screen.queryByRole('dialog')).toBeNull();
    (document.activeElement as HTMLElement).blur();
    await user.keyboard('?');
    const help = await screen.findByRole('dialog', { name: 'Keys and words' });
    expect(within(help).getByText('Approve, or take it back')).toBeTruthy();
    await user.click(within(help).getByRole('tab', { name: 'Words' }));
    expect(await within(help).findByText('pending edit')).toBeTruthy();
    await user.keyboard('{Escape}');
    expect(screen.queryByRole('dialog')).toBeNull();
  });
});
