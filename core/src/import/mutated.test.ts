// Two thousand scenes that are a little other than they should be: each comes in, or is refused in words, at once.
import { createHash } from 'node:crypto';
import { Document, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, EXTMeshGPUInstancing, KHRLightsPunctual, Light } from '@gltf-transform/extensions';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ImportError } from '../scene/index.ts';
import { importScene } from './importScene.ts';

const hash = (b: Uint8Array) => createHash('sha256').update(b).digest('hex');
const bring = (name: string, bytes: Uint8Array) =>
  importScene(name, bytes, { hash, accelerationBytes: () => Promise.resolve(288) });

/** A little of everything that is read. */
async function scene(): Promise<{ glb: Uint8Array; json: object }> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4', a: number[]) =>
    doc.createAccessor().setType(type).setArray(new Float32Array(a)).setBuffer(buffer);
  const png = Uint8Array.from(
    atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNoAAAAggCBd81ytgAAAABJRU5ErkJggg=='),
    (c) => c.charCodeAt(0),
  );
  const texture = doc.createTexture('Weave').setMimeType('image/png').setImage(png);
  const mesh = doc.createMesh('Tile').addPrimitive(
    doc
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', [0, 0, 0, 1, 0, 0, 1, 1, 0]))
      .setAttribute('TEXCOORD_0', accessor('VEC2', [0, 0, 1, 0, 1, 1]))
      .setAttribute('JOINTS_0', doc.createAccessor().setType('VEC4').setArray(new Uint8Array(12)).setBuffer(buffer))
      .setAttribute('WEIGHTS_0', accessor('VEC4', [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]))
      .setIndices(
        doc
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Uint16Array([0, 1, 2]))
          .setBuffer(buffer),
      )
      .setMaterial(doc.createMaterial('Clay').setBaseColorTexture(texture)),
  );
  const joint = doc.createNode('Joint');
  const skin = doc
    .createSkin()
    .addJoint(joint)
    .setInverseBindMatrices(accessor('MAT4', [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]));
  const lights = doc.createExtension(KHRLightsPunctual);
  const lamp = doc
    .createNode('Lamp')
    .setExtension('KHR_lights_punctual', lights.createLight().setType(Light.Type.SPOT!));
  const copies = doc
    .createExtension(EXTMeshGPUInstancing)
    .createInstancedMesh()
    .setAttribute('TRANSLATION', accessor('VEC3', [0, 0, 0, 2, 0, 0]));
  const many = doc.createNode('Many').setMesh(mesh).setExtension('EXT_mesh_gpu_instancing', copies);
  const camera = doc
    .createNode('Front')
    .setCamera(doc.createCamera().setType('perspective').setYFov(0.6).setZNear(0.1));
  const sampler = doc
    .createAnimationSampler()
    .setInput(accessor('SCALAR', [0, 1]))
    .setOutput(accessor('VEC3', [0, 0, 0, 1, 0, 0]));
  const channel = doc.createAnimationChannel().setTargetNode(joint).setTargetPath('translation').setSampler(sampler);
  doc.createAnimation('Sway').addSampler(sampler).addChannel(channel);
  const stall = doc.createNode('Stall').addChild(joint).addChild(doc.createNode('Tile').setMesh(mesh).setSkin(skin));
  doc.createScene('All').addChild(stall).addChild(lamp).addChild(many).addChild(camera);
  const glb = await new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(doc);
  const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
  return { glb, json: JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))) as object };
}
const whole = await scene();

/** The same GLB around another description. */
function glbOf(json: unknown): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json));
  const padded = new Uint8Array(Math.ceil(text.length / 4) * 4).fill(0x20);
  padded.set(text);
  const view = new DataView(whole.glb.buffer, whole.glb.byteOffset);
  const rest = whole.glb.subarray(20 + view.getUint32(12, true));
  const out = new Uint8Array(20 + padded.length + rest.length);
  out.set(whole.glb.subarray(0, 20));
  out.set(padded, 20);
  out.set(rest, 20 + padded.length);
  const head = new DataView(out.buffer);
  head.setUint32(8, out.length, true);
  head.setUint32(12, padded.length, true);
  return out;
}

