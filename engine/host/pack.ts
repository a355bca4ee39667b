// Writes a scene into engine memory at the places planMemory chose. Structures over meshes and instances are built
// afterwards by the kernel.
import * as K from '../kernel/layout/index.ts';
import { emits, glassesOf, isAsked, isPane, textureUsesOf } from './count.ts';
import { cryptomatteId, hashOfName, murmurHash3 } from './cryptomatte.ts';
import { likelyNits } from './leftOut.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import { filmGridOf } from './filmGrid.ts';
import { SRGB } from './mips.ts';
import { packEnvironment, packLights, unit } from './packLights.ts';
import {
  type EngineCamera,
  type EngineInstance,
  type EngineMaterial,
  type EngineMesh,
  type EngineScene,
  type LeftOut,
  type SceneMesh,
  TEXTURE_SLOTS,
  type Vec3,
  bitsOf,
  isStored,
} from './scene.ts';
import { PLANE_SPECS, type PlaneName, type RenderSettings } from './renderSettings.ts';
import type { Views } from './views.ts';

const WRAP = { repeat: K.TEX.WRAP_REPEAT, clamp: K.TEX.WRAP_CLAMP, mirror: K.TEX.WRAP_MIRROR };

export function packMesh(v: Views, m: EngineMesh, place: MemoryPlan['meshes'][number]): void {
  const g = place.geometry >>> 2;
  v.u32[g] = place.normals;
  v.u32[g + 1] = place.uv0;
  v.u32[g + 2] = place.uv1;
  v.u32[g + 3] = place.colors;
  v.u32[g + 4] = place.indices;
  v.u32[g + 5] = m.indices.length / 3;
  if (m.normals) v.f32.set(m.normals, place.normals >>> 2);
  if (m.uv0 && place.uv0) v.f32.set(m.uv0, place.uv0 >>> 2);
  if (m.uv1 && place.uv1) v.f32.set(m.uv1, place.uv1 >>> 2);
  if (m.colors) v.f32.set(m.colors, place.colors >>> 2);
  v.u32.set(m.indices, place.indices >>> 2);
  if (place.nextPositions) v.f32.set(m.nextPositions ?? m.positions, place.nextPositions >>> 2);
}

function packMaterials(v: Views, scene: EngineScene<SceneMesh>, plan: MemoryPlan): void {
  let use = plan.textureUses;
  const glasses = glassesOf(scene.materials);
  scene.materials.forEach((m, i) => {
    const at = plan.materials + i * K.MAT.BYTES;
    const f = at >>> 2;
    const put = (offset: number, ...x: readonly number[]) => v.f32.set(x, f + offset / 4);
    const turn = m.anisotropyTurnRad ?? 0;
    v.u32.fill(0, f, f + K.MAT.BYTES / 4);
    put(K.MAT.BASE, ...m.baseColor);
    put(K.MAT.METALLIC, m.metallic, m.roughness, m.transmission, m.ior);
    put(K.MAT.EMISSION, ...m.emission, m.normalScale);
    put(K.MAT.ATTENUATION, ...m.attenuation);
    put(K.MAT.FOCUS, m.emissionFocus ?? 0, m.priority ?? 0);
    put(K.MAT.SPECULAR, m.specular, m.alphaCutoff ?? 0.5, m.coat ?? 0, m.coatRoughness ?? 0);
    put(K.MAT.SPECULAR_COLOR, ...(m.specularColor ?? [1, 1, 1]), m.coatNormalScale ?? 1);
    put(K.MAT.SHEEN, ...(m.sheen ?? [0, 0, 0]), m.sheenRoughness ?? 0);
    put(K.MAT.ANISOTROPY, m.anisotropy ?? 0, Math.cos(turn), Math.sin(turn), m.iridescence ?? 0);
    put(K.MAT.IRIDESCENCE_IOR, m.iridescenceIor ?? 1.3, ...(m.iridescenceNm ?? [100, 400]));
    v.u32[f + K.MAT.ID / 4] = cryptomatteId(m.name ?? '');
    if (m.transmission > 0) v.u32[f + K.MAT.GLASS_TABLE / 4] = plan.glassTables[glasses.indexOf(m.ior)]!;
    v.u32[f + K.MAT.FLAGS / 4] =
      (m.doubleSided ? K.MAT.DOUBLE_SIDED : 0) |
      (m.solid ? K.MAT.SOLID : 0) |
      (m.alphaMode === 'mask' ? K.MAT.MASKED : 0) |
      (m.unlit ? K.MAT.UNLIT : 0) |
      (m.lightAlone ? K.MAT.LIGHT_ALONE : 0) |
      (isPane(m) ? K.MAT.PANE : 0);
    const uses = textureUsesOf(m);
    const someByLevel = uses.some((u) => plan.textures[u.texture]!.resident > 0);
    v.u32[f + K.MAT.USES / 4] = use;
    v.u32[f + K.MAT.USES_BY_LEVEL / 4] = someByLevel ? uses.length : 0;
    TEXTURE_SLOTS.forEach((slot, k) => {
      const u = m.textures?.[slot];
      if (!u) return;
      const t = scene.textures[u.texture]!;
      const { table, levels, leftOut } = plan.textures[u.texture]!;
      const q = use >>> 2;
      const { width, height } = levels[0]!;
      v.u32[q] = table;
      v.u32[q + 1] = width;
      v.u32[q + 2] = height;
      v.u32[q + 3] =
        (u.srgb ? K.TEX.SRGB : 0) |
        (u.uvSet ? K.TEX.UV1 : 0) |
        (WRAP[u.wrapS] << K.TEX.WRAP_S) |
        (WRAP[u.wrapT] << K.TEX.WRAP_T) |
        (bitsOf(t) === 16 ? K.TEX.WIDE : 0);
      v.f32.set(u.matrix, q + K.TEX.UV / 4);
      // of the whole texture: which level fits does not depend on how many are kept
      const uvArea = Math.abs(u.matrix[0] * u.matrix[4] - u.matrix[1] * u.matrix[3]);
      v.f32[q + K.TEX.TEXELS / 4] = t.width * t.height * uvArea;
      v.u32[q + K.TEX.LEVELS / 4] = levels.length;
      v.u32[q + K.TEX.LEFT_OUT / 4] = leftOut;
      v.u32[(at + K.MAT.TEX_BASE) / 4 + k] = use;
      use += K.TEX.BYTES;
    });
  });
}

