import { mkdir, mkdtemp, readFile, readdir, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { type AsideFile, OutputFolder } from './outputFolder.ts';

let folder: string;
let root: string;
let output: OutputFolder;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'variscen-output-'));
  root = join(folder, 'output');
  await mkdir(root);
  output = new OutputFolder(root);
});
afterEach(() => rm(folder, { recursive: true, force: true }));

const aside: AsideFile = { traceId: 'trace', token: 'try', name: '0.png' };
const put = (text: string, file = aside) => output.putAside(file, Readable.from([Buffer.from(text)]), 1000);
const text = (path: string) => readFile(join(root, path), 'utf8');

describe('output', () => {
  it('never leaves its folder by words', () => {
    for (const path of ['../x', '/etc/passwd', 'a/../../x', '..'])
      expect(() => output.resolve(path)).toThrow(/leads out/);
    expect(output.resolve('stall/front_v001.exr')).toBe(join(root, 'stall/front_v001.exr'));
  });

  it('never leaves its folder by a link, to write or to read', async () => {
    await mkdir(join(folder, 'elsewhere'));
    await symlink(join(folder, 'elsewhere'), join(root, 'stall'));
    await put('picture');
    await expect(output.publish(aside, 'stall/front.png')).rejects.toMatchObject({ code: 'NOT_STORED' });
    expect(await readdir(join(folder, 'elsewhere'))).toEqual([]);
    await symlink('/etc/hostname', join(root, 'name.png'));
    await expect(output.toRead('name.png')).rejects.toMatchObject({ code: 'NOT_STORED' });
  });

  it('is published whole from where it was put aside, and again without harm', async () => {
    await put('picture');
    expect(output.exists('stall/front.png')).toBe(false);
    expect(await output.publish(aside, 'stall/front.png')).toMatchObject({
      bytes: 7,
      sha256: expect.stringMatching(/^[0-9a-f]{64}$/),
    });
    expect(await output.publish(aside, 'stall/front.png')).toMatchObject({
      bytes: 7,
      sha256: expect.stringMatching(/^[0-9a-f]{64}$/),
    });
    expect(await text('stall/front.png')).toBe('picture');
    for (const traceId of ['develop-1', 'develop-2']) await put('left', { ...aside, traceId });
    await output.dropLeftAside('develop-');
    expect(await readdir(join(root, '.unfinished'))).toEqual(['trace']);
    await output.dropAside('trace');
    await output.dropLeftAside('develop-');
    expect(await readdir(join(root, '.unfinished'))).toEqual([]);
    expect(await text('stall/front.png')).toBe('picture');
  });

  it('knows which paths are taken, however their letters are written, and reads no folder that is not there', async () => {
    await put('picture');
    await output.publish(aside, 'Stall/Front_v001.png');
    const paths = ['Stall/front_v001', 'Stall/Front_v002', 'Stall/Front', 'lane/front_v001', 'Front_v001'];
    const files = paths.flatMap((path) => [`${path}.exr`, `${path}.png`]);
    expect([...(await output.lyingAmong(files))]).toEqual(['Stall/front_v001.png']);
    expect([...(await output.lyingAmong(['Stall/Front_v001.png/under.exr']))]).toEqual([]);
  });

  it('may lie below folders that were allowed, and below no other', async () => {
    const allowed = join(folder, 'pictures');
    await mkdir(join(allowed, 'finals'), { recursive: true });
    const both = new OutputFolder(root, [allowed]);
    expect(await both.faultOfFolder('')).toBeNull();
    expect(await both.faultOfFolder('finals/2026')).toBeNull();
    expect(await both.faultOfFolder(join(allowed, 'finals/night'))).toBeNull();
    expect(await both.faultOfFolder(join(folder, 'elsewhere'))).toMatch(/below none that is allowed/);
    expect(await both.faultOfFolder(`${allowed}-too`)).toMatch(/below none that is allowed/);
    await put('picture');
    const path = join(allowed, 'finals/night/front.png');
    const stored = await both.publish(aside, path);
    expect(await readFile(path, 'utf8')).toBe('picture');
    expect(await both.faultOf({ ...stored, path })).toBeNull();
    expect(await both.toRead(path)).toBe(path);
    expect(await output.faultOf({ ...stored, path })).toBe('gone'); // started without that folder
    await expect(both.publish(aside, join(folder, 'elsewhere/front.png'))).rejects.toMatchObject({ code: 'INVALID' });
  });

  it('does not make an allowed folder anew whose disk is gone, nor goes where a file or a link stands in the way', async () => {
    const allowed = join(folder, 'pictures');
    const both = new OutputFolder(root, [allowed]);
    expect(await both.faultOfFolder(allowed)).toMatch(/is not there\. Make it, or connect its disk/);
    await put('picture');
    await expect(both.publish(aside, join(allowed, 'front.png'))).rejects.toMatchObject({ code: 'NOT_STORED' });
    expect(await readdir(folder)).not.toContain('pictures');
    await mkdir(allowed);
    await writeFile(join(allowed, 'file'), 'theirs');
    expect(await both.faultOfFolder(join(allowed, 'file/night'))).toMatch(/is a file/);
    await mkdir(join(folder, 'elsewhere'));
    await symlink(join(folder, 'elsewhere'), join(allowed, 'link'));
    expect(await both.faultOfFolder(join(allowed, 'link'))).toMatch(/leads out of the output folder/);
  });

  it('takes over what an attempt that was cut short has published, byte for byte', async () => {
    await put('picture');
    await output.publish(aside, 'front.png');
    const again = { ...aside, token: 'another try' };
    await put('picture', again);
    expect(await output.publish(again, 'front.png')).toMatchObject({
      bytes: 7,
      sha256: expect.stringMatching(/^[0-9a-f]{64}$/),
    });
  });

  it.each(['other.x', 'something longer'])(
    'never overwrites a file that was put there meanwhile (%s)',
    async (theirs) => {
      await put('picture');
      await writeFile(join(root, 'front.png'), theirs);
      await expect(output.publish(aside, 'front.png')).rejects.toMatchObject({
        code: 'NOT_STORED',
        message: expect.stringMatching(/put there by something else/),
      });
      expect(await text('front.png')).toBe(theirs);
    },
  );

  it('never writes through a link that was put there meanwhile, whether it leads anywhere or not', async () => {
    await put('picture');
    await symlink(join(folder, 'nowhere'), join(root, 'front.png'));
    await expect(output.publish(aside, 'front.png')).rejects.toThrow();
    expect(await readdir(folder)).toEqual(['output']);
  });

  it('says what is wrong with a name that the disk does not take', async () => {
    await put('picture');
    await expect(output.publish(aside, `${'n'.repeat(300)}.png`)).rejects.toMatchObject({
      code: 'NOT_STORED',
      message: expect.stringMatching(/name is too long/),
    });
  });

  it('that arrives by half, or is too large, leaves nothing', async () => {
    const torn = Readable.from(
      (async function* () {
        yield Buffer.from('pic');
        throw new Error('cut');
      })(),
    );
    await expect(output.putAside(aside, torn, 1000)).rejects.toThrow('cut');
    await expect(output.putAside(aside, Readable.from([Buffer.alloc(1001)]), 1000)).rejects.toMatchObject({
      code: 'TOO_LARGE',
    });
    // a stream that fails at once, while its file is only being made
    const failing = Array.from({ length: 40 }, () => {
      const bytes = new Readable({ read: () => undefined });
      bytes.destroy(new Error('cut at once'));
      return output.putAside(aside, bytes, 1000);
    });
    for (const ended of await Promise.allSettled(failing)) expect(ended.status).toBe('rejected');
    expect(await readdir(join(root, '.unfinished/trace/try'))).toEqual([]);
    expect(await output.has(aside)).toBe(false);
  });
});
