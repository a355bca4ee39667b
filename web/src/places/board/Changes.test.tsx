import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { BoardCell } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { boardOf, project, show, stubServer } from '../../testing.tsx';
import { Changes } from './Changes.tsx';

const [cell] = boardOf(project).cells as [BoardCell];
const hidden = { subject: 'Shed', what: 'shown', was: 'yes', is: 'no' };

describe('what has changed since a picture was rendered', () => {
  it('is why it is out of date', () => {
    show(<Changes project={project} cell={{ ...cell, status: 'outdated', differences: [hidden] }} />);
    expect(screen.getByRole('heading').textContent).toBe('Why out of date');
    expect(screen.getByText('yes → no')).toBeTruthy();
    expect(screen.queryByText(/No ray of this picture/)).toBeNull();
  });
  it('is said too where the picture stands, with the reason; the project may want it otherwise', async () => {
    const bodies: unknown[] = [];
    stubServer((what, body) => {
      if (!what.startsWith('PATCH')) return undefined;
      bodies.push(body);
      return { ...project, staysUnmet: false };
    });
    show(<Changes project={project} cell={{ ...cell, status: 'current', stands: true, differences: [hidden] }} />);
    expect(screen.getByRole('heading').textContent).toBe('Changed since, and still up to date');
    expect(screen.getByText(/No ray of this picture came near what has changed/)).toBeTruthy();
    await userEvent.click(screen.getByRole('checkbox', { name: /stay up to date where no ray met/ }));
    await waitFor(() => expect(bodies).toEqual([{ staysUnmet: false }]));
  });
  it('is told as the reason where something else makes it out of date as well', () => {
    // as with another profile: it stands by what its rays met, and is out of date all the same
    show(<Changes project={project} cell={{ ...cell, status: 'outdated', stands: true, differences: [hidden] }} />);
    expect(screen.getByRole('heading').textContent).toBe('Why out of date');
  });
  it('is nothing where nothing has', () => {
    const { container } = show(<Changes project={project} cell={{ ...cell, status: 'current' }} />);
    expect(container.querySelector('h4')).toBeNull();
  });
});
