// A line between two pictures that lie over each other.
import { type KeyboardEvent, type PointerEvent, type RefObject, useRef, useState } from 'react';
import styles from './PictureStage.module.css';

const STEP = 0.02;
export interface WipeState {
  readonly frame: RefObject<HTMLDivElement | null>;
  /** Of the width, from the left. */
  readonly share: number;
  set(share: number): void;
}
export function useWipe(): WipeState {
  const frame = useRef<HTMLDivElement>(null);
  const [share, setShare] = useState(0.5);
  return { frame, share, set: (s) => setShare(Math.min(1, Math.max(0, s))) };
}

export function WipeLine({ wipe }: { wipe: WipeState }) {
  const onMove = (e: PointerEvent<HTMLDivElement>) => {
    const box = wipe.frame.current?.getBoundingClientRect();
    if (box && e.currentTarget.hasPointerCapture(e.pointerId)) wipe.set((e.clientX - box.left) / box.width);
  };
  const onKey = (e: KeyboardEvent) => {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP, Home: -1, End: 1 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    wipe.set(wipe.share + by);
  };
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label="Line between the two pictures"
      aria-valuenow={Math.round(wipe.share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      tabIndex={0}
      className={styles.line}
      style={{ left: `${wipe.share * 100}%` }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={onMove}
      onKeyDown={onKey}
    />
  );
}
