import { TextInput } from '@mantine/core';
import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { DragLabel } from './DragLabel.tsx';
import styles from './NumberField.module.css';
import { type NumberRange, clamped, parsedNumber } from './numberSteps.ts';
import { useHandedNumber } from './useHandedNumber.ts';

interface Props {
  label: string;
  unit: string;
  value: number | null;
  min: number;
  max: number;
  step?: number;
  scale?: 'log' | undefined;
  decimals?: number;
  disabled?: boolean;
  /** The letter of an axis or a channel, where several stand side by side; it is dragged as a label is. */
  letter?: string;
  /** Shown where there is no value. */
  empty?: string;
  onChange: (v: number) => void;
  /** Emptied by the user, where that means something. */
  onEmpty?: () => void;
}

const LARGE = 10;
const shownDigits = (v: number): number => Number(v.toPrecision(6));

/**
 * Takes a number when it is left or Enter is pressed, and keeps the focus; arrows and, while it has the focus, the
 * wheel step it, with Shift by ten; Escape gives the old value back. Out of range it goes to the nearest end. What is
 * being typed stays while the value changes elsewhere.
 */
export function NumberField(props: Props) {
  const { label, unit, value, decimals = 5, disabled = false, letter, empty = '', onChange, onEmpty } = props;
  const { min, max, step = 1, scale } = props;
  const range: NumberRange = { min, max, step, scale, decimals };
  const input = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<{ readonly label: string; readonly text: string } | null>(null);
  const [isRefused, setRefused] = useState(false);
  const own = typed?.label === label ? typed.text : null;
  const hand = useHandedNumber(value, range, (v) => {
    setTyped(null);
    onChange(v);
  });
  const forget = () => {
    setTyped(null);
    setRefused(false);
  };
  /** Answers whether what is typed could be taken. */
  const commit = (): boolean => {
    if (own === null) return true;
    const v = parsedNumber(own);
    if (v === undefined && own.trim() !== '') return false;
    forget();
    if (v === undefined) {
      if (value !== null) onEmpty?.();
      return true;
    }
    const next = clamped(v, range);
    if (value === null || Math.abs(next - value) > 1e-9 * Math.max(1, Math.abs(value))) onChange(next);
    return true;
  };
  const selectAgain = () => {
    if (document.activeElement === input.current) input.current?.select();
  };
  const onKey = (e: KeyboardEvent) => {
    const steps = { ArrowUp: 1, ArrowDown: -1 }[e.key];
    if (steps !== undefined) {
      e.preventDefault();
      const typedValue = own === null ? undefined : parsedNumber(own);
      forget();
      hand.nudge(e.shiftKey ? steps * LARGE : steps, typedValue);
    } else if (e.key === 'Enter') {
      hand.end();
      setRefused(!commit());
      if (!e.ctrlKey && !e.metaKey) requestAnimationFrame(selectAgain);
    } else if (e.key === 'Escape') {
      if (hand.cancel() || own !== null) e.stopPropagation();
      forget();
    }
  };
  useEffect(() => {
    const field = input.current!;
    const turn = (e: WheelEvent) => {
      if (document.activeElement !== field || disabled) return;
      e.preventDefault();
      hand.nudge(-Math.sign(e.deltaY) * (e.shiftKey ? LARGE : 1));
    };
    field.addEventListener('wheel', turn, { passive: false });
    return () => field.removeEventListener('wheel', turn);
  });
  const shown = value === null ? '' : `${shownDigits(value)}${unit ? ` ${unit}` : ''}`;
  return (
    <TextInput
      ref={input}
      size="xs"
      aria-label={label}
      error={isRefused}
      inputMode="decimal"
      autoComplete="off"
      spellCheck={false}
      value={own ?? shown}
      placeholder={empty}
      disabled={disabled}
      classNames={{ input: letter === undefined ? styles.input! : styles.tight! }}
      title={isRefused ? `“${own}” is no number. Escape gives the old value back.` : undefined}
      leftSection={
        letter !== undefined && (
          <DragLabel value={value} range={range} disabled={disabled} className={styles.letter} onChange={onChange}>
            {letter}
          </DragLabel>
        )
      }
      leftSectionWidth={letter === undefined ? undefined : 16}
      leftSectionPointerEvents="all"
      onChange={(e) => {
        setTyped({ label, text: e.currentTarget.value });
        setRefused(false);
      }}
      onFocus={(e) => e.currentTarget.select()}
      onBlur={() => {
        hand.end();
        if (!commit()) forget();
      }}
      onKeyDown={onKey}
    />
  );
}
