// Whether the engine still draws as its number says. Where this fails, pictures have become others: raise DRAWING in
// engine/host/drawing.ts, and put what is said here in its place. Where nobody meant to change pictures, something is
// wrong.
import { createHash } from 'node:crypto';
import { expect, it } from 'vitest';
import {
  DRAWING,
  type EngineCamera,
  type EngineMaterial,
  type EngineScene,
  MASK,
  type RenderSettings,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { generateEnvironment } from '@variscen/core/environment';
import {
  constantSky,
  downCamera,
  floor,
  frontCamera,
  glow,
  leaningNormals,
  matte,
  scene,
  settings,
  sphere,
  translated,
} from './fixtures.ts';
import { numbers } from './soup.ts';
import { stall, stallCamera } from './stall.ts';

const DRAWN: Readonly<Record<number, Readonly<Record<string, string>>>> = {
  8: {
    lit: '18b96c75bec2ae92',
    'lit, denoised': 'ecddc027436b78cb',
    'under a sky': '8cebbd13c0ea2456',
    'under a sky, denoised': '2c171c95d7042bcf',
    leaves: '63a2c93c99847698',
    'leaves, denoised': 'c2ee08718fb7eded',
    glasses: '455b8bcc01a273e4',
    'glasses, denoised': 'f764ea17b5e9fb61',
    panels: 'ee315711b3e3dd0f',
    'panels, denoised': '8b8a8295722048d1',
    drink: '563d23ec41be9648',
    'drink, denoised': '62321595229b9ae6',
    bent: 'f1c298ad818dbd1e',
    'bent, denoised': '23828b55287ee82a',
  },
};
const FRAME: RenderSettings = {
  ...settings(96, 64, 4),
  planes: ['depth', 'normal', 'albedo', 'direct', 'indirect', 'objects', 'materials', 'emission'],
  lightGroups: 2,
  denoise: true,
  noise: { threshold: 0.1, floorNits: 0.05 },
};
/** Sheets that let some rays pass, in textures of which the finest level is left out. */
function leaves(): EngineScene {
  const random = numbers(7);
  const data = Uint8Array.from({ length: 37 * 50 * 4 }, () => random() * 255);
  const base = {
    texture: 0,
    srgb: true,
    uvSet: 0,
    wrapS: 'repeat',
    wrapT: 'repeat',
    matrix: [1, 0, 0, 0, 1, 0],
  } as const;
  const sheet = { ...floor(1), uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) };
  const leaf = { ...matte, textures: { base } };
  return scene({
    meshes: [sheet],
    textures: [{ name: 'leaf', width: 37, height: 50, data }],
    materials: [matte, { ...leaf, alphaMode: 'blend' }, { ...leaf, alphaMode: 'mask', alphaCutoff: 0.5 }],
    instances: [0, 1, 2, 1].map((material, i) => ({
      name: 'leaf',
      mesh: 0,
      material,
      matrix: [1, 0.1 * i, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0.2 * i, 0.3 * i, 0, 1],
      mask: MASK.ALL,
    })),
    environment: constantSky(1),
  });
}
/** A lamp and a lantern with holes in tinted glass under a coat, and a card that reflections do not show. */
function glasses(): EngineScene {
  const pane = { ...matte, transmission: 1, roughness: 0, ior: 1.4, specular: 1, solid: true, doubleSided: false };
  const tinted = { ...pane, attenuation: [0.4, 1, 2] as const, coat: 0.7, coatRoughness: 0.3 };
  const lantern = { ...glow([3, 2, 1]), alphaMode: 'blend', baseColor: [0, 0, 0, 0.5], doubleSided: true } as const;
  const metal = { ...matte, metallic: 1, roughness: 0.3 };
  const upright = [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0];
  return scene({
    meshes: [sphere(16), floor(0.4), floor(3)],
    materials: [tinted, lantern, metal],
    instances: [
      { name: 'glass', mesh: 0, material: 0, matrix: translated(0, 0.5, 0), mask: MASK.ALL },
      { name: 'lantern', mesh: 1, material: 1, matrix: [...upright, 0, 0.4, 0, 1], mask: MASK.ALL },
      { name: 'card', mesh: 1, material: 1, matrix: translated(1, 1, 0.5), mask: MASK.ALL & ~MASK.SPECULAR },
      { name: 'ground', mesh: 2, material: 2, matrix: translated(0, -0.6, 0), mask: MASK.ALL },
    ],
    lights: [{ type: 'point', position: [0.2, 0.9, 0.3], intensityCd: [2, 2, 2], radiusM: 0.05 }],
    environment: constantSky(0.3),
  });
}
/** Ice that stands out of a drink, which overlaps its glass. */
function drink(): EngineScene {
  const solid = { ...matte, transmission: 1, roughness: 0, specular: 1, solid: true, doubleSided: false };
  return scene({
    meshes: [sphere(16), floor(3)],
    materials: [
      { ...solid, ior: 1.5, priority: 2, attenuation: [1, 0.5, 0.7] },
      { ...solid, ior: 1.33, attenuation: [0.5, 1, 3] },
      { ...solid, ior: 1.31, priority: 1, roughness: 0.2 },
      matte,
    ],
    instances: [
      { name: 'glass', mesh: 0, material: 0, matrix: translated(-0.7, 0.3, 0), mask: MASK.ALL },
      { name: 'drink', mesh: 0, material: 1, matrix: translated(0.3, 0.3, 0), mask: MASK.ALL },
      { name: 'ice', mesh: 0, material: 2, matrix: translated(0.5, 0.9, 0.4), mask: MASK.ALL },
      { name: 'ground', mesh: 1, material: 3, matrix: translated(0, -0.7, 0), mask: MASK.ALL },
    ],
    environment: constantSky(0.5),
  });
}
/** Matt, glossy, metal, coated and clear sheets whose normals lean far, by lamplight. */
function bent(): EngineScene {
  const { texture, use } = leaningNormals(50);
  const sheet = { ...floor(1), uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) };
  const kinds: readonly Partial<EngineMaterial>[] = [
    {},
    { specular: 1, ior: 1.5, roughness: 0.3 },
    { metallic: 1, roughness: 0.4, baseColor: [0.9, 0.6, 0.3, 1] },
    { coat: 1, coatRoughness: 0.1, sheen: [0.5, 0.2, 0.1], sheenRoughness: 0.4 },
    { transmission: 1, roughness: 0, ior: 1.33, specular: 1, solid: true },
    { transmission: 0.8, roughness: 0.3, ior: 1.5, specular: 1 },
  ];
  return scene({
    meshes: [sheet],
    textures: [texture],
    materials: kinds.map((kind) => ({ ...matte, ...kind, textures: { normal: use } })),
    instances: kinds.map((_, i) => ({
      name: `sheet ${i}`,
      mesh: 0,
      material: i,
      matrix: translated((i % 2) * 2 - 1, 0, (i >> 1) * 2 - 2),
      mask: MASK.ALL,
    })),
    lights: [{ type: 'point', position: [1.5, 0.5, 0], intensityCd: [3, 2, 1], radiusM: 0.1 }],
    environment: constantSky(0.2),
  });
}
/** A panel that the camera does not see before one that it sees, both over a mirror and matt ground. */
function panels(): EngineScene {
  const mirror = { ...matte, metallic: 1, roughness: 0.05 };
  const down = (y: number) => [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, y, -0.5, 1];
  return scene({
    meshes: [floor(3), floor(0.7)],
    materials: [{ ...matte, baseColor: [0.6, 0.5, 0.4, 1] }, mirror],
    instances: [
      { name: 'ground', mesh: 0, material: 0, matrix: translated(0, -0.6, 0), mask: MASK.ALL },
      { name: 'mirror', mesh: 1, material: 1, matrix: translated(0.4, -0.5, 0), mask: MASK.ALL },
    ],
    lights: [
      { type: 'rectangle', matrix: down(0.6), widthM: 1, heightM: 0.5, radianceNits: [3, 2, 1] },
      { type: 'disc', matrix: down(1), radiusM: 0.6, radianceNits: [1, 2, 3], seenByCamera: true },
    ],
    environment: constantSky(0.2),
  });
}
const hashOf = (...parts: readonly Float32Array[]): string => {
  const hash = createHash('sha256');
  for (const p of parts) hash.update(new Uint8Array(p.buffer, p.byteOffset, p.byteLength));
  return hash.digest('hex').slice(0, 16);
};

