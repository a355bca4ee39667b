// Files of other writers, as they are: what comes in of each, and that nothing is left out silently.
import { createHash } from 'node:crypto';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Document, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, KHRMaterialsVariants, KHRTextureBasisu } from '@gltf-transform/extensions';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import {
  type SceneDocument,
  isClosed,
  matchScenes,
  placedTriangles,
  reviseDocument,
  transformPoint,
  unpackGeometry,
  worldMatrices,
} from '../scene/index.ts';
import { importScene } from './index.ts';

const SAMPLES = join(import.meta.dirname, 'samples');
const sample = (name: string) => new Uint8Array(readFileSync(join(SAMPLES, name)));
const hash = (b: Uint8Array) => createHash('sha256').update(b).digest('hex');
const bring = (name: string, bytes: Uint8Array) =>
  importScene(name, bytes, { hash, accelerationBytes: () => Promise.resolve(288) });
/** As the interface sends files that were dropped together. */
const together = (...names: string[]) =>
  zipSync(Object.fromEntries(names.map((n) => [`stall/${n}`, sample(n)])), { level: 0 });
const objects = (d: SceneDocument) => d.nodes.filter((n) => n.parts).map((n) => n.path);
/** Extent of all placed vertices. */
function extent({ document: d, blobs }: Awaited<ReturnType<typeof bring>>): number[] {
  const world = worldMatrices(d.nodes);
  const lo = [Infinity, Infinity, Infinity];
  const hi = [-Infinity, -Infinity, -Infinity];
  d.nodes.forEach((n, i) =>
    n.parts?.forEach((p) => {
      const { positions } = unpackGeometry(blobs.get(d.meshes[p.mesh]!.blob)!.slice(), d.meshes[p.mesh]!);
      for (let k = 0; k < positions.length; k += 3)
        transformPoint(world[i]!, [positions[k]!, positions[k + 1]!, positions[k + 2]!]).forEach((x, c) => {
          lo[c] = Math.min(lo[c]!, x);
          hi[c] = Math.max(hi[c]!, x);
        });
    }),
  );
  return lo.map((x, c) => Number((hi[c]! - x).toFixed(3)));
}

describe('a crate under a cloth', () => {
  it.each<[string, string, () => Uint8Array]>([
    ['by hand, with its materials', 'stall.zip', () => together('stall.obj', 'stall.mtl', 'wood grain.png')],
    ['Assimp’s GLB', 'assimp.glb', () => sample('assimp.glb')],
    ['Assimp’s glTF with its buffer', 'assimp.zip', () => together('assimp.gltf', 'assimp.bin', 'woodgrain.png')],
    ['Assimp’s OBJ', 'assimp.zip', () => together('assimp.obj', 'assimp.mtl', 'woodgrain.png')],
    ['obj2gltf’s GLB', 'obj2gltf.glb', () => sample('obj2gltf.glb')],
  ])('comes in from %s with its twelve triangles in place', async (_what, name, bytes) => {
    const r = await bring(name, bytes());
    const { document: d } = r;
    expect(placedTriangles(d)).toBe(12);
    expect(extent(r)).toEqual([1, 0.6, 1]);
    expect(
      d.materials
        .map((m) => m.name)
        .filter((n) => /Wood|Cloth/.test(n))
        .sort(),
    ).toEqual(['Cloth', 'Wood']);
  });
  it('has its wood, gloss, glass and thin cloth from the MTL, and every thing that is not read is named', async () => {
    const { document: d, report } = await bring('stall.zip', together('stall.obj', 'stall.mtl', 'wood grain.png'));
    const [wood, cloth] = ['Wood', 'Cloth'].map((n) => d.materials.find((m) => m.name === n)!);
    expect(wood).toMatchObject({ ior: 1.45, roughness: expect.closeTo(Math.sqrt(2 / 100), 3), metallic: 0 });
    expect(d.textures[wood!.textures.base!.texture]).toMatchObject({ name: 'wood grain.png', width: 4 });
    expect(cloth).toMatchObject({ roughness: 0.9, layers: { alphaMode: 'blend', alpha: 0.75 } });
    expect(report.faults.map((f) => f.message)).toEqual([
      expect.stringMatching(/options of texture “wood grain.png”/),
      expect.stringMatching(/Of material “Cloth”, map_bump is not read/),
      expect.stringMatching(/points or lines/),
    ]);
  });
  it('stands in grey without its materials, and says which file is missing', async () => {
    const { document: d, report } = await bring('stall.obj', sample('stall.obj'));
    expect(d.materials.every((m) => m.baseColor[0] === m.baseColor[2])).toBe(true);
    expect(report.faults[0]).toMatchObject({ kind: 'missing-texture', subject: 'stall.mtl' });
  });
  it('is a closed body', async () => {
    const { document: d, blobs } = await bring('stall.zip', together('stall.obj', 'stall.mtl'));
    const parts = d.nodes
      .find((n) => n.path === 'Crate')!
      .parts!.map((p) => unpackGeometry(blobs.get(d.meshes[p.mesh]!.blob)!.slice(), d.meshes[p.mesh]!));
    let base = 0;
    const positions = new Float32Array(parts.flatMap((g) => [...g.positions]));
    const indices = parts.flatMap((g) => {
      const out = [...g.indices].map((i) => i + base);
      base += g.positions.length / 3;
      return out;
    });
    expect(isClosed(positions, indices)).toBe(true);
  });
});

