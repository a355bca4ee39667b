// A scene in motion: keys, skins and morph targets against known places, and through a file.
import { Accessor, Document, WebIO } from '@gltf-transform/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type AnimationChannel,
  type DeformData,
  type SceneDocument,
  type SceneNode,
  animationData,
  boundsOf,
  cameraForScene,
  deformGeometry,
  deforms,
  movingNodes,
  packDeform,
  placements,
  poseAt,
  poseDocument,
  sampleChannel,
  transformPoint,
  unpackDeform,
  unpackGeometry,
  worldMatrices,
} from './index.ts';
import { importScene } from '../import/index.ts';

const channel = (
  interpolation: AnimationChannel['interpolation'],
  path: AnimationChannel['path'],
  keys: number,
  size: number,
): AnimationChannel => ({ node: 0, path, interpolation, keys, size, times: 0, values: keys });
const HALF = Math.SQRT1_2;

describe('keys', () => {
  it('are joined by lines, or hold, and stay before the first and after the last', () => {
    const data = new Float32Array([1, 3, 0, 0, 0, 10, 20, 30]);
    const at = (t: number, how: AnimationChannel['interpolation'] = 'linear') =>
      sampleChannel(channel(how, 'translation', 2, 3), data, t);
    expect([at(0), at(2), at(9)]).toEqual([
      [0, 0, 0],
      [5, 10, 15],
      [10, 20, 30],
    ]);
    expect([at(2.99, 'step'), at(3, 'step')]).toEqual([
      [0, 0, 0],
      [10, 20, 30],
    ]);
  });
  it('are joined by Hermite splines whose tangents are per second', () => {
    // from 0 to 0 in 2 s, leaving with 1/s and arriving with −1/s: half-way at 2·(1/8)·1 − 2·(−1/8)·(−1)… = 0.5
    const data = new Float32Array([0, 2, /* in, value, out */ 0, 0, 1, -1, 0, 0]);
    expect(sampleChannel(channel('cubic', 'weights', 2, 1), data, 1)[0]).toBeCloseTo(0.5, 6);
  });
  it('turn the shorter way', () => {
    // a quarter about Y, written with the other sign
    const data = new Float32Array([0, 1, 0, 0, 0, 1, 0, -HALF, 0, -HALF]);
    const [, y, , w] = sampleChannel(channel('linear', 'rotation', 2, 4), data, 0.5);
    expect([Math.abs(y!), Math.abs(w!)].map((x) => Number(x.toFixed(5)))).toEqual([0.38268, 0.92388]);
  });
});

const strip = {
  positions: new Float32Array([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0, 1, 1, 0, 2, 1, 0]),
  normals: new Float32Array(Array.from({ length: 18 }, (_, i) => (i % 3 === 2 ? 1 : 0))),
  indices: new Uint32Array([0, 1, 3, 1, 4, 3, 1, 2, 4, 2, 5, 4]),
};
const bones: DeformData = {
  joints: Uint16Array.from(Array.from({ length: 6 }, (_, v) => (v % 3 === 2 ? [1, 0, 0, 0] : [0, 1, 0, 0])).flat()),
  weights: Float32Array.from(
    Array.from({ length: 6 }, (_, v) => (v % 3 === 1 ? [0.5, 0.5, 0, 0] : [1, 0, 0, 0])).flat(),
  ),
  targets: [{ positions: new Float32Array(18).map((_, i) => (i % 3 === 2 ? 1 : 0)) }],
};
const matrix = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
function flag(joint: readonly number[], weights?: readonly number[], skinned = true): SceneDocument {
  const nodes: SceneNode[] = [
    { path: 'Root', name: 'Root', parent: -1, matrix: matrix(0, 0, 0) },
    { path: 'Tip', name: 'Tip', parent: -1, matrix: joint },
    {
      path: 'Flag',
      name: 'Flag',
      parent: -1,
      matrix: matrix(5, 5, 5),
      parts: [{ mesh: 0, material: 0 }],
      ...(skinned && { skin: 0 }),
      ...(weights && { weights }),
    },
  ];
  return {
    version: 1,
    nodes,
    meshes: [
      {
        name: 'Flag',
        blob: 'x',
        vertices: 6,
        triangles: 4,
        normals: true,
        uv0: false,
        uv1: false,
        colors: false,
        min: [0, 0, 0],
        max: [2, 1, 0],
        accelerationBytes: 0,
        deform: { blob: 'y', skinned: true, targets: [{ normals: false, min: [0, 0, 0], max: [0, 0, 1] }] },
      },
    ],
    materials: [],
    textures: [],
    lights: [],
    cameras: [],
    skins: [{ joints: [0, 1], inverseBind: [...matrix(0, 0, 0), ...matrix(0, 0, 0)] }],
  };
}
const shape = (d: SceneDocument) => deformGeometry(d, 2, strip, bones, worldMatrices(d.nodes));

