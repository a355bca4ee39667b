// Where pictures and words stand on the pages of a contact sheet. All lengths in points of 1/72 inch, from a page's
// left and top.

export type SheetBackground = 'white' | 'grey' | 'black';
export interface SheetPicture {
  readonly aspect: number;
  readonly label: readonly string[];
}
export interface SheetRow {
  /** Beside the row; null where rows have no heads. */
  readonly head: string | null;
  /** By their place among all pictures; null: there is none. */
  readonly pictures: readonly (number | null)[];
}
export interface SheetContent {
  readonly title: string;
  /** Above the columns; empty where they have none. */
  readonly columnHeads: readonly string[];
  readonly rows: readonly SheetRow[];
  readonly pictures: readonly SheetPicture[];
}
export interface SheetPage {
  readonly widthPt: number;
  /** null: as tall as it takes. */
  readonly heightPt: number | null;
}
export interface PlacedPicture {
  readonly picture: number;
  readonly x: number;
  readonly y: number;
  readonly widthPt: number;
  readonly heightPt: number;
}
export type TextRole = 'title' | 'head' | 'label' | 'small';
export interface PlacedText {
  readonly text: string;
  readonly role: TextRole;
  readonly x: number;
  /** Of its baseline. */
  readonly y: number;
}
export interface LaidOutPage {
  readonly widthPt: number;
  readonly heightPt: number;
  readonly pictures: readonly PlacedPicture[];
  readonly texts: readonly PlacedText[];
}
/** Width of a text, points. */
export type Measure = (text: string, role: TextRole) => number;

export const TEXT_SIZES_PT: Readonly<Record<TextRole, number>> = { title: 15, head: 9, label: 7.5, small: 6.5 };
const MARGIN = 32;
const GAP = 10;
const ROW_HEAD = 84;
const LINE = 9.6;
const TITLE_HEIGHT = 26;
const HEAD_LINE = 11;
const HEADS_GAP = 6;
const MOST_COLUMN_HEAD_LINES = 2;
const HEADS_ROOM = MOST_COLUMN_HEAD_LINES * HEAD_LINE + HEADS_GAP;
const MOST_ROW_HEAD_LINES = 5;
const FOOT = 16;
/** Narrower pictures say nothing: further columns go to pages of their own. */
const LEAST_CELL = 64;

export function layOut(content: SheetContent, page: SheetPage, measure: Measure): LaidOutPage[] {
  const columns = Math.max(1, ...content.rows.map((r) => r.pictures.length));
  const left = MARGIN + (content.rows.some((r) => r.head !== null) ? ROW_HEAD : 0);
  const room = page.widthPt - MARGIN - left;
  const fitting = Math.max(1, Math.floor((room + GAP) / (LEAST_CELL + GAP)));
  const groups = Math.ceil(columns / fitting);
  const each = Math.ceil(columns / groups);
  const pages: Page[] = [];
  for (let first = 0; first < columns; first += each) {
    const grid: Grid = { left, first, count: Math.min(each, columns - first), cell: (room - (each - 1) * GAP) / each };
    pages.push(...pagesOf(content, page, grid, measure));
  }
  return pages.map((p, i) => p.finished(i, pages.length, measure));
}

interface Grid {
  readonly left: number;
  /** Columns from here on. */
  readonly first: number;
  readonly count: number;
  /** Width of one. */
  readonly cell: number;
}

function pagesOf(content: SheetContent, page: SheetPage, grid: Grid, measure: Measure): Page[] {
  const bottom = page.heightPt === null ? Infinity : page.heightPt - MARGIN - FOOT;
  const pages: Page[] = [];
  let now: Page | undefined;
  for (const row of content.rows) {
    const shown = row.pictures.slice(grid.first, grid.first + grid.count);
    const height = rowHeight(content, shown, grid, bottom - MARGIN - TITLE_HEIGHT - HEADS_ROOM);
    // a row that is taller than a page stands on one of its own
    if (!now || (now.y + height.whole > bottom && now.hasRows)) {
      now = new Page(page, content, grid, measure);
      pages.push(now);
    }
    now.addRow(row.head, shown, height);
  }
  return pages.length ? pages : [new Page(page, content, grid, measure)];
}

interface RowHeight {
  readonly picture: number;
  readonly whole: number;
}
function rowHeight(
  { pictures }: SheetContent,
  shown: readonly (number | null)[],
  { cell }: Grid,
  most: number,
): RowHeight {
  const of = shown.flatMap((i) => (i === null ? [] : [pictures[i]!]));
  const lines = Math.max(0, ...of.map((p) => p.label.length));
  const words = lines ? 4 + lines * LINE : 0;
  // an upright picture among wide ones does not make its row taller than a square
  const tallest = Math.max(0.2, ...of.map((p) => Math.min(1 / p.aspect, 1)));
  const picture = Math.max(24, Math.min(cell * tallest, most - words));
  return { picture, whole: picture + words };
}

