// Random scenes of everything that light is decided at: for laws that hold in all of them.
import {
  type EngineInstance,
  type EngineMaterial,
  type EngineMesh,
  type EngineScene,
  type EngineTexture,
  MASK,
  type RenderSettings,
} from '../host/index.ts';
import { constantSky, downCamera, floor, glow, matte, scene, settings, sphere } from './fixtures.ts';
import { numbers } from './soup.ts';

export const FRAME: RenderSettings = {
  ...settings(42, 22, 5),
  planes: ['depth', 'normal', 'albedo', 'direct', 'indirect', 'emission', 'objects', 'motion', 'caught', 'behind'],
  lightGroups: 2,
  noise: { threshold: 0.06, floorNits: 0.05 },
};
export const camera = { ...downCamera(3, 1.3), lensRadiusM: 0.02, focusDistanceM: 2.5 };

/** A sheet with texture coordinates. */
export const SHEET: EngineMesh = { ...floor(0.5), name: 'sheet', uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) };
const MESHES: readonly EngineMesh[] = [floor(2), sphere(10, 0.25), SHEET, sphere(10, 0.08)];
const [FLOOR, SHELL, LEAF, NUT] = [0, 1, 2, 3];

function leafTexture(random: () => number): EngineTexture {
  const data = Uint8Array.from({ length: 16 * 16 * 4 }, (_, i) => (i % 4 < 3 ? 60 + random() * 190 : random() * 255));
  return { name: 'leaf', width: 16, height: 16, data };
}
export const colors = (texture: number) => ({
  base: { texture, srgb: true, uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [2, 0, 0, 0, 2, 0] } as const,
});
/** One of each kind of surface that light is decided at. */
export const MATERIALS: readonly EngineMaterial[] = [
  { ...matte, name: 'matte', baseColor: [0.7, 0.6, 0.5, 1] },
  { ...matte, name: 'mirror', metallic: 1, roughness: 0 },
  {
    ...matte,
    name: 'glass',
    transmission: 1,
    ior: 1.5,
    specular: 1,
    solid: true,
    roughness: 0,
    attenuation: [1, 2, 3],
  },
  { ...matte, name: 'pane', transmission: 1, ior: 1.5, specular: 1, roughness: 0, baseColor: [0.9, 0.7, 0.7, 1] },
  { ...matte, name: 'blended', alphaMode: 'blend', textures: colors(0) },
  { ...matte, name: 'cut out', alphaMode: 'mask', alphaCutoff: 0.4, textures: colors(0) },
  { ...glow([6, 5, 3]), name: 'glow' },
  { ...matte, name: 'dim', baseColor: [0.0001, 0.0001, 0.0001, 1] },
  {
    ...matte,
    name: 'drink',
    transmission: 1,
    ior: 1.33,
    specular: 1,
    solid: true,
    roughness: 0.1,
    attenuation: [2, 1, 0],
    priority: 1,
  },
  { ...matte, name: 'opaque', baseColor: [0.5, 0.5, 0.5, 1] },
];
const OPAQUE = MATERIALS.length - 1;
/** What gives light. */
export const GLOW = 6;

export interface Drawn {
  readonly what: EngineScene;
  readonly hasFog: boolean;
}
/** Things about a floor; behind opaque shells, under the floor and far off stand those that nothing meets. */
export function sceneOf(seed: number): Drawn {
  const random = numbers(seed);
  const chance = numbers(seed ^ 0x2545f491);
  const within = (reach: number) => (random() * 2 - 1) * reach;
  const instances: EngineInstance[] = [];
  const put = (name: string, mesh: number, material: number, at: readonly [number, number, number]) => {
    const turn = random() * 6;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const matrix = [c, s * 0.5, s, 0, 0, 1, 0, 0, -s, 0, c, 0, ...at, 1];
    const mask = chance() < (mesh === FLOOR ? 0.3 : 0.08) ? MASK.ALL | MASK.CATCHER : MASK.ALL;
    // names are shared, as of copies
    instances.push({ name, mesh, material, matrix, mask, ...(material === GLOW && { lightGroup: 1 }) });
  };
  put('floor', FLOOR!, 0, [0, -0.5, 0]);
  const count = 6 + Math.floor(random() * 14);
  for (let i = 0; i < count; i++) {
    const at = [within(1.3), within(0.4), within(0.8)] as const;
    const fate = random();
    if (fate < 0.45) put('thing', random() < 0.5 ? SHELL! : LEAF!, Math.floor(random() * OPAQUE), at);
    else if (fate < 0.7) {
      put('nut', NUT!, Math.floor(random() * 6), at);
      put('shell', SHELL!, OPAQUE, at);
    } else put('thing', LEAF!, Math.floor(random() * 6), [within(1), fate < 0.85 ? -1.5 : 40, within(1) - 30]);
  }
  // in any order: what is not met stands first, last and in between
  instances.sort((a, b) => ((a.matrix[12]! * 1e4) % 1) - ((b.matrix[12]! * 1e4) % 1));
  const hasFog = random() < 0.4;
  const what = scene({
    meshes: MESHES,
    materials: MATERIALS,
    textures: [leafTexture(random)],
    instances,
    ...(random() < 0.7 && { environment: constantSky(0.4) }),
    lights: [{ type: 'point', position: [0.5, 1.6, 0.3], intensityCd: [5, 5, 5], radiusM: 0.05, lightGroup: 1 }],
    ...(hasFog && { fog: { extinctionPerM: 0.2, albedo: [0.9, 0.9, 0.9], anisotropy: 0.3, topM: 0.3 } as const }),
  });
  return { what, hasFog };
}
