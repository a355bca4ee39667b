import type { Option, Project } from '@variscen/contract';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { keys } from '../../../api/queries.ts';
import { sessionOf } from '../../../session/projectSession.ts';
import { id, project, show, stubServer } from '../../../testing.tsx';
import { CompareOptions } from './CompareOptions.tsx';

const lantern = (n: number, value: number) => ({
  target: `light:Lanterns/Lantern ${n}`,
  property: 'light.intensity',
  value,
});
const option = (n: number, name: string, changes: readonly object[]): Option =>
  ({ id: id(n), name, facet: 'lighting', notes: '', tag: null, changes }) as unknown as Option;
const lit: Project = {
  ...project,
  options: [
    option(
      31,
      'Dim',
      [1, 2, 3, 4].map((n) => lantern(n, 4)),
    ),
    option(32, 'Bright', [lantern(1, 60), lantern(2, 60), lantern(3, 60), lantern(4, 9)]),
  ],
};

function compare() {
  const sent: unknown[] = [];
  stubServer((what, body) => {
    if (!what.includes('/recorded')) return undefined;
    sent.push(body);
    return lit;
  });
  const { client } = show(null); // the page that the session belongs to
  client.setQueryData(keys.project(project.id), lit);
  const session = sessionOf(client, project.id);
  show(
    <CompareOptions
      project={lit}
      index={undefined}
      facet="lighting"
      first={id(31)}
      session={session}
      onClose={() => undefined}
    />,
  );
  return { sent };
}
const lines = () => within(screen.getByRole('table', { name: 'Differences' })).getAllByRole('row');

describe('two options compared', () => {
  it('show the same change of many as one line, which opens', async () => {
    compare();
    expect(screen.getByText('4 differences')).toBeTruthy();
    expect(lines()).toHaveLength(2);
    await userEvent.setup().click(screen.getByRole('button', { name: '3 lights, strength' }));
    expect(lines()).toHaveLength(5);
  });

  it('copy a line of many across as one edit', async () => {
    const { sent } = compare();
    await userEvent.setup().click(screen.getByRole('button', { name: 'Copy 3 lights, strength from Dim to Bright' }));
    expect(sent).toEqual([
      { destination: `option:${id(32)}`, set: [lantern(1, 4), lantern(2, 4), lantern(3, 4)], clear: [] },
    ]);
  });
});
