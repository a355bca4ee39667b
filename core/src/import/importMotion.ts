// What moves in a glTF file: animations, skins and morph targets.
import type { Accessor, Animation, Node, Primitive, Skin } from '@gltf-transform/core';
import {
  type AnimationChannel,
  type DeformData,
  IDENTITY,
  type MeshDeform,
  type SceneAnimation,
  type SceneSkin,
  joined,
  packDeform,
} from '../scene/index.ts';

type Keep = (bytes: Uint8Array) => string;

const numbers = (a: Accessor, size: number, count: number): Float32Array => {
  const out = new Float32Array(count * size);
  const e: number[] = [];
  for (let i = 0; i < count; i++) {
    a.getElement(i, e);
    for (let k = 0; k < size; k++) {
      const x = e[k] ?? 0;
      out[i * size + k] = Number.isFinite(x) ? x : 0;
    }
  }
  return out;
};
const INTERPOLATION: Readonly<Record<string, AnimationChannel['interpolation']>> = {
  LINEAR: 'linear',
  STEP: 'step',
  CUBICSPLINE: 'cubic',
};
const SIZE: Readonly<Record<string, number>> = { translation: 3, rotation: 4, scale: 3 };

/** undefined where nothing of the scene moves. */
export function readAnimation(
  animations: readonly Animation[],
  nodes: ReadonlyMap<Node, number>,
  keep: Keep,
  fault: (subject: string, message: string) => void,
): SceneAnimation | undefined {
  const channels: AnimationChannel[] = [];
  const sections: Float32Array[] = [];
  const taken = new Set<string>();
  let floats = 0;
  let durationS = 0;
  const put = (a: Float32Array): number => {
    const at = floats;
    sections.push(a);
    floats += a.length;
    return at;
  };
  for (const animation of animations) {
    const name = animation.getName() || 'animation';
    let twice = 0;
    for (const c of animation.listChannels()) {
      const target = c.getTargetNode();
      const sampler = c.getSampler();
      const path = c.getTargetPath() as AnimationChannel['path'] | null;
      const node = target ? nodes.get(target) : undefined;
      const input = sampler?.getInput();
      const output = sampler?.getOutput();
      const interpolation = INTERPOLATION[sampler?.getInterpolation() ?? 'LINEAR'];
      if (node === undefined || !path || !input || !output || !interpolation || input.getCount() === 0) continue;
      const times = numbers(input, 1, input.getCount());
      const keys = times.length;
      const perKey = interpolation === 'cubic' ? 3 : 1;
      const size = SIZE[path] ?? (output.getCount() * output.getElementSize()) / (keys * perKey);
      if (
        !Number.isInteger(size) ||
        size < 1 ||
        output.getCount() * output.getElementSize() !== keys * perKey * size ||
        times.some((t, i) => i > 0 && t < times[i - 1]!)
      ) {
        fault(name, `A channel of the animation “${name}” does not fit its keys and is left out.`);
        continue;
      }
      if (taken.has(`${node} ${path}`)) {
        twice++;
        continue;
      }
      taken.add(`${node} ${path}`);
      channels.push({
        node,
        path,
        interpolation,
        keys,
        size,
        times: put(times),
        values: put(numbers(output, output.getElementSize(), output.getCount())),
      });
      durationS = Math.max(durationS, times.at(-1)!);
    }
    if (twice)
      fault(name, `The animation “${name}” moves ${twice} things that an earlier one moves too; the earlier one does.`);
  }
  if (!channels.length) return undefined;
  return {
    blob: keep(joined(sections)),
    floats,
    durationS,
    names: animations.map((a) => a.getName() || 'animation'),
    channels,
  };
}

/** undefined where a joint is not in the scene. */
export function readSkin(skin: Skin, nodes: ReadonlyMap<Node, number>): SceneSkin | undefined {
  const joints = skin.listJoints().map((j) => nodes.get(j));
  const bind = skin.getInverseBindMatrices();
  if (!joints.length || joints.some((j) => j === undefined)) return undefined;
  const inverseBind = joints.flatMap((_, i) => {
    const m = bind && i < bind.getCount() ? bind.getElement(i, []) : IDENTITY;
    return m.every(Number.isFinite) ? [...m] : [...IDENTITY];
  });
  return { joints: joints as number[], inverseBind };
}

/** undefined for a mesh that keeps its shape. */
export function readDeform(
  p: Primitive,
  vertices: number,
  keep: Keep,
  fault: (message: string) => void,
): MeshDeform | undefined {
  const joints = p.getAttribute('JOINTS_0');
  const weights = p.getAttribute('WEIGHTS_0');
  const skinned = !!joints && !!weights && joints.getCount() === vertices && weights.getCount() === vertices;
  if (p.getAttribute('JOINTS_1')) fault('of the joints that move a point only the first four count.');
  const data: { -readonly [K in keyof DeformData]: DeformData[K] } = { targets: [] };
  const targets: MeshDeform['targets'][number][] = [];
  if (skinned) {
    data.joints = Uint16Array.from(numbers(joints, 4, vertices));
    const w = numbers(weights, 4, vertices);
    for (let v = 0; v < vertices; v++) {
      const q = v * 4;
      const sum = w[q]! + w[q + 1]! + w[q + 2]! + w[q + 3]!;
      if (sum > 0) for (let k = 0; k < 4; k++) w[q + k]! /= sum;
      else w[q] = 1;
    }
    data.weights = w;
  }
  for (const t of p.listTargets()) {
    const position = t.getAttribute('POSITION');
    const normal = t.getAttribute('NORMAL');
    const positions =
      position && position.getCount() === vertices ? numbers(position, 3, vertices) : new Float32Array(vertices * 3);
    const min: [number, number, number] = [0, 0, 0];
    const max: [number, number, number] = [0, 0, 0];
    for (let i = 0; i < positions.length; i++) {
      min[i % 3] = Math.min(min[i % 3]!, positions[i]!);
      max[i % 3] = Math.max(max[i % 3]!, positions[i]!);
    }
    const normals = normal && normal.getCount() === vertices ? numbers(normal, 3, vertices) : undefined;
    data.targets = [...data.targets, { positions, ...(normals && { normals }) }];
    targets.push({ normals: !!normals, min, max });
  }
  if (!skinned && !targets.length) return undefined;
  return { blob: keep(packDeform(data)), skinned, targets };
}
