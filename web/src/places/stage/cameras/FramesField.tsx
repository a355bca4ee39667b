// Which frames of an animated scene a camera renders, as text: “1-40, 60”. Empty: one picture.
import { TextInput } from '@mantine/core';
import { type FrameRange, framesIn, readRanges, sayRanges } from '@variscen/core/scene';
import { useState } from 'react';
import { plural } from '../../../ui/format.ts';
import { Line } from './CameraPart.tsx';

interface Props {
  readonly label: string;
  /** undefined: the cameras differ. */
  readonly value: readonly FrameRange[] | null | undefined;
  readonly onChange: (ranges: FrameRange[] | null) => void;
}

export function FramesField({ label, value, onChange }: Props) {
  const said = value ? sayRanges(value) : '';
  const [typed, setTyped] = useState<string | null>(null);
  const text = typed ?? said;
  const read = text.trim() === '' ? null : readRanges(text);
  const fault = typed !== null && typeof read === 'string' ? read : undefined;
  const keep = () => {
    if (typed === null || typeof read === 'string') return;
    setTyped(null);
    if ((read ? sayRanges(read) : '') !== said || value === undefined) onChange(read);
  };
  const ranges = typeof read === 'string' ? null : read;
  return (
    <Line label="Frames">
      <TextInput
        size="xs"
        aria-label={label}
        classNames={{ input: 'mono' }}
        spellCheck={false}
        placeholder={value === undefined ? 'mixed' : 'one picture'}
        title="For example 1-40, 60 or 100-200 by 5"
        value={text}
        error={fault}
        onChange={(e) => setTyped(e.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === 'Enter') keep();
          if (e.key === 'Escape') setTyped(null);
        }}
      />
      {ranges && <span className="dim">{plural(framesIn(ranges).length, 'picture')} of each look</span>}
    </Line>
  );
}