it('draws as its number says', async () => {
  const sky = { ...generateEnvironment('dusk', 32), scale: [1, 1, 1] as const, turnRad: 0.4 };
  const scenes = {
    lit: stall(),
    'under a sky': { ...stall(), environment: sky, lights: [] },
    leaves: leaves(),
    glasses: glasses(),
    panels: panels(),
    drink: drink(),
    bent: bent(),
  };
  const cameras: Readonly<Record<string, EngineCamera>> = {
    bent: downCamera(4, 3),
    leaves: downCamera(4, 1.5),
    glasses: frontCamera(5, 0.3),
    panels: frontCamera(5, 0.3),
    drink: frontCamera(5, 0.3),
  };
  const drawn: Record<string, string> = {};
  const engine = await openNodeEngine(2);
  try {
    for (const [name, scene] of Object.entries(scenes)) {
      await engine.load(scene, name === 'leaves' ? { ...FRAME, textureCapPx: 32 } : FRAME);
      await engine.render({ camera: cameras[name] ?? stallCamera, samples: 20 });
      const { rgba, planes } = engine.picture();
      drawn[name] = hashOf(rgba, ...Object.values(planes));
      drawn[`${name}, denoised`] = hashOf((await engine.denoise()).rgb);
    }
  } finally {
    await engine.close();
  }
  expect(drawn).toEqual(DRAWN[DRAWING]);
});
