import { fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import { ProjectSession } from '../../../session/projectSession.ts';
import { project, show, stubServer } from '../../../testing.tsx';
import { CameraList } from './CameraList.tsx';

function list(selected: readonly string[]) {
  const asked = stubServer();
  const { client } = show(null);
  const session = new ProjectSession(client, project.id);
  show(
    <CameraList
      project={project}
      document={undefined}
      current={project.cameras[0]}
      selected={selected}
      session={session}
      viewed={() => undefined}
      onLook={vi.fn()}
      onSelect={vi.fn()}
    />,
  );
  return asked;
}

describe('cameras in their list', () => {
  it('are deleted together, in one request', async () => {
    const asked = list(project.cameras.map((c) => c.id));
    screen.getByRole('listbox').focus();
    await userEvent.setup().keyboard('{Delete}');
    expect(asked).toEqual([`POST /api/projects/${project.id}/cameras/delete`]);
  });

  it('are not deleted by Delete pressed in a menu of theirs', async () => {
    const asked = list([project.cameras[0]!.id]);
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: 'More for Counter, close' }));
    fireEvent.keyDown(await screen.findByText('Duplicate'), { key: 'Delete' });
    expect(asked).toEqual([]);
  });
});
