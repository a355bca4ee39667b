// What a selection takes in engine memory.
import { madeMesh } from './madeMeshes.ts';
import { panelMaterial } from './areaLights.ts';
import { AREA_SHAPES, AREA_TYPES, countJob, isArea, isAsked, profilesAmong } from './count.ts';
import type { JobCounts, MeshCounts } from './memoryPlaces.ts';
import type { RenderSettings } from './renderSettings.ts';
import { countsWithout } from './selectedPieces.ts';
import { sizeOf } from './selectedSky.ts';
import type { Selection } from './selection.ts';

/** Bytes of the trees over the shapes of area lights; a test holds them to what the builder makes. */
export const AREA_ACCELERATION = { rectangle: 288, disc: 3200, ball: 19_872 } as const;

/**
 * What the selection takes in engine memory; the engine allocates exactly this. displaced: of displaced meshes, by
 * their place in the selection.
 */
export function countSelection(
  s: Selection,
  settings: RenderSettings,
  threads: number,
  displaced: ReadonlyMap<number, MeshCounts> = new Map(),
): JobCounts {
  const { document } = s.pose.now;
  const meshes: MeshCounts[] = s.meshes.map(
    (m, i) =>
      displaced.get(i) ??
      madeMesh(m.mesh)?.counts ??
      countsWithout({ ...document.meshes[m.mesh]!, ...m.standIn, deforms: m.node !== null }, m),
  );
  const materials = [...s.materials];
  const instances: { mesh: number; material: number }[] = [...s.instances];
  for (const type of AREA_TYPES) {
    const lights = s.lights.filter(isArea).filter((l) => l.type === type);
    if (!lights.length) continue;
    const mesh =
      meshes.push({
        ...AREA_SHAPES[type],
        normals: false,
        uv0: type !== 'ball',
        uv1: false,
        colors: false,
        accelerationBytes: AREA_ACCELERATION[type],
      }) - 1;
    for (const l of lights) instances.push({ mesh, material: materials.push(panelMaterial(l)) - 1 });
  }
  return countJob(
    {
      meshes,
      textures: s.textures,
      materials,
      instances,
      leftOut: isAsked(settings) ? s.leftOut.length : 0,
      lights: s.lights.filter((l) => !isArea(l)).length,
      profiles: profilesAmong(s.lights),
      environment: s.environment && sizeOf(s.environment),
      environmentInputs: Object.values(s.environmentInputs)
        .filter((e) => e !== 'none')
        .map(sizeOf),
    },
    settings,
    threads,
  );
}

/** The same selection's counts at other settings, where nothing is displaced. */
export const countedFor = (counts: JobCounts, s: Selection, settings: RenderSettings): JobCounts => ({
  ...counts,
  settings,
  leftOut: isAsked(settings) ? s.leftOut.length : 0,
});
