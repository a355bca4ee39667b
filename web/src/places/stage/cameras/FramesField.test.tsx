import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { FrameRange } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { show } from '../../../testing.tsx';
import { FramesField } from './FramesField.tsx';

function open(value: readonly FrameRange[] | null | undefined) {
  const kept: (readonly FrameRange[] | null)[] = [];
  show(<FramesField label="Front, Frames" value={value} onChange={(ranges) => kept.push(ranges)} />);
  return { kept, field: screen.getByLabelText('Front, Frames'), user: userEvent.setup() };
}

describe('frames of a camera', () => {
  it('are typed as ranges and kept by Enter, or by leaving the field', async () => {
    const { kept, field, user } = open(null);
    await user.type(field, '1-40, 60{Enter}');
    expect(kept).toEqual([
      [
        { first: 1, last: 40, step: 1 },
        { first: 60, last: 60, step: 1 },
      ],
    ]);
    await user.clear(field);
    await user.type(field, '10-20 by 5');
    expect(screen.getByText('3 pictures of each look')).toBeTruthy();
    await user.tab();
    expect(kept[1]).toEqual([{ first: 10, last: 20, step: 5 }]);
  });
  it('that cannot be are said and not kept; Escape gives back what was', async () => {
    const { kept, field, user } = open([{ first: 2, last: 4, step: 1 }]);
    await user.clear(field);
    await user.type(field, '9-3{Enter}');
    expect(screen.getByText(/“9-3” ends before it begins/)).toBeTruthy();
    await user.type(field, '{Escape}');
    expect((field as HTMLInputElement).value).toBe('2-4');
    await user.tab();
    expect(kept).toEqual([]);
  });
  it('are none when the field is emptied, and nothing is kept that is as it was', async () => {
    const { kept, field, user } = open([{ first: 2, last: 4, step: 1 }]);
    await user.type(field, ' {Enter}');
    expect(kept).toEqual([]);
    await user.clear(field);
    await user.type(field, '{Enter}');
    expect(kept).toEqual([null]);
  });
  it('of cameras that differ become one for all', async () => {
    const { kept, field, user } = open(undefined);
    expect((field as HTMLInputElement).placeholder).toBe('mixed');
    await user.type(field, '5{Enter}');
    expect(kept).toEqual([[{ first: 5, last: 5, step: 1 }]]);
  });
});