/** Bits of the rays that may meet an instance; a pane's shadow is left to those that weaken light. */
const maskOf = (o: EngineInstance, m: EngineMaterial): number =>
  (isPane(m) && o.mask & K.MASK.SHADOW ? (o.mask & ~K.MASK.SHADOW) | K.MASK.PANE : o.mask) |
  (m.alphaMode === 'mask' || m.alphaMode === 'blend' ? K.INST.PIERCED : 0);

const FLOAT_EXPONENT = 0x7f800000;
const FLOAT_ONE = 0x3f800000;
/** Of its name and where it stands. */
function identityOf({ name, matrix }: EngineInstance): number {
  const place = new Uint8Array(Float32Array.from(matrix).buffer);
  return hashOfName(name) ^ murmurHash3(place);
}

function packInstances(v: Views, scene: EngineScene<SceneMesh>, plan: MemoryPlan, roots: readonly number[]): void {
  let light = scene.lights.length;
  scene.instances.forEach((o, i) => {
    const at = plan.instances + i * K.INST.BYTES;
    const q = at >>> 2;
    const m = o.matrix;
    const material = scene.materials[o.material]!;
    v.u32[q + K.INST.ROOT / 4] = roots[o.mesh]!;
    v.u32[q + K.INST.MASK / 4] = maskOf(o, material);
    for (let c = 0; c < 4; c++) for (let r = 0; r < 3; r++) v.f32[q + K.INST.FORWARD / 4 + c * 3 + r] = m[c * 4 + r]!;
    v.u32[q + K.INST.MATERIAL / 4] = plan.materials + o.material * K.MAT.BYTES;
    v.u32[q + K.INST.GEOMETRY / 4] = plan.meshes[o.mesh]!.geometry;
    v.i32[q + K.INST.LIGHT / 4] = emits(material) ? light++ : -1;
    v.u32[q + K.INST.IDENTITY / 4] = ((o.identity ?? identityOf(o)) & ~FLOAT_EXPONENT) | FLOAT_ONE;
    v.u32[q + K.INST.OBJECT / 4] = cryptomatteId(o.object ?? o.name);
  });
}

