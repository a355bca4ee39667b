import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AssetStore, OutputFolder, sha256 } from './store.ts';

let folder: string;
beforeAll(async () => { folder = await mkdtemp(join(tmpdir(), 'variscen-store-')); });
afterAll(async () => { await rm(folder, { recursive: true, force: true }); });
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
    await expect(store.get('0'.repeat(64))).rejects.toMatchObject({ code: 'NOT_FOUND' });
    expect(() => store.path('../../etc/passwd')).toThrow(/not a content hash/);
  });
});

describe('output', () => {
  it('never leaves its folder', () => {
    const output = new OutputFolder(join(folder, 'output'));
    for (const path of ['../x', '/etc/passwd', 'a/../../x', '..']) expect(() => output.resolve(path)).toThrow(/leads out/);
    expect(output.resolve('stall/front_v001.exr')).toBe(join(folder, 'output/stall/front_v001.exr'));
  });
  it('is published whole from where it was put aside', async () => {
    const output = new OutputFolder(join(folder, 'output'));
    await output.putAside('trace', 'try', '0.png', bytes('picture'));
    expect(output.exists('stall/front.png')).toBe(false);
    expect(await output.publish('trace', 'try', '0.png', 'stall/front.png')).toBe(7);
    expect(await readFile(join(folder, 'output/stall/front.png'), 'utf8')).toBe('picture');
    expect(await output.has('trace', 'try', '0.png')).toBe(false);
    await output.dropAside('trace');
    expect(await readdir(join(folder, 'output/.unfinished'))).toEqual([]);
  });
});
