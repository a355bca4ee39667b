// What of a picture's light is kept apart, as it is picked in a profile.
import { MantineProvider } from '@mantine/core';
import { PROFILES, type ProfileSettings } from '@variscen/core/plan';
import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { expect, it } from 'vitest';
import '../../../testing.tsx';
import { ProfileFields } from './ProfileFields.tsx';

let value: ProfileSettings;
function Fields() {
  const [now, setNow] = useState<ProfileSettings>(PROFILES[0]!);
  value = now;
  return (
    <MantineProvider env="test">
      <ProfileFields value={now} onChange={(set) => setNow((v) => ({ ...v, ...set }))} />
    </MantineProvider>
  );
}
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));
const pressed = () =>
  screen
    .getAllByRole('button', { pressed: true })
    .map((b) => b.getAttribute('aria-label') ?? b.textContent)
    .filter((name) => /light|all/i.test(name ?? ''));

it('light is kept by all groups, by some, or each light by itself, one way at a time', () => {
  render(<Fields />);
  expect(screen.queryByRole('group', { name: 'Light groups that are written' })).toBeNull();
  fireEvent.click(screen.getByRole('checkbox', { name: 'Light groups' }));
  expect(value.lightGroups).toBeNull();
  expect(pressed()).toEqual(['all']);
  press('Light group 3');
  press('Light group 1');
  expect(value.lightGroups).toEqual(['1', '3']);
  press('each light');
  expect(value.lightGroups).toBe('lights');
  expect(pressed()).toEqual(['each light']);
  press('Light group 2');
  expect(value.lightGroups).toEqual(['2']);
  press('Light group 2');
  expect(value.lightGroups).toBeNull();
});
