// Brings geometry and pixels into a selection.
import { withPanels } from './areaLights.ts';
import { type EnvironmentMap, type MadeSky, generateEnvironment, saturated } from '@variscen/core/environment';
import type { Profile } from '@variscen/core/plan';
import { type Matrix, type SceneTexture, deformGeometry, worldMatrices } from '@variscen/core/scene';
import { madeMesh } from './madeMeshes.ts';
import { displacedMeshes } from './displaced.ts';
import { srgbTextures } from './packTextures.ts';
import type { EngineEnvironment, EngineMesh, EngineScene, EngineTexture, SceneMesh } from './scene.ts';
import { ENVIRONMENT_HEIGHT } from './selectedSky.ts';
import { storedWithout } from './selectedPieces.ts';
import type { SelectedMesh, SelectedSky, Selection, SelectionData, StoredData } from './selection.ts';
import { storable, storableTextures } from './storable.ts';

/** @param heightPx of the picture, by which displaced meshes are split */
export async function attach(
  s: Selection,
  data: SelectionData,
  displacement: Profile['displacement'],
  heightPx: number,
): Promise<EngineScene>;
export async function attach(
  s: Selection,
  data: StoredData,
  displacement: Profile['displacement'],
  heightPx: number,
): Promise<EngineScene<SceneMesh>>;
export async function attach(
  s: Selection,
  data: SelectionData | StoredData,
  displacement: Profile['displacement'],
  heightPx: number,
): Promise<EngineScene<SceneMesh>> {
  const displaced = await displacedMeshes(s, data, displacement, heightPx);
  const meshOf = meshReader(s, data);
  const isStorable = storable(s);
  const storedOf = async (m: SelectedMesh, i: number) => {
    const stored = isStorable(m, i) ? await data.stored?.(m.mesh, m.standIn) : undefined;
    return stored && storedWithout(stored, m);
  };
  const meshes = await Promise.all(
    s.meshes.map(async (m, i) => displaced.get(i)?.mesh ?? (await storedOf(m, i)) ?? meshOf(m)),
  );
  const texelsOf = textureReader(s, data);
  const textures = await Promise.all(
    s.textures.map(async (t, i) => ({ name: t.name, width: t.width, height: t.height, data: await texelsOf(t, i) })),
  );
  const inputs = Object.entries(s.environmentInputs).map(
    async ([input, sky]) => [input, sky === 'none' ? sky : await mapOf(sky, data)] as const,
  );
  return {
    meshes,
    textures,
    materials: s.materials,
    instances: s.instances,
    leftOut: s.leftOut,
    middle: s.middle,
    lights: s.lights,
    environment: s.environment && (await mapOf(s.environment, data)),
    environmentGroup: s.environmentGroup,
    fog: s.fog,
    environmentInputs: Object.fromEntries(await Promise.all(inputs)),
  };
}

/** Where meshes come piece by piece, textures come level by level, or one after another where they are wanted whole. */
function textureReader(
  s: Selection,
  data: SelectionData | StoredData,
): (t: SceneTexture, i: number) => Promise<EngineTexture['data']> {
  if (!data.stored) return (t) => data.pixels(t);
  const materials = withPanels(s.materials, s.lights);
  const isStorable = storableTextures(materials);
  const srgb = srgbTextures(materials);
  return async (t, i) => {
    const stored = isStorable(i) ? await data.storedTexture(t, srgb.has(i)) : undefined;
    return stored ?? { bits: t.bits ?? 8, read: () => data.pixels(t) };
  };
}

/** Meshes as they stand, and for motion as they stand at the next frame. */
function meshReader(s: Selection, data: SelectionData | StoredData): (m: SelectedMesh) => Promise<EngineMesh> {
  const { document } = s.pose.now;
  const next = s.pose.next?.document;
  // of many nodes they take a while, and few scenes bend
  let world: Matrix[] | undefined;
  let nextWorld: Matrix[] | undefined;
  return async ({ mesh, node, standIn }) => {
    const made = madeMesh(mesh)?.mesh;
    if (made) return made;
    const m = document.meshes[mesh]!;
    const g = await data.geometry(mesh);
    if (standIn) {
      const { accelerationBytes, exponent } = standIn;
      const { simplified } = await import('@variscen/core/simplify'); // seldom wanted, and large
      const contentKey = `${m.blob} ${exponent}`;
      return { name: m.name, accelerationBytes, contentKey, ...(await simplified(g, 2 ** exponent)) };
    }
    const about = { name: m.name, accelerationBytes: m.accelerationBytes, contentKey: m.blob };
    if (node === null) return { ...about, ...g };
    const deform = await data.deform(mesh);
    return {
      ...about,
      ...deformGeometry(document, node, g, deform, (world ??= worldMatrices(document.nodes))),
      restPositions: g.positions,
      ...(next && {
        nextPositions: deformGeometry(next, node, g, deform, (nextWorld ??= worldMatrices(next.nodes))).positions,
      }),
    };
  };
}

async function mapOf(
  { kind, scale, turnRad, saturation }: SelectedSky,
  data: SelectionData | StoredData,
): Promise<EngineEnvironment> {
  const map = typeof kind === 'string' ? madeSky(kind) : await data.environment(kind);
  return { ...saturated(map, saturation), scale, turnRad };
}
/** Those that were wanted lately, the last one last. */
const MADE_SKIES = new Map<MadeSky, EnvironmentMap>();
const MADE_KEPT = 4;
function madeSky(kind: MadeSky): EnvironmentMap {
  const map = MADE_SKIES.get(kind) ?? generateEnvironment(kind, ENVIRONMENT_HEIGHT);
  MADE_SKIES.delete(kind);
  MADE_SKIES.set(kind, map);
  if (MADE_SKIES.size > MADE_KEPT) MADE_SKIES.delete(MADE_SKIES.keys().next().value!);
  return map;
}
