// The pictures that are gone through, small, side by side.
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';
import { pathOf } from '../../api/client.ts';
import type { Listed } from '../../model/review/strip.ts';
import { version } from '../../ui/format.ts';
import styles from './Strip.module.css';
import { NoteMark, VERDICT_WORDS, VerdictMark, hasNote } from '../../ui/VerdictMark.tsx';
import type { ReviewState } from './useReview.ts';

const WIDTH_PX = 116;

export function Strip({ review }: { review: ReviewState }) {
  const { entries, current, heldIds, look } = review;
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    horizontal: true,
    count: entries.length,
    getScrollElement: () => box.current,
    estimateSize: () => WIDTH_PX,
    overscan: 6,
  });
  const at = entries.findIndex((l) => l === current);
  useEffect(() => {
    if (at >= 0) list.scrollToIndex(at, { align: 'auto' });
  }, [at, list]);
  return (
    <div
      ref={box}
      role="listbox"
      aria-label="Pictures"
      aria-orientation="horizontal"
      aria-activedescendant={current && `picture-${current.rendered.id}`}
      tabIndex={0}
      className={styles.strip}
    >
      <div className={styles.all} style={{ width: list.getTotalSize() }}>
        {list.getVirtualItems().map(({ index, start }) => {
          const entry = entries[index]!;
          return (
            <Entry
              key={entry.rendered.id}
              entry={entry}
              startPx={start}
              isCurrent={entry === current}
              isHeld={heldIds.includes(entry.rendered.id)}
              onLook={() => look(entry.rendered.id)}
            />
          );
        })}
      </div>
    </div>
  );
}

interface EntryProps {
  readonly entry: Listed;
  readonly startPx: number;
  readonly isCurrent: boolean;
  readonly isHeld: boolean;
  readonly onLook: () => void;
}
function Entry({ entry, startPx, isCurrent, isHeld, onLook }: EntryProps) {
  const { rendered, camera, variant, review } = entry;
  const name = `${camera.name} in ${variant.name}, ${version(rendered.version)}`;
  const said = [review?.verdict && VERDICT_WORDS[review.verdict], hasNote(review) && 'with a note', isHeld && 'held'];
  return (
    <div
      role="option"
      id={`picture-${rendered.id}`}
      aria-selected={isCurrent}
      aria-label={[name, ...said].filter(Boolean).join(', ')}
      title={name}
      className={styles.entry}
      data-current={isCurrent}
      style={{ left: startPx }}
      onClick={onLook}
    >
      <span className={styles.print}>
        <img src={pathOf('renderFile', { renderId: rendered.id, kind: 'thumbnail' })} alt="" draggable={false} />
        <span className={styles.marks}>
          {review?.verdict && <VerdictMark verdict={review.verdict} />}
          {hasNote(review) && <NoteMark />}
        </span>
        {isHeld && <span className={styles.held}>held</span>}
      </span>
      <span className={styles.words}>
        <span className="ellipsis">{variant.name}</span>
        <span className="mono faint">{version(rendered.version)}</span>
      </span>
      <span className={`ellipsis dim ${styles.camera}`}>
        {camera.name}
        {rendered.frame !== null && `, frame ${rendered.frame}`}
      </span>
    </div>
  );
}
