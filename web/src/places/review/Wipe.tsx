// A line between two pictures that lie over each other.
import { type KeyboardEvent, type PointerEvent, type RefObject, useLayoutEffect, useState } from 'react';
import styles from './PictureStage.module.css';

const STEP = 0.02;

/** @param frame that both pictures are in: how far the upper one goes is its --wipe, so that neither is drawn anew */
export function WipeLine({ frame }: { frame: RefObject<HTMLElement | null> }) {
  const [share, setShare] = useState(0.5);
  const set = (to: number) => setShare(Math.min(1, Math.max(0, to)));
  useLayoutEffect(() => frame.current?.style.setProperty('--wipe', `${share * 100}%`), [frame, share]);
  const onMove = (e: PointerEvent<HTMLDivElement>) => {
    const box = frame.current?.getBoundingClientRect();
    if (box && e.currentTarget.hasPointerCapture(e.pointerId)) set((e.clientX - box.left) / box.width);
  };
  const onKey = (e: KeyboardEvent) => {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP, Home: -1, End: 1 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    set(share + by);
  };
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label="Line between the two pictures"
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      tabIndex={0}
      className={styles.line}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={onMove}
      onKeyDown={onKey}
    />
  );
}
