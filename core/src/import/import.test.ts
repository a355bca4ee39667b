// Scenes in: what is read, what is reported, what is refused.
import { createHash } from 'node:crypto';
import { Document, WebIO } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  EXTMeshGPUInstancing,
  KHRLightsPunctual,
  KHRMaterialsEmissiveStrength,
  KHRMeshQuantization,
  KHRTextureTransform,
  Light,
} from '@gltf-transform/extensions';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { placedTriangles, unpackGeometry, worldMatrices } from '../scene/index.ts';
import { importScene } from './index.ts';

const hash = (b: Uint8Array) => createHash('sha256').update(b).digest('hex');
const bring = (name: string, bytes: Uint8Array, metresPerUnit = 1) =>
  importScene(name, bytes, { hash, metresPerUnit, accelerationBytes: () => Promise.resolve(288) });
const write = (doc: Document) => new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(doc);
const text = (s: string) => new TextEncoder().encode(s);

function quad(extra?: (doc: Document) => void): Document {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    doc.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const p = doc
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0])))
    .setIndices(accessor('SCALAR', new Uint16Array([0, 1, 2, 0, 2, 3])))
    .setMaterial(
      doc.createMaterial('Copper').setBaseColorFactor([0.9, 0.5, 0.3, 1]).setMetallicFactor(1).setRoughnessFactor(0.25),
    );
  const mesh = doc.createMesh('Sheet').addPrimitive(p);
  const scene = doc.createScene();
  const stall = doc.createNode('Stall').setTranslation([0, 1, 0]);
  scene.addChild(stall);
  stall
    .addChild(doc.createNode('Sheet').setMesh(mesh))
    .addChild(doc.createNode('Sheet').setMesh(mesh).setTranslation([2, 0, 0]));
  extra?.(doc);
  return doc;
}

