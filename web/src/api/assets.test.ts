import { afterEach, describe, expect, it, vi } from 'vitest';
import { asset } from './assets.ts';

/** Answers as the server does, in pieces that end anywhere; counts the answers. */
function serve(contents: Readonly<Record<string, string>>, pieceBytes: number, cutAt = Infinity): { answers: number } {
  const count = { answers: 0 };
  vi.stubGlobal('fetch', (url: string) => {
    count.answers++;
    const hashes = new URL(url, 'http://here').searchParams.get('hashes')!.split(',');
    if (hashes.some((h) => contents[h] === undefined)) return Promise.resolve(new Response('{}', { status: 404 }));
    const all = hashes
      .flatMap((h) => {
        const bytes = new TextEncoder().encode(contents[h]);
        const length = new Uint8Array(4);
        new DataView(length.buffer).setUint32(0, bytes.length, true);
        return [...length, ...bytes];
      })
      .slice(0, cutAt);
    return Promise.resolve(
      new Response(
        new ReadableStream({
          start(c) {
            for (let i = 0; i < all.length; i += pieceBytes) c.enqueue(Uint8Array.from(all.slice(i, i + pieceBytes)));
            c.close();
          },
        }),
      ),
    );
  });
  return count;
}
const text = async (hash: string) => new TextDecoder().decode(await asset(hash));
afterEach(() => vi.unstubAllGlobals());

describe('content by its hash', () => {
  it.each([1, 3, 4, 7, 1000])('comes whole and apart, in pieces of %i bytes', async (piece) => {
    serve({ a: 'a kettle', b: '', c: 'three cups and a tray' }, piece);
    expect(await Promise.all(['a', 'b', 'c', 'a'].map(text))).toEqual([
      'a kettle',
      '',
      'three cups and a tray',
      'a kettle',
    ]);
  });
  it('comes in few answers, however much is asked for at the same time', async () => {
    const names = Array.from({ length: 350 }, (_, i) => `h${i}`);
    const count = serve(Object.fromEntries(names.map((n) => [n, `mesh ${n}`])), 64);
    expect(await Promise.all(names.map(text))).toEqual(names.map((n) => `mesh ${n}`));
    expect(count.answers).toBe(4);
  });
  it('fails by what is missing, and the next one works', async () => {
    serve({ a: 'a kettle' }, 8);
    await expect(text('lost')).rejects.toThrow('missing on the server');
    expect(await text('a')).toBe('a kettle');
  });
  it('gives what arrived before an answer was cut, and fails the rest', async () => {
    serve({ a: 'a kettle', b: 'a tray' }, 5, 15);
    const [a, b] = await Promise.allSettled([text('a'), text('b')]);
    expect(a).toMatchObject({ status: 'fulfilled', value: 'a kettle' });
    expect(b).toMatchObject({ status: 'rejected', reason: { message: 'The server ended its answer too early.' } });
  });
});