/** Every place in a value. */
function placesOf(value: unknown, at: readonly (string | number)[] = []): (readonly (string | number)[])[] {
  if (typeof value !== 'object' || value === null) return [at];
  return [at, ...Object.entries(value).flatMap(([k, v]) => placesOf(v, [...at, k]))];
}
const places = placesOf(whole.json).filter((p) => p.length > 0);
function changed(at: readonly (string | number)[], value: unknown): unknown {
  const json = structuredClone(whole.json) as Record<string | number, unknown>;
  let inside = json;
  for (const k of at.slice(0, -1)) inside = inside[k] as typeof inside;
  if (value === undefined) delete inside[at.at(-1)!];
  else inside[at.at(-1)!] = value;
  return json;
}

async function comesInOrIsRefused(bytes: Uint8Array): Promise<void> {
  try {
    const { document, report } = await bring('mutated.glb', bytes);
    expect(report.objects).toBe(document.nodes.filter((n) => n.parts).length);
    const isNumber = (v: unknown) => typeof v === 'number';
    JSON.stringify(document, (at, v: unknown) => {
      if (isNumber(v)) expect(Number.isFinite(v), at).toBe(true);
      return v;
    });
  } catch (e) {
    expect(e).toBeInstanceOf(ImportError);
    expect((e as Error).message).toContain('“mutated.glb”');
    expect((e as Error).message).not.toMatch(/undefined|is not a function|is not iterable|read properties|\bat \//);
  }
}

describe('a scene whose', () => {
  const strange = fc.oneof(
    fc.constantFrom(
      undefined,
      null,
      {},
      [],
      [null],
      '',
      'x',
      -1,
      0,
      1,
      1.5,
      4e9,
      1e300,
      true,
      { a: 1 },
      [[0]],
      '\ud800',
    ),
    fc.integer(),
  );
  it('description says something else somewhere', { timeout: 120_000 }, async () => {
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...places), strange, (at, value) =>
        comesInOrIsRefused(glbOf(changed(at, value))),
      ),
      { numRuns: 1400, seed: 20261128 },
    );
  });
  it('bytes are other bytes somewhere', { timeout: 120_000 }, async () => {
    const byte = fc.tuple(fc.integer({ min: 0, max: whole.glb.length - 1 }), fc.integer({ min: 0, max: 255 }));
    await fc.assert(
      fc.asyncProperty(
        fc.array(byte, { minLength: 1, maxLength: 6 }),
        fc.nat(whole.glb.length),
        async (bytes, length) => {
          const torn = whole.glb.slice(0, length % 3 ? undefined : length);
          for (const [i, b] of bytes) if (i < torn.length) torn[i] = b;
          await bring('mutated.glb', torn).catch((e: unknown) => {
            expect(e).toBeInstanceOf(ImportError);
          });
        },
      ),
      { numRuns: 600, seed: 20261128 },
    );
  });
  it.each<[string, object, RegExp]>([
    ['accessor claims 3·10⁸ positions that are not there', { accessors: [{ count: 3e8 }] }, /MB of positions/],
    ['node list is an object', { nodes: {} }, /The list “nodes” in “mutated.glb” is not as glTF 2.0 has it/],
    ['node is null', { nodes: [null] }, /Entry 0 of “nodes”/],
    ['version is a number', { asset: { version: 2 } }, /is not glTF 2.0/],
  ])('%s', async (_what, part, message) => {
    const accessors = [{ componentType: 5126, type: 'VEC3', count: 3e8 }];
    const json = { ...whole.json, ...part, ...('accessors' in part && { accessors }) };
    await expect(bring('mutated.glb', glbOf(json))).rejects.toThrow(message);
  });
  it('instances are more than can be worked with', async () => {
    const count = 1_200_000;
    const zeros = { componentType: 5126, type: 'VEC3', count };
    const json = {
      asset: { version: '2.0' },
      extensionsUsed: ['EXT_mesh_gpu_instancing'],
      scenes: [{ nodes: [0] }],
      nodes: [{ name: 'Crumbs', mesh: 0, extensions: { EXT_mesh_gpu_instancing: { attributes: { TRANSLATION: 1 } } } }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count: 3 }, zeros],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      buffers: [{ byteLength: 36 }],
    };
    const bytes = new Uint8Array(new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0]).buffer);
    const uri = `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`;
    const text = JSON.stringify({ ...json, buffers: [{ byteLength: 36, uri }] });
    await expect(bring('mutated.glb', new TextEncoder().encode(text))).rejects.toThrow(/“Crumbs” stands 1200000 times/);
  });
});