describe('a kettle, cups, a lamp and a camera', () => {
  it.each(['three.gltf', 'three.glb', 'draco.glb', 'gltfpack.glb'])('come in from %s', async (name) => {
    const r = await bring(name, sample(name));
    const { document: d } = r;
    expect(objects(d)).toHaveLength(4);
    expect(d.materials.find((m) => m.name === 'Copper')).toMatchObject({
      metallic: 1,
      roughness: expect.closeTo(0.3, 2),
      layers: { coat: 0.5 },
    });
    expect(d.lights).toEqual([
      expect.objectContaining({ type: 'spot', intensity: expect.closeTo(40, 1), outerConeRad: expect.closeTo(0.6, 2) }),
    ]);
    expect(d.cameras).toEqual([
      expect.objectContaining({
        projection: 'perspective',
        halfHeight: expect.closeTo(Math.tan((20 * Math.PI) / 180), 4),
      }),
    ]);
    extent(r).forEach((x, c) => expect(x).toBeCloseTo([0.85, 0.4, 0.65][c]!, 1));
    expect(r.report.faults).toEqual([]);
  });
  it('the kettle alone comes in from an OBJ', async () => {
    const { document: d } = await bring('three.obj', sample('three.obj'));
    expect(objects(d)).toEqual(['Kettle']);
    expect(d.meshes[0]).toMatchObject({ triangles: 80, normals: true, uv0: true });
    expect(d.meshes[0]!.vertices).toBeLessThan(80 * 3); // welded again
  });
  it('every sample is read by one of these tests', () => {
    expect(
      readdirSync(SAMPLES)
        .filter((n) => /\.(glb|gltf|obj)$/.test(n))
        .sort(),
    ).toEqual([
      'assimp.glb',
      'assimp.gltf',
      'assimp.obj',
      'draco.glb',
      'gltfpack.glb',
      'obj2gltf.glb',
      'stall.obj',
      'three.glb',
      'three.gltf',
      'three.obj',
    ]);
  });
});

describe('what a file says beyond its shapes', () => {
  async function crate(change: (doc: Document) => void): Promise<Uint8Array> {
    const doc = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(sample('three.glb'));
    change(doc);
    return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(doc);
  }
  it('its own choice of materials is kept, and follows things that a later revision calls otherwise', async () => {
    const withVariants = (doc: Document) => {
      const v = doc.createExtension(KHRMaterialsVariants);
      const kettle = doc
        .getRoot()
        .listMeshes()
        .find((m) => m.listPrimitives()[0]!.getMaterial()?.getName() === 'Copper')!
        .listPrimitives()[0]!;
      const iron = doc.createMaterial('Iron');
      kettle.setExtension(
        'KHR_materials_variants',
        v.createMappingList().addMapping(v.createMapping().setMaterial(iron).addVariant(v.createVariant('Cheap'))),
      );
    };
    const { document: first } = await bring('variants.glb', await crate(withVariants));
    expect(first.variants).toEqual([{ name: 'Cheap', wears: { Kettle: 'Iron' } }]);
    const { document: second } = await bring(
      'variants.glb',
      await crate((doc) => {
        withVariants(doc);
        doc
          .getRoot()
          .listNodes()
          .find((n) => n.getName() === 'Kettle')!
          .setName('Pot');
        doc
          .getRoot()
          .listMaterials()
          .find((m) => m.getName() === 'Iron')!
          .setName('Steel');
      }),
    );
    const match = matchScenes([first], second, [
      { material: false, from: 'Kettle', to: 'Pot' },
      { material: true, from: 'Iron', to: 'Steel' },
    ]);
    expect(reviseDocument([first], second, match).variants).toEqual([{ name: 'Cheap', wears: { Kettle: 'Iron' } }]);
  });
  it('its layers are kept', async () => {
    const { document: d } = await bring(
      'layers.glb',
      await crate((doc) => {
        doc
          .getRoot()
          .listNodes()
          .find((n) => n.getName() === 'Kettle')!
          .setExtras({ layer: 'Ware' });
      }),
    );
    expect(d.nodes.find((n) => n.name === 'Kettle')!.layer).toBe('Ware');
  });
  it('a KTX2 texture is named as not read, and the scene opens', async () => {
    const { document: d, report } = await bring(
      'ktx.glb',
      await crate((doc) => {
        doc.createExtension(KHRTextureBasisu).setRequired(true);
        doc
          .getRoot()
          .listMaterials()[0]!
          .setBaseColorTexture(doc.createTexture('Hammered').setMimeType('image/ktx2').setImage(new Uint8Array(80)));
      }),
    );
    expect(objects(d)).toHaveLength(4);
    expect(report.faults).toEqual([
      expect.objectContaining({ kind: 'unread-texture', subject: 'Hammered', message: expect.stringMatching(/KTX2/) }),
    ]);
  });
  it('an OBJ without surfaces, and a text that only ends in .obj, are refused', async () => {
    const refused = async (name: string, text: string) =>
      bring(name, new TextEncoder().encode(text)).then(
        () => '',
        (e: unknown) => (e as Error).message,
      );
    expect(await refused('lines.obj', 'v 0 0 0\nv 1 0 0\nl 1 2\n')).toMatch(/no surface/);
    expect(await refused('letter.obj', 'Dear reader,\n')).toMatch(/not a scene that can be read/);
  });
});
