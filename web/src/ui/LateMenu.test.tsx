import { MantineProvider, Menu } from '@mantine/core';
import { render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it, vi } from 'vitest';
import '../testing.tsx';
import { LateMenu } from './LateMenu.tsx';

function shown(onPause = vi.fn(), onRow = vi.fn()) {
  render(
    <MantineProvider env="test">
      <div onClick={onRow}>
        <LateMenu label="More for Stall" position="bottom-end">
          {() => <Menu.Item onClick={onPause}>Pause</Menu.Item>}
        </LateMenu>
      </div>
    </MantineProvider>,
  );
  return { onPause, onRow, button: screen.getByRole('button', { name: 'More for Stall' }) };
}

it('is not there before it is asked for; a choice is done once, closes it, and the row is not clicked', async () => {
  const { onPause, onRow, button } = shown();
  expect(screen.queryByRole('menu')).toBeNull();
  await userEvent.click(button);
  await userEvent.click(await screen.findByRole('menuitem', { name: 'Pause' }));
  expect(onPause).toHaveBeenCalledOnce();
  await waitFor(() => expect(screen.queryByRole('menu')).toBeNull());
  expect(onRow).not.toHaveBeenCalled();
  expect(document.activeElement).toBe(button);
});

it('opens and closes by its button, by keys, and by a press beside it', async () => {
  const { button } = shown();
  await userEvent.click(button);
  await screen.findByRole('menu');
  await userEvent.click(button);
  expect(screen.queryByRole('menu')).toBeNull();
  await userEvent.keyboard('{Enter}');
  await screen.findByRole('menu');
  await userEvent.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByRole('menu')).toBeNull());
  expect(document.activeElement).toBe(button);
  await userEvent.click(button);
  await screen.findByRole('menu');
  await userEvent.click(document.body);
  await waitFor(() => expect(screen.queryByRole('menu')).toBeNull());
});
