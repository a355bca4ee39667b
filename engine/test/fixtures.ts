// Small scenes with known answers.
import type {
  Engine,
  EngineCamera,
  EngineMaterial,
  EngineMesh,
  EngineScene,
  EngineTexture,
  RenderSettings,
  TextureUse,
} from '../host/index.ts';
import { MASK } from '../host/index.ts';
export { glow } from '../host/areaLights.ts';
import { openNodeEngine } from '../host/node/index.ts';

export const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
export const translated = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];

export const matte: EngineMaterial = {
  baseColor: [1, 1, 1, 1],
  metallic: 0,
  roughness: 1,
  transmission: 0,
  ior: 1,
  specular: 0,
  emission: [0, 0, 0],
  normalScale: 1,
  attenuation: [0, 0, 0],
  doubleSided: true,
  solid: false,
};

/** Square in the XZ plane, facing +Y, centred on the origin. */
export function floor(half = 1): EngineMesh {
  return {
    name: 'floor',
    positions: new Float32Array([-half, 0, -half, -half, 0, half, half, 0, half, half, 0, -half]),
    indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
  };
}

export function sphere(rings = 48, radius = 1): EngineMesh {
  const positions: number[] = [];
  const indices: number[] = [];
  const segments = rings * 2;
  for (let i = 0; i <= rings; i++)
    for (let j = 0; j <= segments; j++) {
      const a = (Math.PI * i) / rings;
      const b = (2 * Math.PI * j) / segments;
      positions.push(radius * Math.sin(a) * Math.cos(b), radius * Math.cos(a), radius * Math.sin(a) * Math.sin(b));
    }
  for (let i = 0; i < rings; i++)
    for (let j = 0; j < segments; j++) {
      const a = i * (segments + 1) + j;
      const b = a + segments + 1;
      if (i > 0) indices.push(a, a + 1, b);
      if (i < rings - 1) indices.push(a + 1, b + 1, b);
    }
  return {
    name: 'sphere',
    positions: new Float32Array(positions),
    normals: new Float32Array(positions.map((p) => p / radius)),
    indices: new Uint32Array(indices),
  };
}

/** Camera at height looking straight down (its up is −Z), seeing a square of the given half size at y = 0. */
export const downCamera = (height: number, half: number): EngineCamera => ({
  matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, height, 0, 1],
  projection: 'perspective',
  halfHeight: half / height,
  nearM: 0.001,
  farM: 1e6,
  lensRadiusM: 0,
  focusDistanceM: 1,
});
export const frontCamera = (distance: number, halfHeight: number): EngineCamera => ({
  matrix: translated(0, 0, distance),
  projection: 'perspective',
  halfHeight,
  nearM: 0.001,
  farM: 1e6,
  lensRadiusM: 0,
  focusDistanceM: 1,
});

export const settings = (widthPx: number, heightPx = widthPx, maxBounces = 4): RenderSettings => ({
  widthPx,
  heightPx,
  maxBounces,
  clampIndirect: 0,
  seed: 1,
});

export const scene = (parts: Partial<EngineScene>): EngineScene => ({
  meshes: [],
  textures: [],
  materials: [],
  instances: [],
  lights: [],
  ...parts,
});
/** A texture of one texel that bends normals so far towards its u, and its use. */
export function leaningNormals(degrees: number): { readonly texture: EngineTexture; readonly use: TextureUse } {
  const angle = (degrees * Math.PI) / 180;
  const [x, y, z] = [Math.sin(angle), 0, Math.cos(angle)].map((c) => Math.round((c * 0.5 + 0.5) * 65_535));
  return {
    texture: { name: 'lean', width: 1, height: 1, data: Uint16Array.of(x!, y!, z!, 65_535) },
    use: { texture: 0, srgb: false, uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [1, 0, 0, 0, 1, 0] },
  };
}
export const constantSky = (value: number) => ({
  width: 16,
  height: 8,
  data: new Float32Array(16 * 8 * 3).fill(value),
  scale: [1, 1, 1] as const,
  turnRad: 0,
});
export const one = (mesh: EngineMesh, material: EngineMaterial = matte, matrix: ArrayLike<number> = IDENTITY) => ({
  meshes: [mesh],
  materials: [material],
  instances: [{ name: mesh.name, mesh: 0, material: 0, matrix, mask: MASK.ALL }],
});

export interface Shot {
  readonly camera: EngineCamera;
  readonly settings: RenderSettings;
  readonly samples: number;
  readonly threads?: number;
  readonly debug?: boolean;
  readonly samplesPerPass?: number;
}

/** Engines that nobody uses, by what they are: to start the threads of one takes longer than most of these pictures. */
const idle = new Map<string, Engine[]>();

/** Renders and returns the mean per pixel: r, g, b, coverage. */
export async function shoot(
  what: EngineScene,
  { camera, settings: s, samples, threads = 1, debug = false, samplesPerPass = 8 }: Shot,
): Promise<Float32Array> {
  const kind = `${threads} ${debug}`;
  const engines = idle.get(kind) ?? [];
  idle.set(kind, engines);
  const engine = engines.pop() ?? (await openNodeEngine(threads, debug));
  try {
    await engine.load(what, s);
    await engine.render({ camera, samples, samplesPerPass });
    const { rgba } = engine.picture();
    engines.push(engine);
    return rgba;
  } catch (e) {
    await engine.close();
    throw e;
  }
}

/** Mean of one channel over the whole picture. */
export const mean = (film: Float32Array, channel = 1): number => {
  let sum = 0;
  for (let i = channel; i < film.length; i += 4) sum += film[i]!;
  return sum / (film.length / 4);
};
