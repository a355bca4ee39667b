// What was done lately, day by day, with many edits in a row folded.
import type { Lately } from '@variscen/contract';
import dayjs from 'dayjs';

/** Of more edits in a row than the second, as many as the first are shown. */
const SHOWN_IN_A_ROW = 3;
const MOST_IN_A_ROW = 4;

export type LatelyLine =
  | { readonly kind: 'done'; readonly done: Lately }
  /** Edits that are folded. */
  | { readonly kind: 'more'; readonly edits: readonly Lately[] };
export interface LatelyDay {
  /** “Today”, “Yesterday”, “27 Nov 2026”. */
  readonly name: string;
  readonly lines: readonly LatelyLine[];
}

/** @param list the latest first */
export function latelyDays(list: readonly Lately[], now: Date): LatelyDay[] {
  const days: { name: string; of: Lately[] }[] = [];
  for (const done of list) {
    const name = dayName(done.at, now);
    const last = days.at(-1);
    if (last?.name === name) last.of.push(done);
    else days.push({ name, of: [done] });
  }
  return days.map(({ name, of }) => ({ name, lines: folded(of) }));
}

function dayName(at: string, now: Date): string {
  const day = dayjs(at);
  if (day.isSame(now, 'day')) return 'Today';
  if (day.isSame(dayjs(now).subtract(1, 'day'), 'day')) return 'Yesterday';
  return day.format('D MMM YYYY');
}

function folded(list: readonly Lately[]): LatelyLine[] {
  const lines: LatelyLine[] = [];
  for (let from = 0; from < list.length;) {
    const end = endOfEdits(list, from);
    const shown = end - from > MOST_IN_A_ROW ? from + SHOWN_IN_A_ROW : Math.max(end, from + 1);
    lines.push(...list.slice(from, shown).map((done) => ({ kind: 'done', done }) as const));
    if (shown < end) lines.push({ kind: 'more', edits: list.slice(shown, end) });
    from = Math.max(end, shown);
  }
  return lines;
}
function endOfEdits(list: readonly Lately[], from: number): number {
  let end = from;
  while (list[end]?.kind === 'edit') end++;
  return end;
}
