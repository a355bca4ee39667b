import { act, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { ProjectSession } from '../session/projectSession.ts';
import { project, show, stubServer } from '../testing.tsx';
import { ConnectionNote } from './ConnectionNote.tsx';

const brighter = { target: 'light:Lamp', property: 'light.intensity', value: 9 };

it('edits made while the server does not answer are said to wait, and are sent when it does', async () => {
  let isThere = false;
  const sent: unknown[] = [];
  stubServer((what, body) => {
    if (!isThere) return new TypeError('Failed to fetch');
    if (what.endsWith('/pending')) sent.push(body);
    return { undo: null, redo: null, last: '2' };
  });
  const { client } = show(null);
  const session = new ProjectSession(client, project.id);
  show(<ConnectionNote session={session} />);
  expect(screen.getByRole('status').textContent).toBe('');
  act(() => session.edit('base', [brighter]));
  await screen.findByText('The server does not answer.');
  act(() => session.edit('base', [{ ...brighter, value: 10 }]));
  await waitFor(() => expect(screen.getByRole('status').textContent).toMatch(/2 edits wait here/));
  isThere = true;
  await userEvent.setup().click(screen.getByRole('button', { name: 'Try now' }));
  await waitFor(() => expect(screen.getByRole('status').textContent).toBe(''));
  expect(sent).toEqual([
    { destination: 'base', set: [brighter], clear: [] },
    { destination: 'base', set: [{ ...brighter, value: 10 }], clear: [] },
  ]);
});
