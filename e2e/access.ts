// Whether a page can be read and used by everybody: names of controls, contrast and what else axe knows.
import { AxeBuilder } from '@axe-core/playwright';
import type { Page } from 'playwright-core';
import { until } from './application.ts';

/**
 * What fades in or out has no contrast meanwhile. Asked from here until it is so: what waits within the page evaluates
 * a string there, which the page's security policy forbids.
 */
const AT_REST = 'document.getAnimations().every((animation) => !(animation instanceof CSSTransition))';

/** @param within a selector of the part that is looked at; the whole page where absent */
export async function accessFaults(page: Page, within?: string): Promise<string[]> {
  await until(() => page.evaluate<boolean>(AT_REST));
  const builder = new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa']);
  if (within) builder.include(within);
  const { violations } = await builder.analyze();
  return violations.map((v) => `${v.id} ${v.nodes[0]?.html.slice(0, 160)}`);
}
