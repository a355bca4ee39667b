// Animation as the scene document knows it, and the scene at a time. After glTF 2.0: channels move, turn and scale
// nodes or weigh morph targets; all of a file's animations play together, and where two move the same thing the first
// one does.
import type { Transform, AnimationChannel } from './motion.ts';
import type { SceneDocument, SceneNode } from './document.ts';
import { worldMatrices } from './matrix.ts';
import type { CameraSettings } from './cameraShape.ts';

/** A frame number is a time; a second has so many. */
export const FRAMES_PER_SECOND = 24;

export function composed({ translation: t, rotation: [x = 0, y = 0, z = 0, w = 1], scale: s }: Transform): number[] {
  return [
    (1 - 2 * (y * y + z * z)) * s[0]!,
    2 * (x * y + z * w) * s[0]!,
    2 * (x * z - y * w) * s[0]!,
    0,
    2 * (x * y - z * w) * s[1]!,
    (1 - 2 * (x * x + z * z)) * s[1]!,
    2 * (y * z + x * w) * s[1]!,
    0,
    2 * (x * z + y * w) * s[2]!,
    2 * (y * z - x * w) * s[2]!,
    (1 - 2 * (x * x + y * y)) * s[2]!,
    0,
    t[0]!,
    t[1]!,
    t[2]!,
    1,
  ];
}

/** A channel's value at a time; before the first key and after the last it stays. */
export function sampleChannel(c: AnimationChannel, data: Float32Array, timeS: number): number[] {
  const time = (k: number) => data[c.times + k]!;
  const cubic = c.interpolation === 'cubic';
  const stride = c.size * (cubic ? 3 : 1);
  const at = (k: number, part = cubic ? 1 : 0) =>
    Array.from(data.subarray(c.values + k * stride + part * c.size, c.values + k * stride + (part + 1) * c.size));
  if (!(timeS > time(0))) return at(0);
  if (timeS >= time(c.keys - 1)) return at(c.keys - 1);
  let lo = 0;
  let hi = c.keys - 1; // time(lo) ≤ timeS < time(hi)
  while (hi - lo > 1) {
    const mid = (lo + hi) >> 1;
    if (time(mid) <= timeS) lo = mid;
    else hi = mid;
  }
  const a = at(lo);
  const b = at(hi);
  const span = time(hi) - time(lo);
  const u = span > 0 ? (timeS - time(lo)) / span : 0;
  if (c.interpolation === 'step') return a;
  if (!cubic) return c.path === 'rotation' ? slerp(a, b, u) : a.map((x, i) => x + (b[i]! - x) * u);
  const out = at(lo, 2);
  const into = at(hi, 0);
  const u2 = u * u;
  const u3 = u2 * u; // Hermite spline, tangents per second (glTF 2.0, appendix C)
  const v = a.map(
    (x, i) =>
      (2 * u3 - 3 * u2 + 1) * x +
      span * (u3 - 2 * u2 + u) * out[i]! +
      (-2 * u3 + 3 * u2) * b[i]! +
      span * (u3 - u2) * into[i]!,
  );
  return c.path === 'rotation' ? unit(v) : v;
}
const unit = (q: readonly number[]): number[] => {
  const l = Math.hypot(...q) || 1;
  return q.map((x) => x / l);
};
/** Shortest turn between two unit quaternions. */
function slerp(a: readonly number[], b: readonly number[], u: number): number[] {
  let cos = a.reduce((s, x, i) => s + x * b[i]!, 0);
  const sign = cos < 0 ? -1 : 1;
  cos = Math.min(1, cos * sign);
  if (cos > 0.9995) return unit(a.map((x, i) => x + (sign * b[i]! - x) * u));
  const angle = Math.acos(cos);
  const k = 1 / Math.sin(angle);
  const p = Math.sin((1 - u) * angle) * k;
  const q = Math.sin(u * angle) * k * sign;
  return a.map((x, i) => p * x + q * b[i]!);
}

/** The scene as it stands at a time: nodes moved, morph weights set. The scene itself where nothing in it moves. */
export function poseDocument(document: SceneDocument, data: Float32Array | undefined, timeS: number): SceneDocument {
  const animation = document.animation;
  if (!animation || !data) return document;
  const nodes: SceneNode[] = [...document.nodes];
  const moved = new Map<number, { -readonly [K in keyof Transform]: Transform[K] }>();
  for (const c of animation.channels) {
    const value = sampleChannel(c, data, timeS);
    const node = nodes[c.node]!;
    if (c.path === 'weights') {
      nodes[c.node] = { ...node, weights: value };
      continue;
    }
    let t = moved.get(c.node);
    if (!t)
      moved.set(
        c.node,
        (t = { ...(node.rest ?? { translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] }) }),
      );
    t[c.path] = value;
  }
  for (const [i, t] of moved) nodes[i] = { ...nodes[i]!, matrix: composed(t) };
  return { ...document, nodes };
}

/** The data of a scene's animation; undefined where nothing moves. */
export async function animationData(
  document: SceneDocument,
  load: (hash: string) => Promise<Uint8Array>,
): Promise<Float32Array | undefined> {
  if (!document.animation) return undefined;
  const bytes = await load(document.animation.blob);
  if (bytes.byteLength !== document.animation.floats * 4)
    throw new RangeError(
      `The animation holds ${bytes.byteLength} bytes instead of ${document.animation.floats * 4}. Import the scene again.`,
    );
  return new Float32Array(bytes.slice().buffer);
}

/** At a camera's frame, and at the next where something moves. */
export interface Pose {
  readonly now: Posed;
  readonly next?: Posed | undefined;
}
export const poseFor = (document: SceneDocument, data: Float32Array | undefined, camera: CameraSettings): Pose => ({
  now: poseAt(document, data, camera),
  ...(data && { next: poseAt(document, data, camera, 1) }),
});

export interface Posed {
  readonly document: SceneDocument;
  readonly camera: CameraSettings;
}
/** Scene and camera at the camera's frame, `later` frames on. A camera that follows one of the scene moves with it. */
export function poseAt(
  document: SceneDocument,
  data: Float32Array | undefined,
  camera: CameraSettings,
  later = 0,
): Posed {
  const posed = poseDocument(document, data, ((camera.frame ?? 0) + later) / FRAMES_PER_SECOND);
  return { document: posed, camera: cameraIn(posed, camera) };
}
/** Where a camera stands in a scene that is posed already. */
export function cameraIn(posed: SceneDocument, camera: CameraSettings): CameraSettings {
  const node = camera.follows === undefined ? -1 : posed.nodes.findIndex((n) => n.path === camera.follows);
  return node < 0 ? camera : { ...camera, matrix: worldMatrices(posed.nodes)[node]! };
}

/** Nodes that move themselves or stand in one that does. */
export function movingNodes(document: SceneDocument): Set<number> {
  const moving = new Set(document.animation?.channels.filter((c) => c.path !== 'weights').map((c) => c.node));
  document.nodes.forEach((n, i) => {
    if (moving.has(n.parent)) moving.add(i);
  });
  return moving;
}
