// What a newer file would do, in a sentence.
import type { MatchPreview } from '@variscen/contract';
import { count, plural } from '../../ui/format.ts';
import styles from './MatchPanel.module.css';

export function MatchSummary({ look }: { look: MatchPreview }) {
  const waiting = look.gone.filter((g) => g.recorded > 0).length;
  return (
    <p className={styles.goOnAs}>
      <b>{plural(look.matched, 'object')}</b> go on as they were
      <Part n={look.moved} before=", " after=" of them moved" />
      <Part n={look.changed} before=", " after=" have another shape or other values" />
      <Part n={look.byName} before="; " after=" were found by their names" />
      <Part n={look.byHand} before="; " after=" by hand" />. <b>{count(look.gone.length)}</b> are gone,{' '}
      <b>{count(look.added.length)}</b> are new.{' '}
      {waiting ? (
        <span className={styles.valuesAreRecorded}>
          Values are recorded for {plural(waiting, 'object')} of those that are gone; they would wait.
        </span>
      ) : (
        'Nothing that is recorded would be left waiting.'
      )}
    </p>
  );
}

function Part({ n, before, after }: { n: number; before: string; after: string }) {
  if (!n) return null;
  return (
    <>
      {before}
      <b>{count(n)}</b>
      {after}
    </>
  );
}
