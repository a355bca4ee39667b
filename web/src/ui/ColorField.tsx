// A colour, as people pick and type it.
import { ColorInput } from '@mantine/core';
import { encodeSrgb } from '@variscen/core/image';
import type { Rgb } from '@variscen/core/scene';
import { useEffect, useState } from 'react';

/** Of linear light, 0…1; brighter is shown as 1. */
export const toHex = (c: Rgb): string =>
  `#${c
    .map((x) =>
      Math.round(encodeSrgb(Math.min(1, Math.max(0, x))) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
/** In linear light. */
export const fromHex = (hex: string): Rgb =>
  [1, 3, 5].map((i) => {
    const x = parseInt(hex.slice(i, i + 2), 16) / 255;
    return Number((x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4).toFixed(5));
  }) as unknown as Rgb;

/** Takes a colour when picking ends, when it is left, or Enter is pressed. */
interface Props {
  readonly label: string;
  /** As #rrggbb; empty where several differ. */
  readonly value: string;
  readonly onChange: (hex: string) => void;
}
export function ColorField({ label, value, onChange }: Props) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const commit = (v: string) => {
    if (/^#[0-9a-f]{6}$/i.test(v) && v.toLowerCase() !== value) onChange(v.toLowerCase());
  };
  return (
    <ColorInput
      size="xs"
      aria-label={label}
      placeholder="mixed"
      format="hex"
      withEyeDropper={false}
      value={text}
      onChange={setText}
      onChangeEnd={commit}
      onBlur={() => commit(text)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') commit(text);
      }}
    />
  );
}
