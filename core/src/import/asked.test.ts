// What a file says comes in as it says it, or a remark says what does not.
import { createHash } from 'node:crypto';
import { Document, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { zipSync } from 'fflate';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CAMERA_LIMITS, type SceneDocument, cameraForScene, sceneCameras, within } from '../scene/index.ts';
import { copyPath, originalPath } from '../looks/index.ts';
import { type ImportOptions, importScene } from './importScene.ts';

const hash = (b: Uint8Array) => createHash('sha256').update(b).digest('hex');
const bring = (name: string, bytes: Uint8Array, more: Partial<ImportOptions> = {}) =>
  importScene(name, bytes, { hash, accelerationBytes: () => Promise.resolve(288), ...more });
const text = (s: string) => new TextEncoder().encode(s);

interface Json {
  [key: string]: unknown;
}
const POSITIONS = new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0]);
/** A triangle in a scene that is written by hand, so that nothing is put right on the way. */
async function byHand(change: (json: Json) => void = () => undefined): Promise<Uint8Array> {
  const json: Json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ name: 'Tile', mesh: 0 }],
    meshes: [{ name: 'Tile', primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    buffers: [{ byteLength: 36, uri: dataUri(new Uint8Array(POSITIONS.buffer)) }],
  };
  change(json);
  return Promise.resolve(text(JSON.stringify(json)));
}
const dataUri = (b: Uint8Array) => `data:application/octet-stream;base64,${Buffer.from(b).toString('base64')}`;
const messages = (r: { report: { faults: readonly { message: string }[] } }) => r.report.faults.map((f) => f.message);

describe('cameras', () => {
  const withCamera = (perspective: object) =>
    byHand((j) => {
      j['cameras'] = [{ type: 'perspective', perspective }];
      j['nodes'] = [
        { name: 'Tile', mesh: 0 },
        { name: 'Close', camera: 0 },
      ];
      j['scenes'] = [{ nodes: [0, 1] }];
    });
  it('without a far plane see far', async () => {
    const { document } = await bring('far.gltf', await withCamera({ yfov: 0.6, znear: 0.1, aspectRatio: 1.5 }));
    expect(document.cameras[0]!.farM).toBe(10_000);
  });
  it('beyond what a camera may have come in within it, and the report says so', async () => {
    const got = await bring(
      'strange.gltf',
      await withCamera({ yfov: 1e-7, znear: 1e-9, zfar: 1e12, aspectRatio: 40_000 }),
    );
    const [camera] = sceneCameras(got.document);
    const { nearM, farM, focalLengthMm, widthPx, heightPx } = camera!.settings;
    for (const [limits, value] of [
      [CAMERA_LIMITS.nearM, nearM],
      [CAMERA_LIMITS.farM, farM],
      [CAMERA_LIMITS.focalLengthMm, focalLengthMm],
      [CAMERA_LIMITS.sizePx, widthPx],
      [CAMERA_LIMITS.sizePx, heightPx],
    ] as const)
      expect(within(limits, value)).toBe(value);
    expect(nearM).toBeLessThan(farM);
    expect(messages(got)).toContainEqual(expect.stringMatching(/Camera “Close” comes in within/));
  });
});

it('a skinned mesh is measured, and looked at, where its joints put it, not where its node is', async () => {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const floats = (type: 'VEC3' | 'VEC4' | 'MAT4', a: number[]) =>
    doc.createAccessor().setType(type).setArray(new Float32Array(a)).setBuffer(buffer);
  const joints = doc.createAccessor().setType('VEC4').setArray(new Uint8Array(12)).setBuffer(buffer);
  const mesh = doc.createMesh('Cloth').addPrimitive(
    doc
      .createPrimitive()
      .setAttribute('POSITION', floats('VEC3', [...POSITIONS]))
      .setAttribute('JOINTS_0', joints)
      .setAttribute('WEIGHTS_0', floats('VEC4', [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0])),
  );
  const joint = doc.createNode('Joint').setTranslation([0, 2, 0]);
  const skin = doc
    .createSkin()
    .addJoint(joint)
    .setInverseBindMatrices(floats('MAT4', [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]));
  const cloth = doc.createNode('Cloth').setMesh(mesh).setSkin(skin).setTranslation([500, 0, 0]).setScale([90, 90, 90]);
  doc.createScene().addChild(joint).addChild(cloth);
  const { document, report } = await bring('cloth.glb', await new WebIO().writeBinary(doc));
  expect(report.sizeM).toEqual([1, 1, 0]);
  const camera = cameraForScene(document);
  expect(Math.hypot(camera.matrix[12]! - 0.5, camera.matrix[13]! - 2.5, camera.matrix[14]!)).toBeLessThan(10);
});

