import { NumberInput } from '@mantine/core';

interface Props { label: string; unit: string; value: number | null; min: number; max: number; step?: number; decimals?: number; disabled?: boolean; /** One of several side by side. */ tight?: boolean; /** Shown where there is no value. */ empty?: string; onChange: (v: number) => void; /** Emptied by the user, where that means something. */ onEmpty?: () => void }

/** Takes a number when it is left or Enter is pressed; arrows step it. Out of range it goes to the nearest end. */
export function NumberField({ label, unit, value, min, max, step = 1, decimals = 5, disabled = false, tight = false, empty = '', onChange, onEmpty }: Props) {
  const commit = (text: string) => {
    const v = Number.parseFloat(text);
    if (Number.isFinite(v)) { const next = Math.min(max, Math.max(min, v)); if (value === null || Math.abs(next - value) > 1e-9 * Math.max(1, Math.abs(value)) ) onChange(next); } else if (text.trim() === '' && value !== null) onEmpty?.();
  };
  return (
    <NumberInput key={String(value)} size="xs" aria-label={label} defaultValue={value === null ? '' : Number(value.toPrecision(6))} placeholder={empty} min={min} max={max} step={step} decimalScale={decimals} suffix={unit ? ` ${unit}` : ''} hideControls clampBehavior="blur" disabled={disabled} styles={{ input: { textAlign: 'right', fontFamily: 'var(--mono)', ...(tight && { paddingInline: 4, fontSize: 11 }) } }}
      onBlur={(e) => commit(e.currentTarget.value)} onKeyDown={(e) => { if (e.key === 'Enter') commit(e.currentTarget.value); if (e.key === 'Escape') e.currentTarget.blur(); }} />
  );
}
