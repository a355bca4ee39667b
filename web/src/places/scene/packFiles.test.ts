import { unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { packFiles } from './packFiles.ts';

const file = (path: string, text: string) => ({ path, file: new File([text], path.split('/').at(-1)!) });

describe('files dropped together', () => {
  it('become one zip, named after the scene, with every byte under its path', async () => {
    const { name, body } = await packFiles([
      file('stall/wood.png', 'not a picture'),
      file('stall/stall.gltf', '{"asset":{}}'),
      file('stall/empty.bin', ''),
    ]);
    const entries = unzipSync(new Uint8Array(await body.arrayBuffer()));
    expect(name).toBe('stall.gltf');
    expect(Object.fromEntries(Object.entries(entries).map(([k, v]) => [k, new TextDecoder().decode(v)]))).toEqual({
      'stall/wood.png': 'not a picture',
      'stall/stall.gltf': '{"asset":{}}',
      'stall/empty.bin': '',
    });
  });
  it('stay as they are where there is only one', async () => {
    const one = file('stall.glb', 'glTF');
    expect((await packFiles([one])).body).toBe(one.file);
    await expect(packFiles([])).rejects.toThrow('No file');
  });
});