describe('of several scenes', () => {
  it('the default one comes in, the report names the others, and their meshes do not count', async () => {
    const got = await bring(
      'two.gltf',
      await byHand((j) => {
        j['meshes'] = ['Tile', 'Crate'].map((name) => ({ name, primitives: [{ attributes: { POSITION: 0 } }] }));
        j['nodes'] = [
          { name: 'Tile', mesh: 0 },
          { name: 'Crate', mesh: 1 },
        ];
        j['scenes'] = [
          { name: 'Stall', nodes: [0] },
          { name: 'Store', nodes: [1] },
        ];
      }),
    );
    expect(got.document.meshes.map((m) => m.name)).toEqual(['Tile']);
    expect(messages(got)).toEqual([expect.stringMatching(/2 scenes; “Stall” comes in, and “Store” not/)]);
  });
});

it('a mesh without a material has the one that glTF 2.0 gives it', async () => {
  const { document } = await bring('plain.gltf', await byHand());
  expect(document.materials).toEqual([
    expect.objectContaining({ metallic: 1, roughness: 1, baseColor: [1, 1, 1], doubleSided: false }),
  ]);
});

it('tangents that are not used are said, once', async () => {
  const got = await bring(
    'tangents.gltf',
    await byHand((j) => {
      const tangents = new Float32Array([1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1]);
      (j['buffers'] as Json[]).push({ byteLength: 48, uri: dataUri(new Uint8Array(tangents.buffer)) });
      (j['bufferViews'] as Json[]).push({ buffer: 1, byteLength: 48 });
      (j['accessors'] as Json[]).push({ bufferView: 1, componentType: 5126, count: 3, type: 'VEC4' });
      j['meshes'] = ['A', 'B'].map((name) => ({ name, primitives: [{ attributes: { POSITION: 0, TANGENT: 1 } }] }));
      j['nodes'] = [{ mesh: 0 }, { mesh: 1 }];
      j['scenes'] = [{ nodes: [0, 1] }];
    }),
  );
  expect(messages(got)).toEqual([expect.stringMatching(/tangents of 2 meshes \(“A” and others\) are not used/)]);
});

describe('files beside a scene', () => {
  const zipped = (uri: string, at: string) =>
    byHand((j) => (j['buffers'] = [{ byteLength: 36, uri }])).then((scene) =>
      zipSync({ 'stall/scene.gltf': scene, [at]: new Uint8Array(POSITIONS.buffer) }),
    );
  it.each([
    ['./data.bin', 'stall/data.bin'],
    ['parts/./data.bin', 'stall/parts/data.bin'],
    ['parts/../data.bin', 'stall/data.bin'],
    ['my%20data.bin', 'stall/my data.bin'],
    ['.\\data.bin', 'stall/data.bin'],
  ])('are found as %s', async (uri, at) => {
    expect((await bring('stall.zip', await zipped(uri, at))).report.trianglesPlaced).toBe(1);
  });
  it.each(['../data.bin', 'parts/../../data.bin', '/data.bin', 'file:///data.bin', '%2e%2e/data.bin'])(
    'are not looked for at %s',
    async (uri) => {
      await expect(bring('stall.zip', await zipped(uri, 'stall/data.bin'))).rejects.toThrow(/outside its folder/);
    },
  );
  it('that are not what was packed are refused by name', async () => {
    const zip = zipSync({
      'scene.gltf': await byHand((j) => (j['buffers'] = [{ byteLength: 36, uri: 'data.bin' }])),
      'data.bin': [new Uint8Array(POSITIONS.buffer), { level: 0 }],
    });
    const stored = Buffer.from(zip).indexOf(Buffer.from(POSITIONS.buffer));
    zip[stored + 12]! ^= 1;
    await expect(bring('stall.zip', zip)).rejects.toThrow(/“data.bin” in “stall.zip” is damaged/);
  });
});