class Page {
  y: number;
  hasRows = false;
  private readonly pictures: PlacedPicture[] = [];
  private readonly texts: PlacedText[] = [];

  constructor(
    private readonly page: SheetPage,
    private readonly content: SheetContent,
    private readonly grid: Grid,
    private readonly measure: Measure,
  ) {
    this.y = MARGIN;
    const { title, columnHeads } = content;
    if (title) this.put(title, 'title', MARGIN, MARGIN + TEXT_SIZES_PT.title, page.widthPt - 2 * MARGIN);
    if (title) this.y += TITLE_HEIGHT;
    const heads = columnHeads.slice(grid.first, grid.first + grid.count);
    const lines = heads.map((head) => wrapped(head, 'head', grid.cell, MOST_COLUMN_HEAD_LINES, measure));
    const tallest = Math.max(0, ...lines.map((l) => l.length));
    // they stand on the pictures below them
    lines.forEach((own, i) => this.putLines(own, this.leftOf(i), this.y + (tallest - own.length) * HEAD_LINE));
    if (tallest) this.y += tallest * HEAD_LINE + HEADS_GAP;
  }
  private leftOf(column: number): number {
    return this.grid.left + column * (this.grid.cell + GAP);
  }
  private put(text: string, role: TextRole, x: number, y: number, room: number): void {
    this.texts.push({ text: shortened(text, role, room, this.measure), role, x, y });
  }

  private putLines(lines: readonly string[], x: number, y: number): void {
    lines.forEach((text, i) => this.texts.push({ text, role: 'head', x, y: y + TEXT_SIZES_PT.head + i * HEAD_LINE }));
  }

  addRow(head: string | null, shown: readonly (number | null)[], height: RowHeight): void {
    const { y } = this;
    if (head !== null) {
      const most = Math.max(1, Math.min(MOST_ROW_HEAD_LINES, Math.floor(height.whole / HEAD_LINE)));
      this.putLines(wrapped(head, 'head', ROW_HEAD - GAP, most, this.measure), MARGIN, y);
    }
    shown.forEach((picture, column) => {
      if (picture === null) return;
      const { aspect, label } = this.content.pictures[picture]!;
      const widthPt = Math.min(this.grid.cell, height.picture * aspect);
      const heightPt = widthPt / aspect;
      const x = this.leftOf(column);
      this.pictures.push({ picture, x, y: y + height.picture - heightPt, widthPt, heightPt });
      label.forEach((line, i) => {
        const baseline = y + height.picture + 3 + (i + 1) * LINE - 1.6;
        this.put(line, i === 0 ? 'label' : 'small', x, baseline, this.grid.cell);
      });
    });
    this.y += height.whole + GAP;
    this.hasRows = true;
  }

  finished(index: number, of: number, measure: Measure): LaidOutPage {
    const { widthPt, heightPt } = this.page;
    const height = heightPt ?? this.y - GAP + MARGIN + (of > 1 ? FOOT : 0);
    if (of > 1) {
      const text = `${index + 1} of ${of}`;
      this.texts.push({ text, role: 'small', x: widthPt - MARGIN - measure(text, 'small'), y: height - MARGIN });
    }
    return { widthPt, heightPt: height, pictures: this.pictures, texts: this.texts };
  }
}

/** In lines, broken between words; the last is shortened where there would be more. */
export function wrapped(text: string, role: TextRole, room: number, most: number, measure: Measure): string[] {
  const lines: string[] = [];
  for (const word of text.split(/\s+/).filter(Boolean)) {
    const last = lines.at(-1);
    const longer = last === undefined ? word : `${last} ${word}`;
    if (last !== undefined && (measure(longer, role) <= room || lines.length === most))
      lines[lines.length - 1] = longer;
    else lines.push(word);
  }
  return lines.map((line) => shortened(line, role, room, measure));
}

/** With “…” where there is no room for all of it. */
export function shortened(text: string, role: TextRole, room: number, measure: Measure): string {
  if (measure(text, role) <= room) return text;
  const letters = [...text];
  let [fits, tooMany] = [0, letters.length];
  while (tooMany - fits > 1) {
    const middle = (fits + tooMany) >> 1;
    if (measure(`${letters.slice(0, middle).join('').trimEnd()}…`, role) <= room) fits = middle;
    else tooMany = middle;
  }
  return `${letters.slice(0, fits).join('').trimEnd()}…`;
}
