// Whether a key pressed somewhere below is meant for this list or grid.
import type { KeyboardEvent } from 'react';
import { typing } from './typing.ts';

const PRESSES: ReadonlySet<string> = new Set(['Enter', ' ']);

/**
 * Events of React bubble through portals: a dialog that a list has opened is below it for them, and its keys would move
 * in the list or delete from it.
 * Keys typed into a field, and those that press a button, are not the list's either.
 */
export function isOwnKey(e: KeyboardEvent): boolean {
  const target = e.target as HTMLElement;
  if (!e.currentTarget.contains(target) || typing(target)) return false;
  const presses = PRESSES.has(e.key) && target !== e.currentTarget && target.closest('button, a, [role=menuitem]');
  return !presses;
}
