import { act, screen } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';
import { show, stubServer, summary } from '../../testing.tsx';
import { ProjectsPlace } from './ProjectsPlace.tsx';

/** What stands in sight is told to whoever observes it. */
function standInSight(): (isInSight: boolean) => void {
  const told: ((entries: object[]) => void)[] = [];
  vi.stubGlobal(
    'IntersectionObserver',
    class {
      constructor(tell: (entries: object[]) => void) {
        told.push(tell);
      }
      observe(): void {}
      disconnect(): void {}
    },
  );
  return (isIntersecting) => act(() => told.forEach((tell) => tell([{ isIntersecting }])));
}

describe('the list of projects', () => {
  it('asks how much is up to date of those that somebody looks at, and says it', async () => {
    const setInSight = standInSight();
    const asked = stubServer((what) => {
      if (what === 'GET /api/projects') return [summary];
      return what.endsWith('/cells') ? { total: 48, current: 3 } : undefined;
    });
    show(<ProjectsPlace />);
    await screen.findByText('Tea stall');
    expect(asked.some((what) => what.endsWith('/cells'))).toBe(false);
    setInSight(true);
    expect(await screen.findByText('3 of 48')).toBeTruthy();
  });

  it('asks nothing of a project without a scene', async () => {
    const setInSight = standInSight();
    const asked = stubServer((what) => (what === 'GET /api/projects' ? [{ ...summary, hasScene: false }] : undefined));
    show(<ProjectsPlace />);
    await screen.findByText('Import a scene…');
    setInSight(true);
    expect(asked.filter((what) => what.includes('/projects'))).toEqual(['GET /api/projects']);
  });
});
