import { MantineProvider } from '@mantine/core';
import { act, fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { describe, expect, it, vi } from 'vitest';
import '../testing.tsx';
import { DragLabel } from './DragLabel.tsx';
import { NumberField } from './NumberField.tsx';
import { GestureContext } from './gesture.ts';

/** A number with its label as a row shows them; what was set, and how gestures ended. */
function shown(start: number | null = 0.5) {
  const set: number[] = [];
  const ended: string[] = [];
  function Row() {
    const [value, setValue] = useState(start);
    const [before, setBefore] = useState<number | null>(null);
    const change = (v: number) => {
      set.push(v);
      setValue(v);
    };
    const begin = () => {
      setBefore(value);
      return {
        end: () => void ended.push('kept'),
        cancel: () => {
          ended.push('given back');
          setValue(before ?? start);
        },
      };
    };
    const range = { min: 0, max: 1, step: 0.01 };
    return (
      <MantineProvider env="test">
        <GestureContext value={begin}>
          <DragLabel value={value} range={range} onChange={change}>
            Roughness
          </DragLabel>
          <NumberField label="Bowl, Roughness" unit="" value={value} {...range} onChange={change} />
          <button type="button">elsewhere</button>
        </GestureContext>
      </MantineProvider>
    );
  }
  render(<Row />);
  return { set, ended, field: screen.getByRole<HTMLInputElement>('textbox', { name: 'Bowl, Roughness' }) };
}

describe('a number', () => {
  it('is taken with Enter, and the field keeps the focus', async () => {
    const { set, field } = shown();
    const user = userEvent.setup();
    await user.click(field);
    await user.keyboard('0,25{Enter}');
    expect(set).toEqual([0.25]);
    expect(document.activeElement).toBe(field);
    await user.keyboard('{Enter}');
    expect(set).toEqual([0.25]); // the same again is no edit
  });

  it('goes to the nearest end of its range, and Escape gives the old one back', async () => {
    const { set, field } = shown();
    const user = userEvent.setup();
    await user.click(field);
    await user.keyboard('7{Enter}');
    expect(set).toEqual([1]);
    await user.keyboard('0.1{Escape}');
    expect(set).toEqual([1]);
    expect(field.value).toBe('1');
  });

  it('that is none is refused where it stands, with a word; leaving the field gives the old one back', async () => {
    const { set, field } = shown();
    const user = userEvent.setup();
    await user.click(field);
    await user.keyboard('shiny{Enter}');
    expect(field.getAttribute('aria-invalid')).toBe('true');
    expect(field.value).toBe('shiny');
    expect(field.title).toContain('“shiny” is no number');
    await user.click(screen.getByText('elsewhere'));
    expect([set, field.value, field.title]).toEqual([[], '0.5', '']);
  });

  it('is stepped by arrow keys and, with the focus only, by the wheel; what follows soon is one edit', async () => {
    const { set, ended, field } = shown();
    fireEvent.wheel(field, { deltaY: -100 });
    expect(set).toEqual([]);
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    act(() => field.focus());
    for (let k = 0; k < 3; k++) fireEvent.wheel(field, { deltaY: -100 });
    fireEvent.keyDown(field, { key: 'ArrowDown', shiftKey: true });
    expect(set).toEqual([0.51, 0.52, 0.53, 0.43]);
    expect(ended).toEqual([]);
    act(() => void vi.advanceTimersByTime(600));
    expect(ended).toEqual(['kept']);
    fireEvent.keyDown(field, { key: 'ArrowUp' });
    fireEvent.keyDown(field, { key: 'Escape' });
    expect(ended).toEqual(['kept', 'given back']);
    vi.useRealTimers();
  });
});

describe('arrow keys over a typed number', () => {
  it('step what was typed, as one edit', async () => {
    const { set, field } = shown();
    const user = userEvent.setup();
    await user.click(field);
    await user.keyboard('0.2{ArrowUp}{ArrowUp}');
    expect(set).toEqual([0.21, 0.22]);
    expect(field.value).toBe('0.22');
  });
});

describe('the label of a number', () => {
  const label = () => screen.getByText('Roughness');
  const press = (clientX: number) => fireEvent.pointerDown(label(), { button: 0, clientX, pointerId: 1 });
  const moveTo = (clientX: number, shiftKey = false) => fireEvent.pointerMove(label(), { clientX, shiftKey });

  it('is dragged: to the right it grows, with Shift in finer steps, and all of it is one edit', () => {
    const { set, ended, field } = shown();
    press(100);
    moveTo(110);
    moveTo(120);
    moveTo(130, true);
    fireEvent.pointerUp(label());
    expect(set.at(-1)).toBeCloseTo(0.71, 6);
    expect(field.value).toBe('0.71');
    expect(ended).toEqual(['kept']);
  });

  it('gives the old value back with Escape, and a click changes nothing', () => {
    const { set, ended, field } = shown();
    press(100);
    moveTo(160);
    expect(field.value).toBe('1');
    fireEvent.keyDown(window, { key: 'Escape' });
    expect(ended).toEqual(['given back']);
    expect(field.value).toBe('0.5');
    moveTo(190);
    fireEvent.pointerUp(label());
    const before = set.length;
    press(100);
    fireEvent.pointerUp(label());
    expect([set.length, ended]).toEqual([before, ['given back']]);
  });

  it('of several that differ is not dragged', () => {
    const { set } = shown(null);
    press(100);
    moveTo(160);
    fireEvent.pointerUp(label());
    expect(set).toEqual([]);
  });
});
