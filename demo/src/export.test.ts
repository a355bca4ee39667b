// A scene goes out and comes in again with its looks as material variants.
import { createHash } from 'node:crypto';
import validator from 'gltf-validator';
import { makeTeaStall } from './index.ts';
import { describe, expect, it } from 'vitest';
import { importScene } from '@variscen/core/import';
import { type Change, type Layer, placeDocument, resolve, SceneIndex } from '@variscen/core/looks';
import { type SceneDocument, cameraForScene, unpackGeometry, worldMatrices } from '@variscen/core/scene';
import { exportScene, splitDocument } from '@variscen/core/export';

const bring = (bytes: Uint8Array) =>
  importScene('stall.glb', bytes, {
    hash: (b) => createHash('sha256').update(b).digest('hex'),
    accelerationBytes: () => Promise.resolve(0),
  });
const KETTLE = 'object:Harvest fair/Ware/Kettle, large';
const set = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const option = (name: string, ...changes: Change[]): { name: string; layer: Layer } => ({
  name,
  layer: { id: name, name, kind: 'option', facet: 'materials', changes },
});

describe('a scene as GLB', () => {
  it('holds every object, light, camera and material as it was, and options as variants that come in as options again', async () => {
    const { document, blobs } = await bring(await makeTeaStall('light'));
    const variants = [
      option('Celadon ware', set(KETTLE, 'object.material', 'Celadon')),
      option(
        'Red glaze',
        set('material:Copper', 'material.baseColor', [0.5, 0.1, 0.1]),
        set('material:Copper', 'material.metallic', 0),
      ),
    ];
    const { bytes, remarks } = await exportScene(document, [], variants, {
      geometry: (i) => Promise.resolve(unpackGeometry(blobs.get(document.meshes[i]!.blob)!, document.meshes[i]!)),
      image: (blob) => Promise.resolve(blobs.get(blob)!),
    });
    expect(remarks).toEqual([]);
    const { issues } = await validator.validateBytes(bytes, { maxIssues: 5, ignoredIssues: ['UNUSED_OBJECT'] });
    expect(issues.messages.filter((m) => m.severity < 1)).toEqual([]);
    const again = (await bring(bytes)).document;
    const about = (d: SceneDocument) =>
      d.nodes.map((n) => [
        n.path,
        n.matrix.map((x) => Number(x.toFixed(3)) + 0),
        n.light === undefined ? null : d.lights[n.light],
        n.camera === undefined ? null : d.cameras[n.camera]!.widthPx,
        n.parts?.map((p) => [d.meshes[p.mesh]!.triangles, d.materials[p.material]!.name]),
      ]);
    expect(about(again)).toEqual(about(document));
    const plain = (d: SceneDocument, name: string) => {
      const { textures, ...m } = d.materials.find((x) => x.name === name)!;
      return {
        ...m,
        textures: Object.entries(textures).map(([slot, t]) => [
          slot,
          d.textures[t.texture]!.blob,
          t.matrix.map((x) => Number(x.toFixed(3)) + 0),
          t.wrapS,
        ]),
      };
    };
    for (const name of ['Copper', 'Jar glass', 'Celadon', 'Lantern paper', 'Wet ground'])
      expect(plain(again, name)).toEqual(plain(document, name));
    const [celadon, red] = again.variants!;
    expect([celadon!.name, celadon!.wears]).toEqual(['Celadon ware', { [KETTLE.slice('object:'.length)]: 'Celadon' }]);
    // all that wore copper wears one more material, red and no metal
    const worn = [...new Set(Object.values(red!.wears))];
    expect(worn).toEqual(['Copper (2)']);
    expect(again.materials.find((m) => m.name === 'Copper (2)')).toMatchObject({
      baseColor: [0.5, 0.1, 0.1].map((x) => expect.closeTo(x, 5)),
      metallic: 0,
    });
    expect(Object.keys(red!.wears).length).toBe(
      document.nodes.filter((n) => n.parts?.length === 1 && document.materials[n.parts[0]!.material]!.name === 'Copper')
        .length,
    );
    // and brought in as an option, a variant changes the same things
    expect(
      resolve(new SceneIndex(again), [
        {
          id: 'v',
          name: 'v',
          kind: 'option',
          facet: 'materials',
          changes: Object.entries(celadon!.wears).map(([path, value]) =>
            set(`object:${path}`, 'object.material', value),
          ),
        },
      ]).get(KETTLE, 'object.material'),
    ).toBe('Celadon');
  });
});

describe('what one camera needs', () => {
  it('is a valid file of the objects that are kept, where the look places them, with the lights that are on', async () => {
    const { document, blobs } = await bring(await makeTeaStall('light'));
    const state = resolve(new SceneIndex(document), [
      {
        id: 'look',
        name: '',
        kind: 'base',
        changes: [
          set(KETTLE, 'object.offset', [0.5, 0, 0]),
          set('light:Harvest fair/Lights/Counter lamp', 'light.intensity', 99),
          set('light:Harvest fair/Lights/Counter lamp', 'light.offset', [0, 1, 0]),
        ],
      },
    ]);
    const placed = placeDocument(document, state);
    const numberOf = (path: string) => placed.nodes.findIndex((n) => n.path === path);
    const kettle = numberOf('Harvest fair/Ware/Kettle, large');
    const settings = { ...cameraForScene(placed), fStop: 4 };
    const { document: own, meshes } = splitDocument({
      document: placed,
      state,
      keep: new Set([kettle, numberOf('Harvest fair/Ground/Wet ground')]),
      camera: { name: 'Kettle, close', settings },
    });
    const { bytes } = await exportScene(own, [], [], {
      geometry: (i) => {
        const mesh = document.meshes[meshes[i]!.mesh]!;
        return Promise.resolve(unpackGeometry(blobs.get(mesh.blob)!, mesh));
      },
      image: (blob) => Promise.resolve(blobs.get(blob)!),
    });
    const { issues } = await validator.validateBytes(bytes, { maxIssues: 5, ignoredIssues: ['UNUSED_OBJECT'] });
    expect(issues.messages.filter((m) => m.severity < 1)).toEqual([]);
    const again = (await bring(bytes)).document;
    const named = (kept: (n: SceneDocument['nodes'][number]) => boolean) => again.nodes.filter(kept).map((n) => n.name);
    expect(named((n) => n.parts !== undefined).sort()).toEqual(['Kettle, large', 'Wet ground']);
    expect(again.cameras).toHaveLength(1);
    expect(again.cameras[0]).toMatchObject({ widthPx: settings.widthPx, fStop: 4 });
    // all lamps of the stall are on; what gives light as an object was not kept
    expect(again.lights.length).toBe(document.nodes.filter((n) => n.light !== undefined).length);
    const world = worldMatrices(again.nodes);
    const was = worldMatrices(document.nodes);
    const at = (d: SceneDocument, w: readonly (readonly number[])[], name: string) =>
      w[d.nodes.findIndex((n) => n.name === name)]!.slice(12, 15);
    const moved = (name: string) =>
      at(again, world, name).map((x, k) => Number((x - at(document, was, name)[k]!).toFixed(3)) + 0);
    expect(moved('Kettle, large')).toEqual([0.5, 0, 0]);
    expect(moved('Wet ground')).toEqual([0, 0, 0]);
    expect(moved('Counter lamp')).toEqual([0, 1, 0]);
    const lamp = again.nodes.find((n) => n.name === 'Counter lamp')!;
    expect(again.lights[lamp.light!]!.intensity).toBeCloseTo(99, 3);
    expect(bytes.length).toBeLessThan((await makeTeaStall('light')).length / 3);
  });
});