describe('a skin', () => {
  it('lies where its joints are, whatever its node says', () => {
    const d = flag(matrix(0, 0, 4));
    const { positions } = shape(d);
    expect([2, 5, 8].map((i) => positions[i])).toEqual([0, 2, 4]); // root, half and half, tip
    expect(placements(d)[2]).toEqual(matrix(0, 0, 0));
    expect(transformPoint(placements(d)[1]!, [0, 0, 0])).toEqual([0, 0, 4]);
  });
  it('turns normals with its joints', () => {
    const { normals } = shape(flag([HALF, 0, -HALF, 0, 0, 1, 0, 0, HALF, 0, HALF, 0, 0, 0, 0, 1])); // an eighth about Y
    expect([...normals!.slice(6, 9)].map((x) => Number(x.toFixed(4)))).toEqual([0.7071, 0, 0.7071]);
    expect([...normals!.slice(0, 3)]).toEqual([0, 0, 1]);
  });
  it('with morph targets is morphed before it is bent', () => {
    const d = flag(matrix(0, 0, 4), [0.5]);
    expect([2, 5, 8].map((i) => shape(d).positions[i])).toEqual([0.5, 2.5, 4.5]);
  });
  it('stays within its box in any pose', () =>
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 16, maxLength: 16 }),
        fc.double({ min: -2, max: 2, noNaN: true }),
        (m, w) => {
          const d = flag(
            [m[0]!, m[1]!, m[2]!, 0, m[3]!, m[4]!, m[5]!, 0, m[6]!, m[7]!, m[8]!, 0, m[9]!, m[10]!, m[11]!, 1],
            [w],
          );
          const { min, max } = boundsOf(d, 2, 0, worldMatrices(d.nodes));
          const { positions } = shape(d);
          for (let i = 0; i < positions.length; i++) {
            expect(positions[i]!).toBeGreaterThanOrEqual(min[i % 3]! - 1e-5);
            expect(positions[i]!).toBeLessThanOrEqual(max[i % 3]! + 1e-5);
          }
        },
      ),
    ));
  it('is packed and unpacked unchanged', () => {
    const d = unpackDeform(
      packDeform(bones),
      { blob: '', skinned: true, targets: [{ normals: false, min: [0, 0, 0], max: [0, 0, 1] }] },
      6,
    );
    expect([d.joints, d.weights, d.targets[0]!.positions]).toEqual([
      bones.joints,
      bones.weights,
      bones.targets[0]!.positions,
    ]);
    expect(() => unpackDeform(new Uint8Array(5), { blob: '', skinned: true, targets: [] }, 6)).toThrow(
      /5 bytes instead of 144/,
    );
  });
});

