import { PROFILES } from '@variscen/core/plan';
import { act, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { boardOf, camera, id, project, show, stubServer, variant } from '../../testing.tsx';
import { keys } from '../../api/queries.ts';
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

describe('a board of sixty cameras in forty variants', () => {
  const large = {
    ...project,
    cameras: Array.from({ length: 60 }, (_, i) => camera(1000 + i, `Camera ${i + 1}`)),
    variants: Array.from({ length: 40 }, (_, i) => variant(2000 + i, `Variant ${i + 1}`)),
  };
  const cursor = () => screen.getByRole('grid').getAttribute('aria-activedescendant')!;

  it('holds what is in sight, says how large it is, and counts rows and columns from the board', () => {
    stubServer();
    show(<BoardPlace project={large} />, at);
    const grid = screen.getByRole('grid');
    expect([grid.getAttribute('aria-rowcount'), grid.getAttribute('aria-colcount')]).toEqual(['61', '41']);
    const cells = screen.getAllByRole('gridcell');
    expect(cells.length).toBeGreaterThan(20);
    expect(cells.length).toBeLessThan(300);
    const second = screen.getByRole('gridcell', { name: /Camera 2 in Variant 3/ });
    expect(second.getAttribute('aria-colindex')).toBe('4');
    expect(second.closest('[role=row]')!.getAttribute('aria-rowindex')).toBe('3');
  });

  it('names the cell under the cursor to who does not see it', async () => {
    stubServer();
    show(<BoardPlace project={large} />, at);
    screen.getByRole('grid').focus();
    await userEvent.setup().keyboard('{ArrowDown}{ArrowDown}{ArrowRight}');
    expect(document.getElementById(cursor())!.getAttribute('aria-label')).toContain('Camera 2 in Variant 2');
  });

  it('selects a row as a whole, in sight or not', async () => {
    stubServer();
    const { client } = show(<BoardPlace project={large} />, at);
    act(() => {
      client.setQueryData(keys.board(project.id), boardOf(large));
    });
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: 'Camera Camera 1' }));
    await user.click(await screen.findByText('Select the row'));
    expect(await screen.findByText('40 cells')).toBeTruthy();
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
      return what.endsWith('/profiles') ? { own: PROFILES, library: [], outputRoots: ['/pictures'] } : undefined;
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
