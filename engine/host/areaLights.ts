// Area lights are emitting meshes: a rectangle of two triangles, a disc of 64 and a ball of 320 whose areas are those
// of the circle and the sphere. One that the camera does not see is light alone: it hides nothing, so that what it
// lights adds to what lights besides. One that it sees is a thing like any other to the rays that are scattered.
import * as K from '../kernel/layout/index.ts';
import { AREA_TYPES, type AreaLight, DISC_POINTS, isArea } from './count.ts';
import { ballMesh } from './ballMesh.ts';
import type { EngineLight, EngineMaterial, EngineMesh, EngineScene, SceneMesh, TextureUse, Vec3 } from './scene.ts';

const RECTANGLE: EngineMesh = {
  name: 'rectangle light',
  positions: new Float32Array([-0.5, -0.5, 0, -0.5, 0.5, 0, 0.5, 0.5, 0, 0.5, -0.5, 0]),
  uv0: facing([-0.5, -0.5, -0.5, 0.5, 0.5, 0.5, 0.5, -0.5], 0.5),
  indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
};
const n = DISC_POINTS.length;
const scale = Math.sqrt((2 * Math.PI) / (n * Math.sin((2 * Math.PI) / n)));
// clockwise as seen from +Z, so that fronts look along −Z
const DISC: EngineMesh = {
  name: 'disc light',
  positions: new Float32Array([0, 0, 0, ...DISC_POINTS.flatMap(([x, y]) => [x * scale, y * scale, 0])]),
  uv0: facing([0, 0, ...DISC_POINTS.flat()], 1),
  indices: new Uint32Array(DISC_POINTS.flatMap((_, i) => [0, ((i + 1) % n) + 1, i + 1])),
};
export const AREA_MESHES = { rectangle: RECTANGLE, disc: DISC, ball: ballMesh() } as const;

export const glow = (radianceNits: Vec3): EngineMaterial => ({
  baseColor: [0, 0, 0, 1],
  metallic: 0,
  roughness: 1,
  transmission: 0,
  ior: 1,
  specular: 0,
  emission: radianceNits,
  normalScale: 1,
  attenuation: [0, 0, 0],
  doubleSided: false,
  solid: false,
});

/** Texture coordinates of points of a panel, the right way round as seen from where it shines, along −Z. */
function facing(points: readonly number[], half: number): Float32Array {
  return Float32Array.from(points, (x) => 0.5 - x / (2 * half));
}
/** What a panel is made of. */
export const panelMaterial = ({ radianceNits, focus, picture, seenByCamera }: AreaLight): EngineMaterial => ({
  ...glow(radianceNits),
  ...(!seenByCamera && { lightAlone: true }),
  ...(focus !== undefined && { emissionFocus: focus }),
  ...(picture !== undefined && { textures: { emission: { ...WHOLE_PICTURE, texture: picture } } }),
});
const WHOLE_PICTURE = {
  srgb: true,
  uvSet: 0,
  wrapS: 'clamp',
  wrapT: 'clamp',
  matrix: [1, 0, 0, 0, 1, 0],
} as const satisfies Omit<TextureUse, 'texture'>;
/** What a scene's objects and its panels are made of. */
export const withPanels = (
  materials: readonly EngineMaterial[],
  lights: readonly EngineLight[],
): readonly EngineMaterial[] => [...materials, ...lights.filter(isArea).map(panelMaterial)];

/** How large its shape is along its own X, Y and Z. */
function scaleOf(l: AreaLight): Vec3 {
  if (l.type === 'rectangle') return [l.widthM, l.heightM, 1];
  return [l.radiusM, l.radiusM, l.type === 'ball' ? l.radiusM : 1];
}

/** The scene with area lights turned into instances, after all others: rectangles, discs, then balls. */
export function withAreaLights(scene: EngineScene<SceneMesh>): EngineScene<SceneMesh> {
  if (!scene.lights.some(isArea)) return scene;
  const meshes = [...scene.meshes];
  const materials = [...scene.materials];
  const instances = [...scene.instances];
  for (const type of AREA_TYPES) {
    const lights = scene.lights.filter(isArea).filter((l) => l.type === type);
    if (!lights.length) continue;
    const mesh = meshes.push(AREA_MESHES[type]) - 1;
    for (const l of lights) {
      const m = Array.from(l.matrix);
      const s = scaleOf(l);
      for (let i = 0; i < 3; i++) for (let axis = 0; axis < 3; axis++) m[axis * 4 + i]! *= s[axis]!;
      instances.push({
        name: `${type} light`,
        mesh,
        material: materials.push(panelMaterial(l)) - 1,
        matrix: m,
        mask: K.MASK.SPECULAR | K.MASK.DIFFUSE | K.INST.PANEL | (l.seenByCamera ? K.MASK.CAMERA : 0),
        ...(l.lightGroup !== undefined && { lightGroup: l.lightGroup }),
        ...(l.shadowless && { shadowless: true }),
      });
    }
  }
  return { ...scene, meshes, materials, instances, lights: scene.lights.filter((l) => !isArea(l)) };
}