describe('a scene', () => {
  it('comes in with its hierarchy, unique paths, materials and placed triangles', async () => {
    const { document: d, report, blobs } = await bring('sheet.glb', await write(quad()));
    expect(d.nodes.map((n) => n.path)).toEqual(['Stall', 'Stall/Sheet', 'Stall/Sheet (2)']);
    expect(worldMatrices(d.nodes)[2]!.slice(12, 15)).toEqual([2, 1, 0]);
    expect(d.materials[0]).toMatchObject({ name: 'Copper', metallic: 1, roughness: 0.25 });
    expect(placedTriangles(d)).toBe(4);
    expect(report).toMatchObject({
      objects: 2,
      groups: 1,
      meshes: 1,
      trianglesStored: 2,
      trianglesPlaced: 4,
      faults: [],
    });
    const g = unpackGeometry(blobs.get(d.meshes[0]!.blob)!.slice(), d.meshes[0]!);
    expect([...g.indices]).toEqual([0, 1, 2, 0, 2, 3]);
    expect([...g.positions.slice(6, 9)]).toEqual([1, 1, 0]);
  });

  it('keeps lights with their units, cameras, emission and instances', async () => {
    const { document: d } = await bring(
      'lights.glb',
      await write(
        quad((doc) => {
          const scene = doc.getRoot().listScenes()[0]!;
          const lights = doc.createExtension(KHRLightsPunctual);
          scene.addChild(
            doc
              .createNode('Lantern')
              .setExtension(
                'KHR_lights_punctual',
                lights
                  .createLight()
                  .setType(Light.Type.SPOT!)
                  .setIntensity(60)
                  .setColor([1, 0.5, 0.2])
                  .setOuterConeAngle(0.5)
                  .setInnerConeAngle(0.2),
              ),
          );
          scene.addChild(
            doc
              .createNode('Round panel')
              .setExtras({ variscen_light: { type: 'disc', radiusM: 0.5, nits: 7, color: [1, 0.5, 0] } }),
          );
          scene.addChild(
            doc
              .createNode('Panel')
              .setExtras({ variscen_light: { type: 'rectangle', widthM: 2, heightM: 1, nits: 5 } }),
          );
          scene.addChild(
            doc
              .createNode('Close')
              .setCamera(
                doc.createCamera().setType('perspective').setYFov(0.6).setAspectRatio(1.5).setZNear(0.1).setZFar(50),
              ),
          );
          doc
            .getRoot()
            .listMaterials()[0]!
            .setEmissiveFactor([1, 0.5, 0])
            .setExtension(
              'KHR_materials_emissive_strength',
              doc.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(8),
            );
          const at = doc
            .createAccessor()
            .setType('VEC3')
            .setArray(new Float32Array([0, 0, 0, 0, 0, 3, 0, 0, 6]))
            .setBuffer(doc.getRoot().listBuffers()[0]!);
          scene.addChild(
            doc
              .createNode('Tiles')
              .setMesh(doc.getRoot().listMeshes()[0]!)
              .setExtension(
                'EXT_mesh_gpu_instancing',
                doc.createExtension(EXTMeshGPUInstancing).createInstancedMesh().setAttribute('TRANSLATION', at),
              ),
          );
        }),
      ),
    );
    expect(d.lights).toEqual([
      expect.objectContaining({ type: 'spot', intensity: 60, outerConeRad: 0.5, innerConeRad: 0.2 }),
      { type: 'disc', radiusM: 0.5, intensity: 7, color: [1, 0.5, 0] },
      { type: 'rectangle', widthM: 2, heightM: 1, intensity: 5, color: [1, 1, 1] },
    ]);
    expect(d.cameras[0]).toMatchObject({ projection: 'perspective', halfHeight: Math.tan(0.3), nearM: 0.1, farM: 50 });
    expect(d.materials[0]).toMatchObject({ emissionColor: [1, 0.5, 0], emissionStrength: 8 });
    expect(d.nodes.filter((n) => n.path.startsWith('Tiles/')).map((n) => n.matrix[14])).toEqual([0, 3, 6]);
  });

  it('is read in other units, quantised, with texture transforms', async () => {
    const { document: d } = await bring(
      'units.glb',
      await write(
        quad((doc) => {
          doc.createExtension(KHRMeshQuantization).setRequired(true);
          doc
            .getRoot()
            .listMeshes()[0]!
            .listPrimitives()[0]!
            .setAttribute(
              'POSITION',
              doc
                .createAccessor()
                .setType('VEC3')
                .setNormalized(true)
                .setArray(new Int16Array([0, 0, 0, 32767, 0, 0, 32767, 32767, 0, 0, 32767, 0]))
                .setBuffer(doc.getRoot().listBuffers()[0]!),
            );
          const png = Uint8Array.from(
            atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNoAAAAggCBd81ytgAAAABJRU5ErkJggg=='),
            (c) => c.charCodeAt(0),
          );
          const m = doc.getRoot().listMaterials()[0]!;
          m.setBaseColorTexture(doc.createTexture('Weave').setMimeType('image/png').setImage(png));
          m.getBaseColorTextureInfo()!.setExtension(
            'KHR_texture_transform',
            doc.createExtension(KHRTextureTransform).createTransform().setScale([2, 3]).setOffset([0.5, 0]),
          );
        }),
      ),
      0.01,
    );
    expect(
      worldMatrices(d.nodes)
        .at(-1)!
        .slice(12, 15)
        .map((x) => Number(x.toFixed(4))),
    ).toEqual([0.02, 0.01, 0]);
    expect(d.meshes[0]!.max[0]).toBeCloseTo(1, 4);
    const m = d.materials[0]!.textures.base!.matrix; // u' = m0 u + m1 v + m2, v' = m3 u + m4 v + m5
    expect([m[0], m[1], m[2], m[4], m[5]]).toEqual([2, 0, 0.5, 3, 0]);
  });

  it('in a zip, with files beside it, opens; a missing texture is named', async () => {
    const { json, resources } = await new WebIO().writeJSON(quad(), { basename: 'sheet' });
    const withImage = {
      ...json,
      images: [{ uri: 'weave.png', name: 'Weave' }],
      textures: [{ source: 0 }],
      materials: [{ ...json.materials![0], pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
    };
    const { report } = await bring(
      'sheet.zip',
      zipSync({
        'stall/sheet.gltf': text(JSON.stringify(withImage)),
        ...Object.fromEntries(Object.entries(resources).map(([n, b]) => [`stall/${n}`, b])),
      }),
    );
    expect(report.trianglesPlaced).toBe(4);
    expect(report.faults).toEqual([expect.objectContaining({ kind: 'missing-texture', subject: 'Weave' })]);
  });
});

describe('a faulty scene opens, and says what is wrong', () => {
  it('with positions that are not numbers, triangles of no area and indices past the end', async () => {
    const { report, document } = await bring(
      'bad.glb',
      await write(
        quad((doc) => {
          const p = doc.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
          p.getAttribute('POSITION')!.setArray(new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, NaN, 1, 0]));
          p.getIndices()!.setArray(new Uint16Array([0, 1, 2, 0, 2, 3, 1, 1, 2, 0, 1, 77]));
        }),
      ),
    );
    expect(document.meshes[0]!.triangles).toBe(1);
    expect(report.faults.map((f) => f.message)).toEqual([
      '1 triangles of “Sheet” have positions that are not numbers and are left out.',
      '1 triangles of “Sheet” refer to vertices that do not exist and are left out.',
      '1 triangles of “Sheet” have no area and are left out.',
    ]);
  });
  it('with an object scaled to nothing', async () => {
    const { report, document } = await bring(
      'flat.glb',
      await write(
        quad((doc) => {
          doc.getRoot().listNodes()[1]!.setScale([1, 0, 1]);
        }),
      ),
    );
    expect(document.nodes[1]!.parts).toBeUndefined();
    expect(report.faults).toEqual([expect.objectContaining({ kind: 'flat-object', subject: 'Stall/Sheet' })]);
  });
});

