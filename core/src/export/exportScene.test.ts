// A scene that goes out comes in again as it was, no larger.
import { createHash } from 'node:crypto';
import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { describe, expect, it } from 'vitest';
import { importScene } from '../import/index.ts';
import type { Layer } from '../looks/index.ts';
import { type Geometry, type SceneDocument, type SceneNode, placedTriangles } from '../scene/index.ts';
import { exportScene } from './exportScene.ts';

const geometry: Geometry = {
  positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0]),
  indices: new Uint32Array([0, 1, 2]),
};
const at = (x: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, 0, 1] as const;
const material = (name: string, textures: SceneDocument['materials'][number]['textures'] = {}) => ({
  name,
  baseColor: [0.5, 0.4, 0.3] as const,
  metallic: 0,
  roughness: 0.5,
  transmission: 0,
  ior: 1.5,
  specular: 1,
  emissionColor: [0, 0, 0] as const,
  emissionStrength: 1,
  normalScale: 1,
  attenuationColor: [1, 1, 1] as const,
  attenuationDistanceM: null,
  solid: false,
  doubleSided: true,
  textures,
});
const plain = { uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [1, 0, 0, 0, 1, 0] } as const;

function sceneOf(nodes: readonly SceneNode[], more: Partial<SceneDocument> = {}): SceneDocument {
  return {
    version: 1,
    nodes,
    meshes: [
      {
        name: 'Tile',
        blob: 'tile',
        vertices: 3,
        triangles: 1,
        normals: false,
        uv0: false,
        uv1: false,
        colors: false,
        min: [0, 0, 0],
        max: [1, 1, 0],
        accelerationBytes: 288,
      },
    ],
    materials: [material('Clay'), material('Glaze')],
    textures: [],
    lights: [],
    cameras: [],
    ...more,
  };
}
const tiles = (n: number): SceneNode[] =>
  Array.from({ length: n }, (_, i) => ({
    path: `Tile ${i}`,
    name: `Tile ${i}`,
    parent: -1,
    matrix: at(i),
    parts: [{ mesh: 0, material: 0 }],
  }));
const base: Layer = { id: 'base', name: 'Base', kind: 'base', changes: [] };
const variant = (name: string, changes: Layer['changes']) => ({
  name,
  layer: { id: name, name, kind: 'option', facet: 'materials', changes } as Layer,
});
const image = () => Promise.resolve(new Uint8Array([1, 2, 3]));
const write = (scene: SceneDocument, variants: Parameters<typeof exportScene>[2] = []) =>
  exportScene(scene, [base], variants, { geometry: () => Promise.resolve(geometry), image });
const hash = (b: Uint8Array) => createHash('sha256').update(b).digest('hex');
const readBack = (bytes: Uint8Array) =>
  importScene('out.glb', bytes, { hash, accelerationBytes: () => Promise.resolve(288) });

describe('a scene that goes out', () => {
  it('shares what its objects share, and so does what comes in again', async () => {
    const { bytes } = await write(sceneOf(tiles(5000)));
    const doc = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes);
    expect(doc.getRoot().listMeshes()).toHaveLength(1);
    const { document } = await readBack(bytes);
    expect([document.meshes.length, placedTriangles(document), document.nodes.length]).toEqual([1, 5000, 5000]);
  });

  it('keeps apart what wears another material, and shares it among those that wear the same', async () => {
    const nodes = tiles(6).map((n, i) => ({ ...n, parts: [{ mesh: 0, material: i % 2 }] }));
    const glazed = variant('Glazed', [{ target: 'object:Tile 4', property: 'object.material', value: 'Glaze' }]);
    const { document } = await readBack((await write(sceneOf(nodes), [glazed])).bytes);
    const worn = document.nodes.map((n) => document.materials[n.parts![0]!.material]!.name);
    expect(worn).toEqual(['Clay', 'Glaze', 'Clay', 'Glaze', 'Clay', 'Glaze']);
    expect(document.variants).toEqual([{ name: 'Glazed', wears: { 'Tile 4': 'Glaze' } }]);
  });

  it('has a variant that equals the base, alone and among others', async () => {
    const same = variant('As it is', []);
    const glazed = variant('Glazed', [{ target: 'object:Tile 1', property: 'object.material', value: 'Glaze' }]);
    for (const variants of [[same], [glazed, same], [same, glazed]]) {
      const { document, report } = await readBack((await write(sceneOf(tiles(2)), variants)).bytes);
      expect(document.variants?.map((v) => v.name).sort()).toEqual(variants.map((v) => v.name).sort());
      expect(document.variants?.find((v) => v.name === 'As it is')?.wears).toEqual({});
      expect(report.faults).toEqual([]);
    }
  });

  it.each([
    ['image/webp', 'EXT_texture_webp'],
    ['image/avif', 'EXT_texture_avif'],
  ])('says by which extension its %s is read', async (mediaType, extension) => {
    const textures = [{ name: 'Weave', blob: 'weave', mediaType, width: 4, height: 4 }];
    const materials = [material('Clay', { base: { texture: 0, ...plain } }), material('Glaze')];
    const { bytes } = await write(sceneOf(tiles(1), { textures, materials }));
    const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
    const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as {
      extensionsUsed: string[];
      extensionsRequired: string[];
      textures: { source?: number; extensions: Record<string, { source: number }> }[];
    };
    expect(json.extensionsUsed).toContain(extension);
    expect(json.extensionsRequired).toContain(extension);
    expect(json.textures[0]!.source).toBeUndefined();
    expect(json.textures[0]!.extensions[extension]).toEqual({ source: 0 });
  });
});
