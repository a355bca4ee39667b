import { NumberInput } from '@mantine/core';
import { useState } from 'react';

interface Props {
  label: string;
  unit: string;
  value: number | null;
  min: number;
  max: number;
  step?: number;
  decimals?: number;
  disabled?: boolean;
  /** One of several side by side. */
  tight?: boolean;
  /** Shown where there is no value. */
  empty?: string;
  onChange: (v: number) => void;
  /** Emptied by the user, where that means something. */
  onEmpty?: () => void;
}

/**
 * Takes a number when it is left or Enter is pressed; arrows step it, Escape leaves it as it was. Out of range it goes
 * to the nearest end. What is being typed stays while the value changes elsewhere.
 */
export function NumberField({
  label,
  unit,
  value,
  min,
  max,
  step = 1,
  decimals = 5,
  disabled = false,
  tight = false,
  empty = '',
  onChange,
  onEmpty,
}: Props) {
  const [typed, setTyped] = useState<{ readonly label: string; readonly text: string | number } | null>(null);
  const [turn, setTurn] = useState(0);
  const own = typed?.label === label ? typed.text : null;
  // begun anew each time, as the library takes a pasted or inserted number wrongly by where the caret stood the time
  // before
  const end = () => {
    setTyped(null);
    setTurn(turn + 1);
  };
  const commit = () => {
    if (own === null) return;
    end();
    const text = String(own);
    const v = Number.parseFloat(text);
    if (Number.isFinite(v)) {
      const next = Math.min(max, Math.max(min, v));
      if (value === null || Math.abs(next - value) > 1e-9 * Math.max(1, Math.abs(value))) onChange(next);
    } else if (text.trim() === '' && value !== null) onEmpty?.();
  };
  return (
    <NumberInput
      key={`${turn} ${label}`}
      size="xs"
      aria-label={label}
      value={own ?? (value === null ? '' : Number(value.toPrecision(6)))}
      placeholder={empty}
      min={min}
      max={max}
      step={step}
      decimalScale={decimals}
      suffix={unit ? ` ${unit}` : ''}
      hideControls
      clampBehavior="blur"
      disabled={disabled}
      styles={{
        input: { textAlign: 'right', fontFamily: 'var(--mono)', ...(tight && { paddingInline: 4, fontSize: 11 }) },
      }}
      onChange={(text) => setTyped({ label, text })}
      onBlur={commit}
      onKeyDown={(e) => {
        if (e.key === 'Enter') commit();
        else if (e.key === 'Escape') end();
      }}
    />
  );
}
