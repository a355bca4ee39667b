// Counts what a scene takes, from what a plan knows: sizes of meshes and textures, materials, instances, lights. The
// engine counts the loaded scene with the same function, so that planned and taken bytes agree.
import { MAT } from '../kernel/layout/index.ts';
import type { JobCounts, MeshCounts, TextureCounts } from './memoryPlaces.ts';
import type {
  EngineEnvironment,
  EngineInstance,
  EngineLight,
  EngineMaterial,
  EngineScene,
  SceneMesh,
  TextureUse,
} from './scene.ts';
import type { RenderSettings } from './renderSettings.ts';
import { bitsOf, isStored, isStoredTexture } from './scene.ts';
import { planesOf } from './renderSettings.ts';

/**
 * Whether light goes straight through wherever the material lets it: thin, and clear even before its textures make it
 * smoother.
 */
export const isPane = (m: EngineMaterial): boolean =>
  m.transmission > 0 && !m.solid && !m.unlit && m.roughness ** 2 < MAT.CLEAR_ALPHA;
/** Glass with a volume so smooth that its lobe is only ever sampled. */
export const isClearSolid = (m: EngineMaterial): boolean =>
  m.transmission > 0 && m.solid && !m.unlit && m.roughness ** 2 < MAT.CLEAR_ALPHA;
export const emits = (m: EngineMaterial): boolean => !m.unlit && Math.max(...m.emission) > 0;
export const textureUsesOf = (m: EngineMaterial): TextureUse[] => Object.values(m.textures ?? {});
const isStretched = (m: EngineMaterial): boolean => (m.anisotropy ?? 0) > 0;
/** Whether what is left out is asked about; otherwise it is as if it did not exist. */
export const isAsked = (s: RenderSettings): boolean => planesOf(s).includes('leftOut');
/** Names of the objects left out that are asked about. */
export const objectsAskedAbout = ({ leftOut = [] }: Pick<EngineScene, 'leftOut'>, s: RenderSettings): string[] =>
  isAsked(s) ? leftOut.map((o) => o.name) : [];
/** Indices of refraction of glass, in the order in which materials have them. */
export const glassesOf = (materials: readonly EngineMaterial[]): number[] => [
  ...new Set(materials.filter((m) => m.transmission > 0).map((m) => m.ior)),
];

/** Kinds of area lights, in the order in which their shapes and instances stand. */
export const AREA_TYPES = ['rectangle', 'disc', 'ball'] as const;
type AreaType = (typeof AREA_TYPES)[number];
const DISC_SEGMENTS = 64;
/** An icosahedron whose edges were halved twice. */
const BALL = { vertices: 162, triangles: 320 };
/**
 * What the shapes of area lights take: one node and blocks of four triangles. Measured like any mesh where it matters.
 */
export const AREA_SHAPES: Readonly<Record<AreaType, { readonly vertices: number; readonly triangles: number }>> = {
  rectangle: { vertices: 4, triangles: 2 },
  disc: { vertices: DISC_SEGMENTS + 1, triangles: DISC_SEGMENTS },
  ball: BALL,
};
export const DISC_POINTS = Array.from(
  { length: DISC_SEGMENTS },
  (_, i) => [Math.cos((2 * Math.PI * i) / DISC_SEGMENTS), Math.sin((2 * Math.PI * i) / DISC_SEGMENTS)] as const,
);

export interface Countable {
  readonly meshes: readonly MeshCounts[];
  readonly textures: readonly TextureCounts[];
  readonly materials: readonly EngineMaterial[];
  readonly instances: readonly Pick<EngineInstance, 'mesh' | 'material'>[];
  readonly leftOut?: number;
  /** Without area lights, which are instances by then. */
  readonly lights: number;
  /** Of these, lamps whose light has a shape. */
  readonly profiles?: number;
  readonly environment?: { readonly width: number; readonly height: number } | undefined;
  readonly environmentInputs?: readonly { readonly width: number; readonly height: number }[];
}

