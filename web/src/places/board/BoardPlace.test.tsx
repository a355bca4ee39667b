// @vitest-environment jsdom
import { PROFILES } from '@variscen/core/plan';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { id, project, show, stubServer } from '../../testing.tsx';
import { BoardPlace } from './BoardPlace.tsx';

const at = `/projects/${project.id}/board`;
const address = () => screen.getByLabelText('address').textContent;
const selected = () => screen.getAllByRole('gridcell', { selected: true }).map((c) => c.getAttribute('aria-label'));

async function renameDialog() {
  const user = userEvent.setup();
  await user.click(screen.getByRole('button', { name: 'Variant Paper lanterns' }));
  await user.click(await screen.findByText('Rename…'));
  const dialog = await screen.findByRole('dialog');
  return { user, field: within(dialog).getByRole<HTMLInputElement>('textbox', { name: 'Name' }) };
}

describe('keys on the board', () => {
  it('move, extend and select from the keyboard', async () => {
    stubServer();
    show(<BoardPlace project={project} />, at);
    const user = userEvent.setup();
    screen.getByRole('grid').focus();
    await user.keyboard('{ArrowRight} ');
    expect(selected()).toEqual(['Counter, close in Base: Never rendered']);
    await user.keyboard('{Shift>}{ArrowDown}{/Shift}');
    expect(selected()).toHaveLength(2);
  });

  it('typed in its dialogs stay there: spaces are written, arrows move in the text, nothing is selected or left', async () => {
    stubServer();
    show(<BoardPlace project={project} />, at);
    const { user, field } = await renameDialog();
    await user.clear(field);
    await user.type(field, 'Lanterns at dusk{ArrowLeft}{ArrowLeft}{ArrowLeft}{ArrowLeft}late ');
    expect(field.value).toBe('Lanterns at late dusk');
    await user.keyboard('{Control>}a{/Control}');
    expect(screen.queryAllByRole('gridcell', { selected: true, hidden: true })).toEqual([]);
    expect(address()).toBe(at);
  });

  it('Enter in a dialog sends it and does not open the stage', async () => {
    const asked = stubServer();
    show(<BoardPlace project={project} />, at);
    screen.getByRole('grid').focus();
    const { user, field } = await renameDialog();
    await user.type(field, ' 2{Enter}');
    expect(asked).toContain(`PATCH /api/projects/${project.id}/variants/${id(22)}`);
    expect(address()).toBe(at);
  });
});

describe('a link to selected cells', () => {
  it('selects them again, also where rows were put in another order', () => {
    stubServer();
    const link = `${at}?cells=0000000b.00000016`;
    const reordered = { ...project, cameras: [...project.cameras].reverse() };
    show(<BoardPlace project={reordered} />, link);
    expect(selected()).toEqual(['Counter, close in Paper lanterns: Never rendered']);
  });
});

describe('the plan', () => {
  it('asks for cells in the order of the board, however they were selected', async () => {
    const asked: unknown[] = [];
    stubServer((what, body) => {
      if (what.endsWith('/plan')) asked.push(body);
      return what.endsWith('/profiles') ? PROFILES : undefined;
    });
    show(<BoardPlace project={{ ...project, cameras: [...project.cameras].reverse() }} />, at);
    const user = userEvent.setup();
    await user.click(screen.getByRole('gridcell', { name: /Counter, close in Paper lanterns/ }));
    await user.keyboard('{Control>}');
    await user.click(screen.getByRole('gridcell', { name: /Kettle square in Base/ }));
    await user.keyboard('{/Control}');
    const order = [
      { cameraId: id(12), variantId: id(21) },
      { cameraId: id(11), variantId: id(22) },
    ];
    await waitFor(() => expect(asked.at(-1)).toMatchObject({ cells: order }));
  });
});
