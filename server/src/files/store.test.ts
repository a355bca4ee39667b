import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AssetStore, sha256 } from './store.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'variscen-store-'));
});
afterAll(async () => {
  await rm(folder, { recursive: true, force: true });
});
const bytes = (s: string) => new TextEncoder().encode(s);

describe('assets', () => {
  it('are kept once under the hash of their bytes, and nothing half-written stays', async () => {
    const store = new AssetStore(join(folder, 'assets'));
    const [a, b] = await Promise.all([store.put(bytes('kettle')), store.put(bytes('kettle'))]);
    expect([a, b]).toEqual([sha256(bytes('kettle')), a]);
    expect(new TextDecoder().decode(await store.get(a))).toBe('kettle');
    expect(await readdir(join(folder, 'assets', a.slice(0, 2)))).toEqual([a]);
  });
  it('that are missing, or asked for by something that is no hash, are refused', async () => {
    const store = new AssetStore(join(folder, 'assets'));
    await expect(store.get('0'.repeat(64))).rejects.toMatchObject({ code: 'DAMAGED' });
    expect(() => store.path('../../etc/passwd')).toThrow(/not a content hash/);
  });
});
