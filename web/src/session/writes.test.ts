import { describe, expect, it } from 'vitest';
import { beginWrite, readSettled } from './writes.ts';

/** A server whose value is written after a while, and read at once. */
describe('a project that is asked for', () => {
  it('while something of it is being written comes with it', async () => {
    let value = 'old';
    const end = beginWrite('a');
    const read = readSettled('a', () => Promise.resolve(value));
    value = 'new';
    end();
    expect(await read).toBe('new');
  });
  it('and changed before the answer is there is asked for again', async () => {
    let value = 'old';
    let asked = 0;
    let answer = () => {};
    const read = readSettled('b', () => {
      asked++;
      const now = value;
      return asked > 1
        ? Promise.resolve(now)
        : new Promise<string>((go) => {
            answer = () => go(now);
          });
    });
    const end = beginWrite('b');
    value = 'new';
    answer();
    await new Promise((go) => setTimeout(go));
    end();
    expect([await read, asked]).toEqual(['new', 2]);
  });
  it('does not wait for another project, nor twice for one write that ends twice', async () => {
    beginWrite('c');
    const first = beginWrite('d');
    const second = beginWrite('d');
    first();
    first();
    let came = false;
    const read = readSettled('d', () => Promise.resolve(1)).then(() => {
      came = true;
    });
    await new Promise((go) => setTimeout(go));
    expect(came).toBe(false);
    second();
    await read;
    expect(await readSettled('e', () => Promise.resolve(2))).toBe(2);
  });
  it('and no longer wanted stops waiting', async () => {
    const stop = new AbortController();
    const end = beginWrite('f');
    const read = readSettled('f', () => Promise.resolve(1), stop.signal);
    stop.abort();
    end();
    await expect(read).rejects.toThrow();
  });
});