/** Objects of which nothing is loaded: after the instances, each a node with one child, which is a stub. */
function packLeftOut(v: Views, scene: EngineScene<SceneMesh>, plan: MemoryPlan): void {
  const first = scene.instances.length;
  const objects = scene.leftOut ?? [];
  const likely = likelyNits(objects);
  const stubs = plan.leftOut + objects.length * K.NODE.BYTES;
  objects.forEach((o, i) => {
    const node = plan.leftOut + i * K.NODE.BYTES;
    const stub = stubs + i * K.STUB.BYTES;
    v.u32.fill(0, stub >>> 2, (stub + K.STUB.BYTES) >>> 2);
    v.u32[(stub + K.STUB.LEFT_OUT) >>> 2] = i + 1;
    v.f32[(stub + K.STUB.BRIGHTNESS) >>> 2] = o.nits ?? -likely;
    v.f32.set([...o.min, ...o.max], (stub + K.STUB.BOX) >>> 2);
    putBox(v, node >>> 2, o, stub | K.REF.STUB);
    const q = (plan.instances + (first + i) * K.INST.BYTES) >>> 2;
    v.u32.fill(0, q, q + K.INST.BYTES / 4);
    v.u32[q + K.INST.ROOT / 4] = node;
    v.u32[q + K.INST.MASK / 4] = o.mask & K.MASK.ALL;
    for (let c = 0; c < 4; c++)
      for (let r = 0; r < 3; r++) v.f32[q + K.INST.FORWARD / 4 + c * 3 + r] = o.matrix[c * 4 + r]!;
    v.i32[q + K.INST.LIGHT / 4] = -1;
    v.u32[q + K.INST.IDENTITY / 4] = FLOAT_ONE;
  });
}
/** A node at word q with one child; boxes are a little larger than what is in them, in 32 bits. */
function putBox(v: Views, q: number, { min, max }: LeftOut, reference: number): void {
  for (let axis = 0; axis < 3; axis++) {
    const slack = Math.max(Math.abs(min[axis]!), Math.abs(max[axis]!)) * 1e-6 + 1e-9;
    for (let child = 0; child < 4; child++) {
      v.f32[q + axis * 4 + child] = child ? Infinity : min[axis]! - slack;
      v.f32[q + 12 + axis * 4 + child] = child ? Infinity : max[axis]! + slack;
    }
  }
  v.u32.fill(0, q + K.NODE.REF / 4, q + K.NODE.BYTES / 4);
  v.u32[q + K.NODE.REF / 4] = reference;
}

/** Where everything is at the next frame. */
function packNext(v: Views, scene: EngineScene<SceneMesh>, plan: MemoryPlan): void {
  scene.instances.forEach((o, i) => {
    const q = (plan.next + i * K.NEXT.BYTES) >>> 2;
    const m = o.nextMatrix ?? o.matrix;
    const mesh = scene.meshes[o.mesh]!;
    for (let c = 0; c < 4; c++) for (let r = 0; r < 3; r++) v.f32[q + c * 3 + r] = m[c * 4 + r]!;
    const bends = !isStored(mesh) && mesh.nextPositions !== undefined;
    v.u32[q + K.NEXT.MOVES / 4] = o.nextMatrix || bends ? 1 : 0;
    v.u32[q + K.NEXT.POSITIONS / 4] = bends ? plan.meshes[o.mesh]!.nextPositions : 0;
  });
}

/** Everything but meshes, textures, energy tables and the top level. */
export function packScene(
  v: Views,
  scene: EngineScene<SceneMesh>,
  plan: MemoryPlan,
  settings: RenderSettings,
  roots: readonly number[],
): void {
  const q = plan.job >>> 2;
  v.u32.fill(0, q, q + K.JOB.BYTES / 4);
  v.f32.set(SRGB, plan.srgbTable >>> 2);
  packMaterials(v, scene, plan);
  packInstances(v, scene, plan, roots);
  if (isAsked(settings)) packLeftOut(v, scene, plan);
  packLights(v, scene, plan);
  if (plan.next) packNext(v, scene, plan);
  packEnvironment(v, scene, plan);
  packJob(v, scene, plan, settings);
}

