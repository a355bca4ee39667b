// What lists that are put in order by dragging tell those who do not drag.
export const SORTED_BY_KEYS = {
  screenReaderInstructions: { draggable: 'Alt and an arrow key put it elsewhere in the order.' },
} as const;
