// The label of a number: dragged to the right it grows, to the left it shrinks; with Shift in finer steps.
import { type PointerEvent, type ReactNode, useEffect, useRef, useState } from 'react';
import styles from './DragLabel.module.css';
import type { NumberRange } from './numberSteps.ts';
import { useHandedNumber } from './useHandedNumber.ts';

/** A press that moves less is a click. */
const CLICK_PX = 3;
const FINE = 0.1;

interface Props {
  value: number | null;
  range: NumberRange;
  disabled?: boolean;
  title?: string;
  className?: string | undefined;
  onChange: (v: number) => void;
  children: ReactNode;
}
export function DragLabel({ value, range, disabled = false, title, className, onChange, children }: Props) {
  const hand = useHandedNumber(value, range, onChange);
  const drag = useRef<{ atPx: number; steps: number; isMoving: boolean } | null>(null);
  const [isDragging, setDragging] = useState(false);
  const able = !disabled && value !== null;
  const stop = () => {
    drag.current = null;
    setDragging(false);
  };
  useEffect(() => {
    if (!isDragging) return;
    const giveBack = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return;
      e.preventDefault();
      e.stopPropagation();
      hand.cancel();
      stop();
    };
    window.addEventListener('keydown', giveBack, { capture: true });
    return () => window.removeEventListener('keydown', giveBack, { capture: true });
  });
  const down = (e: PointerEvent<HTMLElement>) => {
    if (!able || e.button !== 0) return;
    e.currentTarget.setPointerCapture?.(e.pointerId);
    drag.current = { atPx: e.clientX, steps: 0, isMoving: false };
  };
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const px = e.clientX - d.atPx;
    if (!d.isMoving && Math.abs(px) < CLICK_PX) return;
    if (!d.isMoving) setDragging(true);
    d.isMoving = true;
    d.atPx = e.clientX;
    d.steps += px * (e.shiftKey ? FINE : 1);
    hand.dragTo(d.steps);
  };
  const up = () => {
    if (drag.current?.isMoving) hand.end();
    stop();
  };
  return (
    <span
      className={`${styles.label} ${className ?? ''}`}
      data-able={able}
      data-dragging={isDragging}
      title={title}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
    >
      {children}
    </span>
  );
}