/** Where everything is, and how it is rendered: again where a scene that is loaded gets a film of another size. */
export function packJob(v: Views, scene: EngineScene<SceneMesh>, plan: MemoryPlan, settings: RenderSettings): void {
  const q = plan.job >>> 2;
  const film = filmGridOf(settings);
  const u = (offset: number, ...x: readonly number[]) => v.u32.set(x, q + offset / 4);
  const f = (offset: number, ...x: readonly number[]) => v.f32.set(x, q + offset / 4);
  u(
    K.JOB.INSTANCES,
    plan.instances,
    scene.lights.length + plan.emissive.length,
    plan.lights,
    plan.lightCdf,
    plan.lightTable,
  );
  u(
    K.JOB.SRGB_TABLE,
    plan.srgbTable,
    plan.energyTables,
    plan.film,
    film.widthPx,
    film.heightPx,
    settings.widthPx,
    settings.heightPx,
    film.left,
    film.top,
    settings.maxBounces,
  );
  f(K.JOB.CLAMP, settings.clampIndirect);
  u(K.JOB.SEED, settings.seed);
  u(K.JOB.TILE_STATE, plan.tileState);
  if (settings.noise) f(K.JOB.NOISE, settings.noise.threshold, settings.noise.floorNits);
  if (scene.fog && scene.fog.extinctionPerM > 0) {
    f(K.JOB.FOG, scene.fog.extinctionPerM, scene.fog.anisotropy, scene.fog.topM);
    f(K.JOB.FOG_ALBEDO, ...scene.fog.albedo);
  }
  if (settings.evidence) {
    u(K.JOB.EVIDENCE, plan.evidenceAt);
    u(K.JOB.PIECES, plan.pieceEvidenceAt);
    u(K.JOB.TRAIL, plan.trailAt);
    f(K.JOB.FINER, settings.evidence.finer);
  }
  u(K.JOB.BY_LEVEL, plan.textures.some((t) => t.resident > 0) ? 1 : 0);
  u(K.JOB.WAVE_PATHS, plan.wavePaths, Math.max(1, Math.floor(plan.wavePaths / (K.TILE.WIDTH * K.TILE.HEIGHT))));
  u(K.JOB.GROUPS, settings.lightGroups ?? 0);
  packParts(v, plan, settings);
  const catches = plan.planes.caught !== undefined && scene.instances.some((o) => o.mask & K.MASK.CATCHER);
  u(K.JOB.CATCHERS, catches ? 1 : 0);
  u(K.JOB.NEXT, plan.next, scene.instances.some((o) => maskOf(o, scene.materials[o.material]!) & K.MASK.PANE) ? 1 : 0);
  for (const [name, at] of Object.entries(plan.planes)) u(K.JOB.PLANES + PLANE_SPECS[name as PlaneName][0] * 4, at);
}

/** Indirect light is clamped in a part as it would be where the part is brightest. */
function packParts(v: Views, plan: MemoryPlan, { parts, clampIndirect }: RenderSettings): void {
  if (!parts) return;
  const { of, mixes } = parts;
  const most = of.map((_, part) => Math.max(...mixes.map((m) => Math.max(...m.slice(part * 3, part * 3 + 3)))));
  v.f32.set(
    most.map((share) => (share > 0 ? clampIndirect / share : clampIndirect)),
    plan.partClamps >>> 2,
  );
  mixes.forEach((mix, k) =>
    of.forEach((_, part) =>
      v.f32.set([...mix.slice(part * 3, part * 3 + 3), 0], (plan.mixWeights >>> 2) + (k * of.length + part) * 4),
    ),
  );
  v.u32.set([of.length, plan.partClamps, mixes.length, plan.mixWeights], (plan.job + K.JOB.PARTS) >>> 2);
}

export function packCamera(
  v: Views,
  plan: MemoryPlan,
  camera: EngineCamera,
  next: EngineCamera,
  settings: RenderSettings,
): void {
  const q = plan.job >>> 2;
  v.u32[q + K.JOB.ORTHO / 4] = camera.projection === 'orthographic' ? 1 : 0;
  v.u32[q + K.JOB.BLADES / 4] = camera.blades ?? 0;
  v.f32[q + K.JOB.BLADE_TURN / 4] = camera.bladeTurnRad ?? 0;
  v.f32.set([(camera.shiftX ?? 0) * 2, (camera.shiftY ?? 0) * 2], q + K.JOB.SHIFT_X / 4);
  packView(v, q + K.JOB.CAMERA / 4, camera, settings);
  packView(v, q + K.JOB.NEXT_CAMERA / 4, next, settings);
}
function packView(v: Views, c: number, camera: EngineCamera, settings: RenderSettings): void {
  const m = camera.matrix;
  const axis = (k: number): Vec3 => unit([m[k * 4]!, m[k * 4 + 1]!, m[k * 4 + 2]!]);
  const right = axis(0);
  const up = axis(1);
  const back = axis(2);
  const halfWidth = (camera.halfHeight * settings.widthPx) / settings.heightPx;
  v.f32.set([m[12]!, m[13]!, m[14]!, camera.nearM], c);
  v.f32.set([...right.map((x) => x * halfWidth), camera.farM], c + 4);
  v.f32.set([...up.map((x) => x * camera.halfHeight), camera.lensRadiusM], c + 8);
  v.f32.set([...back.map((x) => -x), camera.focusDistanceM], c + 12);
}
