// What somebody has said of a picture, by its shape: a tick, a cross, a pencil line; colour only repeats it.
import type { Review, Verdict } from '@variscen/contract';

export const VERDICT_WORDS: Readonly<Record<Verdict, string>> = { approved: 'Approved', rejected: 'Rejected' };

export function VerdictMark({ verdict }: { verdict: Verdict }) {
  return (
    <svg
      width="12"
      height="12"
      viewBox="0 0 12 12"
      role="img"
      aria-label={VERDICT_WORDS[verdict]}
      className="glyph"
      fill="none"
    >
      {verdict === 'approved' ? (
        <path d="M1.8 6.6 4.8 9.6 10.4 2.6" stroke="var(--go)" strokeWidth="2" />
      ) : (
        <path d="M6 1.2 10.8 6 6 10.8 1.2 6zM3.6 6h4.8" stroke="var(--bad)" strokeWidth="1.5" />
      )}
    </svg>
  );
}
export function NoteMark() {
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" role="img" aria-label="With a note" className="glyph" fill="none">
      <path d="M1.5 9.5c2-3 2.6 1 4.6-1.6S9 8.6 10.6 5.6" stroke="#ededed" strokeWidth="1.5" />
    </svg>
  );
}
export const hasNote = (review: Review | null): boolean =>
  review !== null && (review.note !== '' || review.marks.length > 0);
