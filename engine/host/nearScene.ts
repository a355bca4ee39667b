// The engine computes in 32-bit floats, which at 100 km from the origin tell no more than eight millimetres apart: what
// stands far away is brought near before it is packed, and positions are put back where they are read.
import {
  type EngineCamera,
  type EngineLight,
  type EngineMesh,
  type EngineScene,
  type SceneMesh,
  type Vec3,
  isStored,
} from './scene.ts';

/** Nearer than this nothing is moved, so that pictures stay the same to the bit. */
const FAR_M = 1000;
const NOWHERE: Vec3 = [0, 0, 0];

const isFar = (p: Vec3): boolean => p.some((x) => Math.abs(x) >= FAR_M);
const isNowhere = (p: Vec3): boolean => p.every((x) => x === 0);
const minus = ([x, y, z]: Vec3, [a, b, c]: Vec3): Vec3 => [x - a, y - b, z - c];

/** Where a mesh's own positions lie, in whole metres, where that is far; then they are moved by it. */
function centreOf(m: EngineMesh): Vec3 {
  // meshes that are posed keep their space: their structure is built at rest and moved
  if (m.restPositions || m.nextPositions) return NOWHERE;
  const centre: Vec3 = [Math.round(m.positions[0]!), Math.round(m.positions[1]!), Math.round(m.positions[2]!)];
  return isFar(centre) ? centre : NOWHERE;
}

/** A mesh near its own origin. It takes the same structure wherever it stood. */
export function nearMesh(m: EngineMesh): { readonly mesh: EngineMesh; readonly movedBy: Vec3 } {
  const movedBy = centreOf(m);
  if (movedBy === NOWHERE) return { mesh: m, movedBy };
  const positions = Float32Array.from(m.positions, (x, i) => x - movedBy[i % 3]!);
  // what was measured where it stood may be another size
  const { accelerationBytes: _, ...rest } = m;
  return { mesh: { ...rest, positions }, movedBy };
}

/** matrix · translation */
function movedIn(matrix: ArrayLike<number>, [x, y, z]: Vec3): number[] {
  const m = Array.from(matrix);
  for (let r = 0; r < 3; r++) m[12 + r]! += m[r]! * x + m[4 + r]! * y + m[8 + r]! * z;
  return m;
}
/** translation by −origin · matrix */
function movedTo(matrix: ArrayLike<number>, origin: Vec3): number[] {
  const m = Array.from(matrix);
  for (let r = 0; r < 3; r++) m[12 + r]! -= origin[r]!;
  return m;
}

export interface NearScene {
  readonly scene: EngineScene<SceneMesh>;
  /** Whole metres that were taken from every position. */
  readonly origin: Vec3;
}

/** The scene about its middle, where that is far from the origin. */
export function nearScene(given: EngineScene<SceneMesh>): NearScene {
  const meshes = given.meshes.map((m) => (isStored(m) ? { mesh: m, movedBy: m.head.movedBy } : nearMesh(m)));
  const isMoved = meshes.some((m) => !isNowhere(m.movedBy));
  const inOwn = (matrix: ArrayLike<number>, mesh: number) =>
    isNowhere(meshes[mesh]!.movedBy) ? matrix : movedIn(matrix, meshes[mesh]!.movedBy);
  const instances = isMoved
    ? given.instances.map((o) => ({
        ...o,
        matrix: inOwn(o.matrix, o.mesh),
        ...(o.nextMatrix && { nextMatrix: inOwn(o.nextMatrix, o.mesh) }),
      }))
    : given.instances;
  const scene = isMoved ? { ...given, meshes: meshes.map((m) => m.mesh), instances } : given;
  const origin = given.middle ? farOrNowhere(given.middle) : middleOf(instances.map((o) => placeOf(o.matrix)));
  return { scene: origin === NOWHERE ? scene : about(scene, origin), origin };
}

const placeOf = (m: ArrayLike<number>): Vec3 => [m[12]!, m[13]!, m[14]!];
const farOrNowhere = (middle: Vec3): Vec3 => (isFar(middle) ? middle : NOWHERE);

/** Where most things stand, in whole metres: the median along each axis, which one thing far out does not move. */
export function middleOf(places: readonly Vec3[]): Vec3 {
  if (!places.length) return NOWHERE;
  const along = (k: number): number => {
    const sorted = Float64Array.from(places, (p) => p[k]!).sort();
    return Math.round(sorted[sorted.length >> 1]!);
  };
  return farOrNowhere([along(0), along(1), along(2)]);
}

function about(scene: EngineScene<SceneMesh>, origin: Vec3): EngineScene<SceneMesh> {
  return {
    ...scene,
    instances: scene.instances.map((o) => ({
      ...o,
      matrix: movedTo(o.matrix, origin),
      ...(o.nextMatrix && { nextMatrix: movedTo(o.nextMatrix, origin) }),
    })),
    lights: scene.lights.map((l) => lightAbout(l, origin)),
    ...(scene.leftOut && { leftOut: scene.leftOut.map((o) => ({ ...o, matrix: movedTo(o.matrix, origin) })) }),
    ...(scene.fog && { fog: { ...scene.fog, topM: scene.fog.topM - origin[1] } }),
  };
}
function lightAbout(l: EngineLight, origin: Vec3): EngineLight {
  if (l.type === 'point' || l.type === 'spot') return { ...l, position: minus(l.position, origin) };
  return 'matrix' in l ? { ...l, matrix: movedTo(l.matrix, origin) } : l;
}

export const nearCamera = (camera: EngineCamera, origin: Vec3): EngineCamera =>
  origin === NOWHERE ? camera : { ...camera, matrix: movedTo(camera.matrix, origin) };

/** Puts positions back that were read: three numbers a pixel, where something was met. */
export function putBack(positions: Float32Array | undefined, covered: Float32Array, origin: Vec3): void {
  if (!positions || origin === NOWHERE) return;
  for (let i = 0; i < covered.length; i++) {
    if (covered[i]! <= 0) continue;
    for (let c = 0; c < 3; c++) positions[i * 3 + c]! += origin[c]!;
  }
}
