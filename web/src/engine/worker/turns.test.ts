import { describe, expect, it } from 'vitest';
import { Turns } from './turns.ts';

const settle = () => new Promise((r) => setTimeout(r, 0));

describe('turns', () => {
  it('are taken by one at a time, the most urgent first, equals as they came', async () => {
    const turns = new Turns();
    const said: string[] = [];
    const take = async (name: string, urgency: number) => {
      const turn = await turns.take(urgency);
      said.push(name);
      await settle();
      turn.end();
    };
    await Promise.all([take('first', 0), take('low', 1), take('high', 3), take('low too', 1), take('mid', 2)]);
    expect(said).toEqual(['first', 'high', 'mid', 'low', 'low too']);
  });

  it('are given away when somebody more urgent waits, and come back', async () => {
    const turns = new Turns();
    const said: string[] = [];
    const long = await turns.take(1);
    expect(long.wanted.aborted).toBe(false);
    const quick = turns.take(2).then((t) => {
      said.push('quick');
      t.end();
    });
    await settle();
    expect(long.wanted.aborted).toBe(true);
    await long.give();
    said.push('long again');
    expect(long.wanted.aborted).toBe(false);
    await quick;
    expect(said).toEqual(['quick', 'long again']);
    long.end();
  });

  it('are wanted when the holder has become less urgent than one that waits, not by its equals', async () => {
    const turns = new Turns();
    const live = await turns.take(3);
    const small = turns.take(1);
    await settle();
    expect(live.wanted.aborted).toBe(false);
    live.urgency = 1;
    expect(live.wanted.aborted).toBe(false);
    live.urgency = 0;
    expect(live.wanted.aborted).toBe(true);
    live.end();
    (await small).end();
  });

  it('are not waited for by who has gone, and nobody slips in between one and the next', async () => {
    const turns = new Turns();
    const first = await turns.take(1);
    const gone = new AbortController();
    const left = turns.take(5, gone.signal);
    const next = turns.take(1);
    gone.abort(new Error('gone'));
    await expect(left).rejects.toThrow('gone');
    first.end();
    let isSlipped = false;
    void turns.take(9).then((t) => {
      isSlipped = true;
      t.end();
    });
    const held = await next;
    expect(isSlipped).toBe(false);
    held.end();
    await settle();
    expect(isSlipped).toBe(true);
  });
});