describe('a hostile or broken file is refused by name', () => {
  const glb = async () => await write(quad());
  const json = (o: object) => text(JSON.stringify({ asset: { version: '2.0' }, ...o }));
  it.each<[string, () => Promise<Uint8Array> | Uint8Array, string, RegExp]>([
    ['cut short', async () => (await glb()).slice(0, 200), 'UNREADABLE', /cut short/],
    [
      'that claims four gigabytes',
      async () => {
        const b = (await glb()).slice();
        new DataView(b.buffer).setUint32(8, 0xffffffff, true);
        return b;
      },
      'UNREADABLE',
      /cut short/,
    ],
    ['that is something else', () => text('%PDF-1.7'), 'UNKNOWN_FORMAT', /not a scene that can be read/],
    ['of broken JSON', () => text('{"asset":'), 'UNREADABLE', /not valid JSON/],
    ['of another version', () => text('{"asset":{"version":"1.0"}}'), 'UNREADABLE', /not glTF 2.0/],
    [
      'with a node inside itself',
      () =>
        json({
          nodes: [
            { name: 'A', children: [1] },
            { name: 'B', children: [0] },
          ],
        }),
      'UNSAFE',
      /“A”.*nested in itself/,
    ],
    [
      'with a node that has two parents',
      () => json({ nodes: [{ children: [2] }, { children: [2] }, { name: 'Child' }] }),
      'UNREADABLE',
      /“Child”.*two parents/,
    ],
    [
      'nested ten thousand deep',
      () => json({ nodes: Array.from({ length: 10_000 }, (_, i) => (i < 9999 ? { children: [i + 1] } : {})) }),
      'UNSAFE',
      /2000 deep/,
    ],
    [
      'with a path out of its folder',
      () => json({ buffers: [{ uri: '../../secret.bin', byteLength: 4 }] }),
      'UNSAFE',
      /outside its folder/,
    ],
    [
      'that needs an extension nobody knows',
      () => json({ extensionsRequired: ['ACME_nothing'], scenes: [{}] }),
      'UNREADABLE',
      /ACME_nothing/,
    ],
    ['with nothing in it', () => json({}), 'UNREADABLE', /no scene/],
    [
      'a zip without a scene',
      () => zipSync({ 'readme.txt': text('hello') }),
      'UNKNOWN_FORMAT',
      /no .gltf, .glb or .obj/,
    ],
    ['a zip whose paths lead out', () => zipSync({ '../x.gltf': text('{}') }), 'UNSAFE', /leads out of its folder/],
    [
      'a zip that unpacks to far more than it is',
      () => zipSync({ 'bomb.gltf': new Uint8Array(60_000_000) }, { level: 9 }),
      'UNSAFE',
      /far more than a scene/,
    ],
  ])('%s', async (_what, make, code, message) => {
    const error = await bring('scene.glb', await make()).then(
      () => undefined,
      (e: unknown) => e as { code: string; message: string },
    );
    expect(error?.code).toBe(code);
    expect(error?.message).toMatch(message);
  });
});