/** A pennant that waves: a moving group with a camera in it, a skin, morph weights. */
export async function pennantGlb(): Promise<Uint8Array> {
  const d = new Document();
  const buffer = d.createBuffer();
  const put = (
    array: Float32Array | Uint16Array | Uint32Array,
    type: (typeof Accessor.Type)[keyof typeof Accessor.Type],
  ) => d.createAccessor().setArray(array).setType(type).setBuffer(buffer);
  const target = d.createPrimitiveTarget().setAttribute('POSITION', put(bones.targets[0]!.positions, 'VEC3'));
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', put(strip.positions, 'VEC3'))
    .setAttribute('NORMAL', put(strip.normals, 'VEC3'))
    .setIndices(put(strip.indices, 'SCALAR'))
    .setAttribute('JOINTS_0', put(bones.joints!, 'VEC4'))
    .setAttribute(
      'WEIGHTS_0',
      put(
        bones.weights!.map((w) => w * 2),
        'VEC4',
      ),
    )
    .addTarget(target);
  const root = d.createNode('Pole');
  const tip = d.createNode('Tip');
  const flagNode = d
    .createNode('Pennant')
    .setMesh(d.createMesh('Pennant').addPrimitive(primitive))
    .setSkin(d.createSkin().addJoint(root).addJoint(tip));
  const cart = d
    .createNode('Cart')
    .setTranslation([0, 1, 0])
    .addChild(
      d.createNode('Eye').setCamera(d.createCamera().setType('perspective').setYFov(0.8).setZNear(0.1).setZFar(50)),
    );
  const move = (
    node: typeof root,
    path: 'translation' | 'weights',
    times: number[],
    values: number[],
    type: 'VEC3' | 'SCALAR',
    name = 'Wave',
  ) => {
    const animation =
      d
        .getRoot()
        .listAnimations()
        .find((a) => a.getName() === name) ?? d.createAnimation(name);
    const sampler = d
      .createAnimationSampler()
      .setInput(put(new Float32Array(times), 'SCALAR'))
      .setOutput(put(new Float32Array(values), type))
      .setInterpolation('LINEAR');
    animation
      .addSampler(sampler)
      .addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  };
  move(tip, 'translation', [0, 1], [0, 0, 0, 0, 0, 2], 'VEC3');
  move(cart, 'translation', [0, 1], [0, 1, 0, 24, 1, 0], 'VEC3');
  move(flagNode, 'weights', [0, 1], [0, 1], 'SCALAR');
  move(tip, 'translation', [0, 1], [9, 9, 9, 9, 9, 9], 'VEC3', 'Another');
  d.createScene().addChild(root).addChild(tip).addChild(flagNode).addChild(cart);
  return new WebIO().writeBinary(d);
}

describe('an animated file', () => {
  it('brings in what moves, and says what it does not take', async () => {
    const { document, blobs, report } = await importScene('pennant.glb', await pennantGlb(), {
      hash: (b) => `${b.length}-${b.reduce((s, x) => (s * 31 + x) % 1e9, 7)}`,
      accelerationBytes: () => Promise.resolve(0),
    });
    expect(report.faults.map((f) => f.message)).toEqual([
      'The animation “Another” moves 1 things that an earlier one moves too; the earlier one does.',
    ]);
    const data = (await animationData(document, (hash) => Promise.resolve(blobs.get(hash)!)))!;
    const node = (name: string) => document.nodes.findIndex((n) => n.name === name);
    expect(document.animation).toMatchObject({ durationS: 1, names: ['Wave', 'Another'] });
    expect([...movingNodes(document)].map((i) => document.nodes[i]!.name).sort()).toEqual(['Cart', 'Eye', 'Tip']);
    const at = poseDocument(document, data, 0.5);
    const mesh = document.meshes[0]!;
    const i = node('Pennant');
    expect(deforms(at, i, 0)).toBe(true);
    const g = deformGeometry(
      at,
      i,
      unpackGeometry(blobs.get(mesh.blob)!.slice(), mesh),
      unpackDeform(blobs.get(mesh.deform!.blob)!.slice(), mesh.deform!, mesh.vertices),
      worldMatrices(at.nodes),
    );
    // morphed by a half, the tip by one more; weights that did not add up to 1 do now
    expect([2, 5, 8].map((k) => g.positions[k])).toEqual([0.5, 1, 1.5]);
    // at rest nothing is where it is not
    expect(worldMatrices(poseDocument(document, data, 0).nodes)).toEqual(worldMatrices(document.nodes));
  });
  it('moves a camera that follows one of it, frame by frame', async () => {
    const { document, blobs } = await importScene('pennant.glb', await pennantGlb(), {
      hash: (b) => `${b.length}-${b.reduce((s, x) => (s * 31 + x) % 1e9, 7)}`,
      accelerationBytes: () => Promise.resolve(0),
    });
    const data = await animationData(document, (hash) => Promise.resolve(blobs.get(hash)!));
    const c = { ...cameraForScene(document), follows: 'Cart/Eye' };
    expect([0, 6, 30].map((frame) => poseAt(document, data, { ...c, frame }).camera.matrix[12])).toEqual([0, 6, 24]);
    expect(poseAt(document, data, { ...c, frame: 6 }, 1).camera.matrix[12]).toBeCloseTo(7, 5);
    expect(poseAt(document, data, { ...c, follows: 'Gone', frame: 6 }).camera.matrix).toBe(c.matrix);
  });
});
