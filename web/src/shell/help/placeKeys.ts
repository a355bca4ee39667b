// Keys of each place, as the help says them.
export type KeyLine = readonly [keys: string, does: string];
export interface KeyGroup {
  readonly name: string;
  readonly lines: readonly KeyLine[];
}

const EVERYWHERE: KeyGroup = {
  name: 'Everywhere',
  lines: [
    ['?', 'This help'],
    ['Ctrl + K', 'Find a camera, variant, option, object, material or place, or press what a button says'],
    ['Ctrl + Z', 'Undo; with Shift redo'],
    ['Tab', 'To the next control; in grids and lists arrows go on from there'],
    ['↑ ↓ in a number', 'A step; with Shift ten. Its label is dragged, too'],
    ['Escape', 'Leave what is under way'],
  ],
};

const OF_PLACES: Readonly<Record<string, readonly KeyGroup[]>> = {
  stage: [
    {
      name: 'Stage',
      lines: [
        [', .', 'Through the variants; with Shift through the options of a facet'],
        ['Ctrl + Enter', 'Keep what is pending'],
        ['Ctrl + C, V', 'Copy values of what is selected to other objects'],
        ['Delete', 'Remove selected lights that a look added'],
      ],
    },
    {
      name: 'In the view',
      lines: [
        ['Drag', 'Go round; right button: aside; wheel: nearer'],
        ['Arrows', 'Walk and turn; with Alt aside, with Shift faster'],
        ['Page ↑ ↓', 'Rise and sink'],
        ['Click', 'Select; with Ctrl more. Shift + drag: all in a box'],
      ],
    },
    {
      name: 'In the tree and the list of cameras',
      lines: [
        ['↑ ↓', 'Go; with Shift select on the way'],
        ['← →', 'Fold and unfold'],
        ['Enter', 'Bring into view'],
        ['F2, Delete', 'Rename, delete cameras'],
        ['Ctrl + A', 'All that are listed'],
      ],
    },
  ],
  board: [
    {
      name: 'Board',
      lines: [
        ['Arrows', 'From cell to cell; with Shift select on the way'],
        ['Space', 'Select the cell, or let go of it'],
        ['Ctrl + A', 'All cells'],
        ['Enter', 'Open the cell on the Stage'],
        ['Escape', 'Select nothing'],
      ],
    },
  ],
  cull: [
    {
      name: 'Cull',
      lines: [
        ['↑ ↓', 'Through the objects; with Shift select on the way'],
        ['P, L, M', 'Pin, leave out, or as measured'],
        ['Ctrl + A', 'All that are listed'],
        ['Escape', 'Select nothing'],
      ],
    },
  ],
  review: [
    {
      name: 'Review',
      lines: [
        ['← →', 'Picture before, next'],
        ['↑ ↓', 'Newer, older version'],
        ['A', 'Approve, or take it back'],
        ['R', 'Reject, or take it back'],
        ['N', 'Note'],
        ['M', 'Draw a mark'],
        ['Space', 'Hold this picture for comparing, or let go of it'],
        ['1 to 5', 'One picture, side by side, flip, wipe, difference'],
        ['F', 'Flip to the other picture'],
        ['0', 'Fit'],
        ['Click', 'What is there: look at it alone, or select it on the Stage'],
        ['Shift + drag', 'Measure a region'],
        ['B', 'Surround: grey, black, white'],
        ['Escape', 'Put away what was measured, asked or isolated'],
      ],
    },
  ],
};

/** Of the place that an address is of: its own, then those of everywhere. */
export function keysAt(pathname: string): readonly KeyGroup[] {
  const place = /^\/projects\/[^/]+\/(\w+)/.exec(pathname)?.[1] ?? '';
  return [...(OF_PLACES[place] ?? []), EVERYWHERE];
}
