// From film to what is delivered: layers by name, shares of denoising, light groups, ink, the file that an independent
// reader opens.
import { execFile } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { inflateSync } from 'node:zlib';
import { type ExrSource, objectIds, objectMask, objectsAt, writeExr } from '@variscen/core/image';
import { PROFILES, type Profile } from '@variscen/core/plan';
import { poseFor } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { finish, MASK, settingsOf, type EngineScene, type Finished, type Selection } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { IDENTITY, constantSky, downCamera, floor, matte, scene, sphere, translated } from './fixtures.ts';

const nothing = { version: 1 as const, nodes: [], meshes: [], materials: [], textures: [], lights: [], cameras: [] };
const camera = {
  matrix: IDENTITY,
  projection: 'perspective' as const,
  widthPx: 48,
  heightPx: 48,
  sensorWidthMm: 36,
  focalLengthMm: 35,
  orthoHalfHeightM: 1,
  nearM: 1,
  farM: 5,
  focusDistanceM: 3,
  fStop: null,
  cullMarginPct: null,
};
const what: EngineScene = scene({
  meshes: [floor(2), sphere(12, 0.4)],
  materials: [
    { ...matte, name: 'Clay', baseColor: [0.7, 0.5, 0.4, 1] },
    { ...matte, name: 'Glaze', baseColor: [0.2, 0.4, 0.3, 1] },
  ],
  instances: [
    { name: 'Table', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
    { name: 'Bowl', mesh: 1, material: 1, matrix: translated(0, 0.2, 0), mask: MASK.ALL },
  ],
  lights: [{ type: 'point', position: [1, 2, 1], intensityCd: [6, 5, 4], radiusM: 0.1, lightGroup: 0 }],
  environment: constantSky(0.3),
  environmentGroup: 1,
});
const selection = (more: Partial<Selection> = {}): Selection => ({
  pose: poseFor(nothing, undefined, camera),
  meshes: [],
  textures: [],
  materials: what.materials,
  instances: what.instances,
  middle: [0, 0, 0],
  lights: what.lights,
  environment: undefined,
  environmentInputs: {},
  environmentGroup: 1,
  fog: undefined,
  lightGroups: ['1', '4'],
  verdicts: [],
  leftOut: [],
  inked: [],
  plate: undefined,
  ...more,
});
async function delivered(profile: Profile, s = selection()): Promise<Finished> {
  const e = await openNodeEngine(2);
  try {
    await e.load(what, settingsOf(profile, { widthPx: 48, heightPx: 48 }, s));
    await e.render({ camera: downCamera(3, 1), samples: 16 });
    return await finish(e, s, profile, camera);
  } finally {
    await e.close();
  }
}
const final: Profile = { ...PROFILES[2]!, noise: null };
/** The values of a channel, out of the plane that it lies in. */
function layer(f: Finished, name: string): Float32Array {
  const { data, stride = 1, offset = 0 } = f.channels.find((c) => c.name === name)!;
  return Float32Array.from({ length: f.film.length / 4 }, (_, pixel) => data[offset + pixel * stride]!);
}

describe('a plate', () => {
  it('fills the frame under what was rendered, by the share that nothing covers, and no other layer knows of it', async () => {
    const image = { name: 'lane.png', blob: 'e'.repeat(64), mediaType: 'image/png', width: 4, height: 2 };
    const s = selection({ plate: { image, strength: 2 }, environmentInputs: { camera: 'none' } });
    const e = await openNodeEngine(1);
    // red at the left half, blue at the right; the table covers the lower half of the frame
    const data = Uint8Array.from(
      { length: 32 },
      (_, i) => [(i >> 2) % 4 < 2 ? 255 : 0, 0, (i >> 2) % 4 < 2 ? 0 : 255, 255][i & 3]!,
    );
    try {
      await e.load(
        { ...what, environmentInputs: { camera: 'none' } },
        settingsOf(final, { widthPx: 48, heightPx: 48 }, s),
      );
      await e.render({ camera: { ...downCamera(3, 1), matrix: translated(0, 1, 8) }, samples: 16 });
      const with_ = await finish(e, s, final, camera, { plate: { width: 4, height: 2, data }, keepFilm: true });
      const without = await finish(e, selection({ environmentInputs: { camera: 'none' } }), final, camera);
      const at = (x: number, y: number) => [...with_.film.slice((y * 48 + x) * 4, (y * 48 + x) * 4 + 3)];
      expect(at(2, 2)).toEqual([2, 0, 0]);
      expect(at(45, 2)).toEqual([0, 0, 2]);
      expect(without.film.filter((x, i) => i % 4 === 3 && x === 1).length).toBeGreaterThan(100);
      for (let i = 0; i < 48 * 48; i++)
        if (without.film[i * 4 + 3] === 1)
          expect([...with_.film.slice(i * 4, i * 4 + 4)]).toEqual([...without.film.slice(i * 4, i * 4 + 4)]);
      expect(layer(with_, 'albedo.R')).toEqual(layer(without, 'albedo.R'));
    } finally {
      await e.close();
    }
  });
});

describe('a shadow catcher', () => {
  it('shows the plate, darkened and tinted by what takes light, and its layers put the picture together again', async () => {
    const image = { name: 'lane.png', blob: 'e'.repeat(64), mediaType: 'image/png', width: 1, height: 1 };
    const plate = { width: 1, height: 1, data: Uint8Array.of(255, 255, 255, 255) };
    const caught: EngineScene = {
      ...what,
      instances: what.instances.map((i) => (i.name === 'Table' ? { ...i, mask: MASK.ALL | MASK.CATCHER } : i)),
      environmentInputs: { camera: 'none' },
    };
    const under = { plate: { image, strength: 0.5 }, environmentInputs: { camera: 'none' } as const };
    const s = selection({ ...under, instances: caught.instances });
    const e = await openNodeEngine(2);
    try {
      await e.load(caught, settingsOf(final, { widthPx: 48, heightPx: 48 }, s));
      await e.render({ camera: downCamera(3, 0.6), samples: 32 });
      const bare = await finish(e, { ...s, plate: undefined }, final, camera, { keepFilm: true });
      const f = await finish(e, s, final, camera, { plate });
      const shadow = [0, 1, 2, 3].map((c) => layer(f, `shadow.${'RGBA'[c]!}`));
      let darkest = 1;
      for (let i = 0; i < 48 * 48; i++) {
        const alpha = bare.film[i * 4 + 3]!;
        const isCatcher = shadow[3]![i] === 1;
        if (!isCatcher) continue;
        darkest = Math.min(darkest, shadow[1]![i]!);
        for (let c = 0; c < 3; c++) {
          const sent = bare.film[i * 4 + c]!;
          expect(f.film[i * 4 + c]).toBeCloseTo(sent + 0.5 * shadow[c]![i]!, 5);
        }
        // for who has no plate here: as dark as the shadow's luminance
        const left = 0.2126 * shadow[0]![i]! + 0.7152 * shadow[1]![i]! + 0.0722 * shadow[2]![i]!;
        expect(alpha).toBeCloseTo(1 - left, 5);
      }
      expect(darkest).toBeLessThan(0.6);
      expect(shadow[3]!.filter((x) => x === 0).length).toBeGreaterThan(100); // the bowl
      expect(bare.film.filter((x, i) => i % 4 === 3 && x === 1).length).toBeGreaterThan(100);
      expect(layer(f, 'caughtLight.G').some((x) => x > 0)).toBe(true); // the bowl's light on the table
    } finally {
      await e.close();
    }
  });
});

describe('the ids in a delivered file', () => {
  it('say what covers a pixel, and where an object is', async () => {
    const f = await delivered(final);
    const file = writeExr({ width: 48, height: 48, channels: f.channels, metadata: f.metadata });
    const source: ExrSource = {
      read: (from, bytes) => Promise.resolve(file.subarray(from, from + bytes)),
      inflate: (packed) => new Uint8Array(inflateSync(packed)),
    };
    expect(await objectsAt(source, [0.5, 0.5])).toEqual([{ path: 'Bowl', share: 1 }]);
    expect(await objectsAt(source, [0.05, 0.95])).toEqual([{ path: 'Table', share: 1 }]);
    const ids = (await objectIds(source))!;
    expect([...ids.keys()].sort()).toEqual(['Bowl', 'Table']);
    const [bowl, table] = await Promise.all(['Bowl', 'Table'].map((name) => objectMask(source, ids.get(name)!, 48)));
    // both together cover the frame, pixel by pixel, and share those at the bowl's edge
    let edges = 0;
    for (let i = 0; i < 48 * 48; i++) {
      expect(Math.abs(bowl!.shares[i]! + table!.shares[i]! - 255)).toBeLessThanOrEqual(1);
      if (bowl!.shares[i]! > 0 && table!.shares[i]! > 0) edges++;
    }
    expect(edges).toBeGreaterThan(20);
    const half = await objectMask(source, ids.get('Bowl')!, 24);
    const mean = (shares: Uint8Array) => shares.reduce((a, b) => a + b, 0) / shares.length;
    expect([half.widthPx, half.heightPx]).toEqual([24, 24]);
    expect(Math.abs(mean(half.shares) - mean(bowl!.shares))).toBeLessThan(0.5);
    const without = writeExr({ width: 48, height: 48, channels: f.channels.slice(0, 4), metadata: {} });
    const plain: ExrSource = { ...source, read: (from, n) => Promise.resolve(without.subarray(from, from + n)) };
    expect(await objectsAt(plain, [0.5, 0.5])).toBeUndefined();
  });
});

describe('what is delivered', () => {
  it('has the layers of its profile and no others', async () => {
    const groups = (f: Finished) =>
      [...new Set(f.channels.map((c) => c.name.replace(/\.?[A-Z]+$|\.range$/, '')))].sort();
    expect(groups(await delivered(PROFILES[0]!))).toEqual(['', 'traced']);
    expect(groups(await delivered({ ...PROFILES[0]!, denoise: 0 }))).toEqual(['']);
    expect(groups(await delivered(final))).toEqual([
      '',
      'CryptoMaterial00',
      'CryptoMaterial01',
      'CryptoMaterial02',
      'CryptoObject00',
      'CryptoObject01',
      'CryptoObject02',
      'albedo',
      'depth',
      'direct',
      'emission',
      'indirect',
      'light.1',
      'light.4',
      'motion',
      'noise',
      'normal',
      'samples',
      'traced',
    ]);
  });
  it('is denoised by the share that its profile says; what was traced stands beside it', async () => {
    const none = await delivered({ ...final, denoise: 0 });
    const all = await delivered({ ...final, denoise: 1 });
    const half = await delivered({ ...final, denoise: 0.5 });
    for (let i = 0; i < 48 * 48; i += 7) {
      expect(half.film[i * 4]!).toBeCloseTo((none.film[i * 4]! + all.film[i * 4]!) / 2, 4);
      expect(layer(all, 'traced.R')[i]).toBe(none.film[i * 4]);
      expect(layer(all, 'R')[i]).toBe(all.film[i * 4]);
    }
    expect(all.film).not.toEqual(none.film);
  });
  it('has light groups that add up to it, denoised or not', async () => {
    for (const denoise of [0, 0.7, 1]) {
      const f = await delivered({ ...final, denoise });
      for (let i = 0; i < 48 * 48; i += 5)
        expect(layer(f, 'light.1.G')[i]! + layer(f, 'light.4.G')[i]!).toBeCloseTo(f.film[i * 4 + 1]!, 3);
    }
  });
  it("says depth in metres and between the camera's planes", async () => {
    const f = await delivered(final);
    const corner = 0;
    expect(layer(f, 'depth.Z')[corner]).toBeCloseTo(3, 3);
    expect(layer(f, 'depth.range')[corner]).toBeCloseTo(0.5, 3);
  });
  it('names objects and materials in its manifests, and covers each pixel with them', async () => {
    const f = await delivered(final);
    const manifest = Object.entries(f.metadata)
      .filter(([k]) => k.endsWith('/manifest'))
      .map(([, v]) => Object.keys(JSON.parse(v) as object).sort());
    expect(manifest).toEqual(
      expect.arrayContaining([
        ['Bowl', 'Table'],
        ['Clay', 'Glaze'],
      ]),
    );
    for (let i = 0; i < 48 * 48; i += 11) {
      let sum = 0;
      for (const pair of ['00', '01', '02'])
        for (const c of ['G', 'A']) sum += layer(f, `CryptoObject${pair}.${c}`)[i]!;
      expect(sum).toBeCloseTo(1, 5);
    }
  });
  it('draws only what is drawn with ink', async () => {
    const plain = await delivered(final);
    const drawn = await delivered(final, selection({ inked: ['Bowl'] }));
    const middle = 24 * 48 + 24;
    const corner = 2 * 48 + 2;
    expect([0, 1, 2].map((c) => drawn.film[corner * 4 + c])).toEqual([0, 1, 2].map((c) => plain.film[corner * 4 + c]));
    expect(drawn.film[middle * 4 + 1]).not.toBe(plain.film[middle * 4 + 1]);
  });
  it('opens in an independent reader, with its types', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'finish-'));
    const file = join(folder, 'a.exr');
    const { channels, metadata } = await delivered(final);
    try {
      await writeFile(file, writeExr({ width: 48, height: 48, channels, metadata }));
      const { stdout } = await promisify(execFile)('exrheader', [file]);
      for (const line of [
        /depth\.Z, 32-bit floating-point/,
        /motion\.X, 32-bit floating-point/,
        /light\.4\.B, 16-bit floating-point/,
        /CryptoObject00\.A, 32-bit floating-point/,
        /cryptomatte\/[0-9a-f]{7}\/hash \(type string\): "MurmurHash3_32"/,
      ])
        expect(stdout).toMatch(line);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });
});
