// node bench/dist/gallery.js <file.png>: the stall's kettle in the range of materials, by the engine.
import { NEUTRAL_GRADE, toDisplay } from '@variscen/core/image';
import { generateEnvironment } from '@variscen/core/environment';
import { lookAt } from '@variscen/core/scene';
import { MASK, PLAIN_MATERIAL, type EngineMaterial, type EngineScene } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import sharp from 'sharp';
import { openDemo } from './demoScene.ts';

const plain: EngineMaterial = { ...PLAIN_MATERIAL, baseColor: [0.8, 0.8, 0.8, 1], roughness: 0.5, specular: 1 };
const clear = { ...plain, baseColor: [1, 1, 1, 1] as const, transmission: 1, solid: true };
const RANGE: readonly Partial<EngineMaterial>[] = [
  { baseColor: [0.72, 0.68, 0.6, 1], roughness: 0.95, specular: 0 },
  { baseColor: [0.23, 0.36, 0.3, 1], roughness: 0.25 },
  { baseColor: [0.03, 0.05, 0.2, 1], roughness: 0.08 },
  { baseColor: [0.95, 0.64, 0.54, 1], metallic: 1, roughness: 0.12 },
  { baseColor: [0.95, 0.64, 0.54, 1], metallic: 1, roughness: 0.5 },
  { baseColor: [0.9, 0.9, 0.92, 1], metallic: 1, roughness: 0 },
  { baseColor: [0.91, 0.78, 0.42, 1], metallic: 1, roughness: 0.35, anisotropy: 0.85 },
  { baseColor: [0.02, 0.02, 0.022, 1], metallic: 0.4, roughness: 0.7 },
  { baseColor: [0.35, 0.02, 0.02, 1], roughness: 0.6, coat: 1, coatRoughness: 0.03 },
  { baseColor: [0.5, 0.5, 0.52, 1], metallic: 1, roughness: 0.45, coat: 1, coatRoughness: 0.05 },
  { ...clear, roughness: 0 },
  { ...clear, roughness: 0.35 },
  { ...clear, roughness: 0.02, attenuation: [5, 1.2, 3] },
  { ...clear, roughness: 0, solid: false, baseColor: [0.75, 0.9, 0.85, 1] },
  { baseColor: [0.15, 0.03, 0.12, 1], roughness: 0.9, sheen: [0.7, 0.45, 0.75], sheenRoughness: 0.35 },
  { baseColor: [0.05, 0.05, 0.06, 1], roughness: 0.15, iridescence: 1, iridescenceIor: 1.4, iridescenceNm: [380, 380] },
  {
    baseColor: [0.9, 0.9, 0.9, 1],
    metallic: 1,
    roughness: 0.2,
    iridescence: 1,
    iridescenceIor: 1.6,
    iridescenceNm: [520, 520],
  },
  { baseColor: [0.7, 0.5, 0.3, 0.45], alphaMode: 'blend', roughness: 0.6 },
  { baseColor: [0.5, 0.35, 0.2, 1], roughness: 0.7, specularColor: [1, 0.4, 0.2] },
  { baseColor: [0.4, 0.25, 0.1, 1], roughness: 0.8, emission: [0.5, 0.22, 0.07] },
];

const [file = 'gallery.png', samples = '256'] = process.argv.slice(2);
const demo = await openDemo('full');
const camera = demo.cameras[0]!;
const stall = (await demo.scene([], camera)).scene;
const kettle = stall.instances.find((i) => i.object?.endsWith('Kettle, large'))!;
const counter = stall.materials.findIndex((m) => m.name === 'Old wood');
const columns = 5;
const rows = RANGE.length / columns;
const gap = 0.46;
const board = {
  name: 'board',
  positions: new Float32Array([-3, 0, -3, -3, 0, 2, 3, 0, 2, 3, 0, -3]),
  normals: new Float32Array([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0]),
  uv0: new Float32Array([0, 0, 0, 5, 6, 5, 6, 0]),
  indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
};
const at = (i: number) => {
  const x = ((i % columns) - (columns - 1) / 2) * gap;
  const z = (Math.floor(i / columns) - (rows - 1) / 2) * gap * 1.05;
  const a = -0.5;
  const c = Math.cos(a);
  const s = Math.sin(a);
  return [c, 0, -s, 0, 0, 1, 0, 0, s, 0, c, 0, x, 0, z, 1];
};
const scene: EngineScene = {
  meshes: [stall.meshes[kettle.mesh]!, board],
  textures: stall.textures,
  materials: [...RANGE.map((m) => ({ ...plain, ...m })), { ...stall.materials[counter]! }],
  instances: [
    ...RANGE.map((_, i) => ({ name: `kettle ${i + 1}`, mesh: 0, material: i, matrix: at(i), mask: MASK.ALL })),
    {
      name: 'board',
      mesh: 1,
      material: RANGE.length,
      matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
      mask: MASK.ALL,
    },
  ],
  lights: [
    {
      type: 'rectangle',
      matrix: [...lookAt([-1.8, 2.2, 0.6], [0, 0.1, 0])],
      widthM: 1.4,
      heightM: 1,
      radianceNits: [9, 8, 6.6],
    },
    { type: 'disc', matrix: [...lookAt([1.9, 1.5, -1.6], [0, 0.1, 0])], radiusM: 0.5, radianceNits: [5, 6, 8] },
  ],
  environment: { ...generateEnvironment('dusk', 128)!, scale: [0.8, 0.8, 0.8], turnRad: 0.4 },
};
const engine = await openNodeEngine(2);
const widthPx = 1280;
const heightPx = 720;
try {
  await engine.load(scene, { widthPx, heightPx, maxBounces: 12, clampIndirect: 20, seed: 1, denoise: true });
  const stats = await engine.render({
    camera: {
      matrix: lookAt([0, 2.75, 2.95], [0, 0.03, 0.1]),
      projection: 'perspective',
      halfHeight: 0.1965,
      nearM: 0.1,
      farM: 100,
      lensRadiusM: 0,
      focusDistanceM: 3,
    },
    samples: Number(samples),
  });
  const clean = (await engine.denoise()).rgb;
  const rgba = engine.picture().rgba;
  for (let i = 0; i < widthPx * heightPx; i++) for (let c = 0; c < 3; c++) rgba[i * 4 + c] = clean[i * 3 + c]!;
  await sharp(toDisplay(rgba, { ...NEUTRAL_GRADE, exposureEv: 0.6 }), {
    raw: { width: widthPx, height: heightPx, channels: 3 },
  })
    .png({ compressionLevel: 9 })
    .toFile(file);
  console.log(`${file}: ${stats.samples} samples in ${stats.seconds.toFixed(0)} s`);
} finally {
  await engine.close();
}
