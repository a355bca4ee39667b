/**
 * Whether keys go into a text there, or to a dialog or a menu, so that they are not shortcuts of the place. A switch or
 * a slider takes no text.
 */
export const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target.closest(
      'textarea, [role=dialog], [role=menu], input:not([type=checkbox]):not([type=radio]):not([type=range])',
    ) !== null);