/** Sets of texture coordinates that a mesh's materials look at: bits 1 and 2. */
function uvNeeds(meshes: number, materials: readonly EngineMaterial[], instances: Countable['instances']): Uint8Array {
  const of = materials.map((m) =>
    textureUsesOf(m).reduce((bits, u) => bits | (u.uvSet ? 2 : 1), isStretched(m) ? 1 : 0),
  );
  const needs = new Uint8Array(meshes);
  for (const i of instances) needs[i.mesh]! |= of[i.material]!;
  return needs;
}

export function countJob(c: Countable, settings: RenderSettings, threads: number): JobCounts {
  const needs = uvNeeds(c.meshes.length, c.materials, c.instances);
  const glows = c.materials.map(emits);
  const emitting = c.instances.filter((i) => glows[i.material]);
  return {
    meshes: c.meshes.map((m, i) => ({
      vertices: m.vertices,
      triangles: m.triangles,
      normals: m.normals,
      uv0: m.uv0 && (needs[i]! & 1) !== 0,
      uv1: m.uv1 && (needs[i]! & 2) !== 0,
      colors: m.colors,
      accelerationBytes: m.accelerationBytes,
      stored: m.stored,
      isLeftOut: m.isLeftOut,
      deforms: m.deforms,
    })),
    materials: c.materials.length,
    textureUses: c.materials.reduce((n, m) => n + textureUsesOf(m).length, 0),
    textures: c.textures,
    glasses: glassesOf(c.materials).length,
    stretched: c.materials.some(isStretched),
    instances: c.instances.length,
    leftOut: c.leftOut ?? 0,
    lights: c.lights + emitting.length,
    profiles: c.profiles ?? 0,
    emissiveTriangles: emitting.map((i) => c.meshes[i.mesh]!.triangles),
    environment: c.environment,
    environmentInputs: c.environmentInputs ?? [],
    settings,
    threads,
  };
}

/** Maps of the further inputs that are not the lighting map itself. */
export const ownInputs = (scene: Pick<EngineScene, 'environmentInputs'>): EngineEnvironment[] =>
  Object.values(scene.environmentInputs ?? {}).filter((e): e is EngineEnvironment => e !== 'none' && e !== undefined);

export function countScene(
  scene: EngineScene<SceneMesh>,
  settings: RenderSettings,
  threads: number,
  acceleration: readonly number[],
): JobCounts {
  return countJob(
    {
      meshes: scene.meshes.map((m, i) =>
        isStored(m)
          ? { ...m.head, accelerationBytes: acceleration[i]!, stored: m.head, isLeftOut: m.leftOut?.isLeftOut }
          : {
              vertices: m.positions.length / 3,
              triangles: m.indices.length / 3,
              normals: !!m.normals,
              uv0: !!m.uv0,
              uv1: !!m.uv1,
              colors: !!m.colors,
              accelerationBytes: acceleration[i]!,
              deforms: m.restPositions !== undefined,
            },
      ),
      textures: scene.textures.map((t) => ({
        width: t.width,
        height: t.height,
        bits: bitsOf(t),
        stored: isStoredTexture(t.data),
      })),
      materials: scene.materials,
      instances: scene.instances,
      leftOut: objectsAskedAbout(scene, settings).length,
      lights: scene.lights.length,
      profiles: profilesAmong(scene.lights),
      environment: scene.environment,
      environmentInputs: ownInputs(scene),
    },
    settings,
    threads,
  );
}

export type AreaLight = Extract<EngineLight, { readonly type: AreaType }>;
export const isArea = (l: EngineLight): l is AreaLight => (AREA_TYPES as readonly string[]).includes(l.type);
/** Lamps whose light has a shape. */
export const profilesAmong = (lights: readonly EngineLight[]): number =>
  lights.filter((l) => 'profile' in l && l.profile !== undefined).length;
