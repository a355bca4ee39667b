// What can be pressed on the page that is open, so that Ctrl+K does all that hands can reach without anybody listing
// it.
import type { Findable } from './findable.ts';

const LONGEST_NAME = 80;
const MOST = 500;
/** Lists and grids of things are found by what stands in them. */
const OF_THINGS = '[role=grid], [role=tree], [role=listbox], [role=table], [role=menu], [role=dialog]';
const BUTTONS = 'main button:not(:disabled), header button:not(:disabled), aside button:not(:disabled)';

/** One of each name: the first. */
export function actionsOn(page: ParentNode): Findable[] {
  const byName = new Map<string, HTMLElement>();
  for (const button of page.querySelectorAll<HTMLElement>(BUTTONS)) {
    if (byName.size >= MOST) break;
    const name = nameOf(button);
    if (name && !byName.has(name) && !button.closest(OF_THINGS)) byName.set(name, button);
  }
  return [...byName].map(([label, element]) => ({
    id: `press ${label}`,
    label,
    kind: 'On this page',
    leads: { to: 'press', element },
  }));
}

/** As a screen reader says it; of a mark alone or of a whole text there is none. */
function nameOf(button: HTMLElement): string | undefined {
  const name = (button.getAttribute('aria-label') ?? button.textContent ?? '').replace(/\s+/g, ' ').trim();
  return /\p{L}{2}/u.test(name) && name.length <= LONGEST_NAME ? name : undefined;
}
