// The tour: five steps on the demo, from the board to the morning after.

export interface TourStep {
  /** Of the project. */
  readonly place: 'board' | 'stage' | 'review';
  /** What it speaks of stands in `data-tour`. */
  readonly mark: string;
  readonly title: string;
  /** Sentences. */
  readonly text: readonly string[];
  readonly side: 'top' | 'right' | 'bottom' | 'left' | 'over';
}

export const TOUR: readonly TourStep[] = [
  {
    place: 'board',
    mark: 'board',
    title: 'Every camera in every look',
    text: [
      'Cameras run down, variants across, and each cell is its latest picture.',
      'The shape at its corner says whether it is up to date, waits in the queue, or was never rendered.',
    ],
    side: 'over',
  },
  {
    place: 'stage',
    mark: 'sentence',
    title: 'Where you are, and where edits go',
    text: [
      'This sentence names the camera and the variant that you look through, and the option that your next change goes to.',
      'Its underlined parts are choices.',
    ],
    side: 'bottom',
  },
  {
    place: 'stage',
    mark: 'options',
    title: 'A look is made of options',
    text: [
      'Lighting, environment, materials, visibility, placement and grade have options each.',
      'A variant takes one of each, or none: what you change once is changed in all that take it.',
    ],
    side: 'top',
  },
  {
    place: 'board',
    mark: 'plan',
    title: 'A plan before anything renders',
    text: [
      'Select cells, and this says how many traces they are, how long they take, what memory and files they need, and what is wrong with them.',
      'Then render, now or in the night.',
    ],
    side: 'left',
  },
  {
    place: 'review',
    mark: 'review',
    title: 'The morning after',
    text: [
      'Compare pictures, approve them, draw marks, grade them again without rendering, and deliver.',
      'The question mark in the rail has the keys and words of each place.',
    ],
    side: 'over',
  },
];