describe('names', () => {
  const named = (names: readonly string[]) =>
    byHand((j) => {
      j['materials'] = names.map((name) => ({ name }));
      j['meshes'] = names.map((name, material) => ({ name, primitives: [{ attributes: { POSITION: 0 }, material }] }));
      j['nodes'] = names.map((name, mesh) => ({ name, mesh }));
      j['scenes'] = [{ nodes: names.map((_, i) => i) }];
    });
  const hasIdentities = ({ nodes, materials }: SceneDocument) => {
    for (const ids of [nodes.map((n) => n.path), materials.map((m) => m.name)]) {
      expect(new Set(ids).size).toBe(ids.length);
      for (const id of ids) {
        expect(id.trim()).not.toBe('');
        expect(id.length).toBeLessThan(2000 - 'material:'.length);
        expect(id.isWellFormed() && !id.includes('\0')).toBe(true);
        // none is taken for a look's copy of another
        expect(originalPath(id)).toBe(id);
        expect(ids).not.toContain(copyPath(id, 2));
      }
    }
  };
  it('of any kind give each thing an identity that can be stored and edited', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.oneof(
            fc.constantFrom(
              '',
              ' ',
              'Chair',
              'Chair#2',
              'Chair#2#3',
              'A/B',
              'A',
              '\0',
              'half \ud800',
              'x'.repeat(3000),
            ),
            fc.string({ unit: 'binary' }),
          ),
          { minLength: 1, maxLength: 8 },
        ),
        async (names) => hasIdentities((await bring('names.gltf', await named(names))).document),
      ),
      { numRuns: 60 },
    );
  });
  it('that are long in a deep hierarchy stay told apart by their ends', async () => {
    const deep = await byHand((j) => {
      j['nodes'] = Array.from({ length: 40 }, (_, i) => ({
        name: `${'a long name '.repeat(8)}${i}`,
        mesh: 0,
        ...(i < 39 && { children: [i + 1] }),
      }));
    });
    hasIdentities((await bring('deep.gltf', deep)).document);
  });
});

describe('a damaged texture', () => {
  it('is named, and marked where it is worn; the others stay as they are', async () => {
    const sound = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNoAAAAggCBd81ytgAAAABJRU5ErkJggg==',
      'base64',
    );
    const doc = new Document();
    const weave = doc.createTexture('Weave').setMimeType('image/png').setImage(new Uint8Array(sound));
    const torn = doc
      .createTexture('Torn')
      .setMimeType('image/png')
      .setImage(new Uint8Array(sound.subarray(0, 40)));
    const buffer = doc.createBuffer();
    const mesh = doc.createMesh('Tile');
    for (const t of [weave, torn])
      mesh.addPrimitive(
        doc
          .createPrimitive()
          .setAttribute('POSITION', doc.createAccessor().setType('VEC3').setArray(POSITIONS).setBuffer(buffer))
          .setMaterial(doc.createMaterial(t.getName()).setBaseColorTexture(t)),
      );
    doc.createScene().addChild(doc.createNode('Tile').setMesh(mesh));
    const bytes = await new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(doc);
    const got = await bring('torn.glb', bytes, {
      checkImage: (image) => Promise.resolve(image.length < 60 ? 'it cannot be decoded' : null),
    });
    expect(messages(got)).toEqual([expect.stringMatching(/Texture “Torn” is damaged .* checkered stand-in/)]);
    const [first, second] = got.document.textures;
    expect(first).toMatchObject({ name: 'Weave', width: 1, blob: hash(new Uint8Array(sound)) });
    expect(second).toMatchObject({ name: 'Torn', width: 8, height: 8 });
    expect(got.blobs.get(second!.blob)!.slice(1, 4)).toEqual(text('PNG'));
  });
});
