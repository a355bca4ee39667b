// Writes a scene into engine memory at the places planMemory chose. Structures over meshes and instances are built afterwards by the kernel.
import * as K from '../kernel/layout.ts';
import { environmentTables } from './environmentTables.ts';
import type { JobCounts, MemoryPlan, MeshCounts } from './memoryPlan.ts';
import { EngineError, type EngineCamera, type EngineLight, type EngineMaterial, type EngineMesh, type EngineScene, type RenderSettings, type TextureUse, type Vec3 } from './scene.ts';

const WRAP = { repeat: K.WRAP_REPEAT, clamp: K.WRAP_CLAMP, mirror: K.WRAP_MIRROR };
const luminance = (c: Vec3) => 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2];
export const textureUsesOf = (m: EngineMaterial): TextureUse[] => [m.baseTexture, m.metallicRoughnessTexture, m.normalTexture, m.emissionTexture].filter((u) => u !== undefined);
export const emits = (m: EngineMaterial): boolean => Math.max(...m.emission) > 0;

/** What the square of rectangle lights takes: one node and one block. */
export const RECTANGLE_COUNTS: MeshCounts = { vertices: 4, triangles: 2, normals: false, uv0: false, uv1: false, colors: false, accelerationBytes: K.NODE_BYTES + K.BLOCK_BYTES };

/** The scene with every rectangle light turned into two emitting triangles that the camera does not see. */
export function withRectangles(scene: EngineScene): EngineScene {
  const rectangles = scene.lights.filter((l) => l.type === 'rectangle');
  if (!rectangles.length) return scene;
  const meshes = [...scene.meshes], materials = [...scene.materials], instances = [...scene.instances];
  const quad = meshes.push({ name: 'rectangle light', positions: new Float32Array([-0.5, -0.5, 0, -0.5, 0.5, 0, 0.5, 0.5, 0, 0.5, -0.5, 0]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]), accelerationBytes: RECTANGLE_COUNTS.accelerationBytes }) - 1;
  for (const l of rectangles) {
    const material = materials.push({ baseColor: [0, 0, 0, 1], metallic: 0, roughness: 1, transmission: 0, ior: 1, specular: 0, emission: l.radianceNits, normalScale: 1, attenuation: [0, 0, 0], doubleSided: false, solid: false }) - 1;
    const m = Array.from(l.matrix);
    for (let i = 0; i < 3; i++) { m[i]! *= l.widthM; m[4 + i]! *= l.heightM; }
    instances.push({ name: 'rectangle light', mesh: quad, material, matrix: m, mask: K.MASK_SPECULAR | K.MASK_DIFFUSE });
  }
  return { ...scene, meshes, materials, instances, lights: scene.lights.filter((l) => l.type !== 'rectangle') };
}

/** Refuses what the kernel could not survive, by name. */
export function checkScene(scene: EngineScene): void {
  for (const m of scene.meshes) {
    const vertices = m.positions.length / 3;
    if (m.indices.length === 0 || m.indices.length % 3 !== 0 || !Number.isInteger(vertices)) throw new EngineError('BAD_MESH', `Mesh “${m.name}” has no whole triangles. Remove it or export it again.`);
    for (const i of m.indices) if (i >= vertices) throw new EngineError('BAD_MESH', `Mesh “${m.name}” refers to vertex ${i}, but has ${vertices}. Export it again.`);
    for (const p of m.positions) if (!Number.isFinite(p)) throw new EngineError('BAD_MESH', `Mesh “${m.name}” has a position that is not a number. Export it again.`);
    for (const [what, array, size] of [['normals', m.normals, 3], ['texture coordinates', m.uv0, 2], ['second texture coordinates', m.uv1, 2], ['colours', m.colors, 4]] as const) {
      if (array && array.length !== vertices * size) throw new EngineError('BAD_MESH', `Mesh “${m.name}” has ${array.length / size} ${what} for ${vertices} vertices. Export it again.`);
    }
  }
  for (const t of scene.textures) if (t.data.length !== t.width * t.height * 4) throw new EngineError('BAD_TEXTURE', `Texture “${t.name}” holds ${t.data.length} bytes instead of ${t.width * t.height * 4}.`);
  for (const i of scene.instances) {
    const m = i.matrix;
    const d = m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) - m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) + m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);
    if (!Number.isFinite(d) || d === 0) throw new EngineError('BAD_INSTANCE', `Object “${i.name}” is scaled to nothing. Give it a size on every axis or hide it.`);
    if (!scene.meshes[i.mesh] || !scene.materials[i.material]) throw new EngineError('BAD_INSTANCE', `Object “${i.name}” refers to a mesh or material that is not there.`);
  }
}

export function countScene(scene: EngineScene, settings: RenderSettings, threads: number, acceleration: readonly number[]): JobCounts {
  const emitting = scene.instances.filter((i) => emits(scene.materials[i.material]!));
  return {
    meshes: scene.meshes.map((m, i) => ({ vertices: m.positions.length / 3, triangles: m.indices.length / 3, normals: !!m.normals, uv0: !!m.uv0, uv1: !!m.uv1, colors: !!m.colors, accelerationBytes: acceleration[i]! })),
    materials: scene.materials.length,
    textureUses: scene.materials.reduce((n, m) => n + textureUsesOf(m).length, 0),
    textures: scene.textures,
    instances: scene.instances.length,
    lights: scene.lights.length + emitting.length,
    emissiveTriangles: emitting.map((i) => scene.meshes[i.mesh]!.indices.length / 3),
    environment: scene.environment,
    widthPx: settings.widthPx, heightPx: settings.heightPx, threads,
  };
}

/** Views on the whole memory; made anew after it grows. */
export interface Views { readonly u8: Uint8Array; readonly i32: Int32Array; readonly u32: Uint32Array; readonly f32: Float32Array }
export const viewsOf = (memory: WebAssembly.Memory): Views => {
  const b = memory.buffer;
  return { u8: new Uint8Array(b), i32: new Int32Array(b), u32: new Uint32Array(b), f32: new Float32Array(b) };
};

export function packMesh(v: Views, m: EngineMesh, place: MemoryPlan['meshes'][number]): void {
  const g = place.geometry >> 2;
  v.u32[g] = place.normals; v.u32[g + 1] = place.uv0; v.u32[g + 2] = place.uv1; v.u32[g + 3] = place.colors; v.u32[g + 4] = place.indices; v.u32[g + 5] = m.indices.length / 3;
  if (m.normals) v.f32.set(m.normals, place.normals >> 2);
  if (m.uv0) v.f32.set(m.uv0, place.uv0 >> 2);
  if (m.uv1) v.f32.set(m.uv1, place.uv1 >> 2);
  if (m.colors) v.f32.set(m.colors, place.colors >> 2);
  v.u32.set(m.indices, place.indices >> 2);
}

function packMaterials(v: Views, scene: EngineScene, plan: MemoryPlan): void {
  let use = plan.textureUses;
  scene.materials.forEach((m, i) => {
    const at = plan.materials + i * K.MAT_BYTES, f = at >> 2;
    v.u32.fill(0, f, f + K.MAT_BYTES / 4);
    v.f32.set(m.baseColor, f); v.f32[f + K.MAT_METALLIC / 4] = m.metallic; v.f32[f + K.MAT_ROUGHNESS / 4] = m.roughness; v.f32[f + K.MAT_TRANSMISSION / 4] = m.transmission; v.f32[f + K.MAT_IOR / 4] = m.ior;
    v.f32.set(m.emission, f + K.MAT_EMISSION / 4); v.f32[f + K.MAT_NORMAL_SCALE / 4] = m.normalScale; v.f32.set(m.attenuation, f + K.MAT_ATTENUATION / 4); v.f32[f + K.MAT_SPECULAR / 4] = m.specular;
    v.u32[f + K.MAT_FLAGS / 4] = (m.doubleSided ? K.MAT_DOUBLE_SIDED : 0) | (m.solid ? K.MAT_SOLID : 0);
    for (const [slot, u] of [[K.MAT_TEX_BASE, m.baseTexture], [K.MAT_TEX_METAL_ROUGH, m.metallicRoughnessTexture], [K.MAT_TEX_NORMAL, m.normalTexture], [K.MAT_TEX_EMISSION, m.emissionTexture]] as const) {
      if (!u) continue;
      const t = scene.textures[u.texture];
      if (!t) throw new EngineError('BAD_TEXTURE', `Material ${i} uses texture ${u.texture}, which is not there.`);
      const q = use >> 2;
      v.u32[q] = plan.textures[u.texture]!; v.u32[q + 1] = t.width; v.u32[q + 2] = t.height;
      v.u32[q + 3] = (u.srgb ? K.TEX_SRGB : 0) | (u.uvSet ? K.TEX_UV1 : 0) | (WRAP[u.wrapS] << K.TEX_WRAP_S) | (WRAP[u.wrapT] << K.TEX_WRAP_T);
      v.f32.set(u.matrix, q + K.TEX_UV / 4);
      v.u32[(at + slot) >> 2] = use;
      use += K.TEX_BYTES;
    }
  });
}

function packInstances(v: Views, scene: EngineScene, plan: MemoryPlan, roots: readonly number[]): void {
  let light = scene.lights.length;
  scene.instances.forEach((o, i) => {
    const at = plan.instances + i * K.INST_BYTES, q = at >> 2, m = o.matrix;
    v.u32[q + K.INST_ROOT / 4] = roots[o.mesh]!; v.u32[q + K.INST_MASK / 4] = o.mask;
    for (let c = 0; c < 4; c++) for (let r = 0; r < 3; r++) v.f32[q + K.INST_FORWARD / 4 + c * 3 + r] = m[c * 4 + r]!;
    v.u32[q + K.INST_MATERIAL / 4] = plan.materials + o.material * K.MAT_BYTES; v.u32[q + K.INST_GEOMETRY / 4] = plan.meshes[o.mesh]!.geometry;
    v.i32[q + K.INST_LIGHT / 4] = emits(scene.materials[o.material]!) ? light++ : -1;
  });
}

function packLights(v: Views, scene: EngineScene, plan: MemoryPlan): void {
  const weights: number[] = [], table = plan.lightTable >> 2;
  v.f32.fill(0, table, table + (Math.ceil((scene.lights.length + plan.emissive.length) / 4) * K.LIGHT_ROW_BYTES) / 4);
  const put = (l: { type: number; radius: number; bound?: number; cosOuter?: number; cosInner?: number; position?: Vec3; direction?: Vec3; color?: Vec3; weight: number }) => {
    const f = (plan.lights + weights.length * K.LIGHT_BYTES) >> 2;
    v.u32.fill(0, f, f + K.LIGHT_BYTES / 4);
    v.u32[f] = l.type; v.f32[f + 1] = l.radius; v.f32[f + 2] = l.cosOuter ?? -1; v.f32[f + 3] = l.cosInner ?? -1;
    v.f32.set(l.position ?? [0, 0, 0], f + K.LIGHT_POSITION / 4); v.f32[f + K.LIGHT_WEIGHT / 4] = l.weight; v.f32.set(l.direction ?? [0, 0, -1], f + K.LIGHT_DIRECTION / 4); v.f32.set(l.color ?? [0, 0, 0], f + K.LIGHT_COLOR / 4);
    const row = table + (weights.length >> 2) * (K.LIGHT_ROW_BYTES / 4) + (weights.length & 3);
    (l.position ?? [0, 0, 0]).forEach((x, k) => { v.f32[row + k * 4] = x; });
    v.f32[row + 12] = l.type === K.LIGHT_SUN ? 0 : l.weight; v.f32[row + 16] = l.bound ?? l.radius;
    weights.push(l.weight);
    return f;
  };
  const ORDER = { sun: 0, spot: 1, point: 2 }, lights = [...(scene.lights as readonly Exclude<EngineLight, { type: 'rectangle' }>[])].sort((a, b) => ORDER[a.type] - ORDER[b.type]);
  v.u32[(plan.job + K.JOB_SUNS) >> 2] = lights.filter((l) => l.type === 'sun').length; v.u32[(plan.job + K.JOB_SPOTS) >> 2] = lights.filter((l) => l.type === 'spot').length;
  for (const l of lights) {
    if (l.type === 'sun') put({ type: K.LIGHT_SUN, radius: Math.sin(l.angularDiameterRad / 2), direction: unit(l.direction), color: l.illuminanceLux, weight: luminance(l.illuminanceLux) });
    else if (l.type === 'point') put({ type: K.LIGHT_POINT, radius: l.radiusM, position: l.position, color: l.intensityCd, weight: luminance(l.intensityCd) });
    else put({ type: K.LIGHT_SPOT, radius: l.radiusM, position: l.position, direction: unit(l.direction), color: l.intensityCd, weight: luminance(l.intensityCd), cosInner: Math.cos(l.innerConeRad), cosOuter: Math.cos(l.outerConeRad) });
  }
  let next = 0;
  scene.instances.forEach((o, i) => {
    const material = scene.materials[o.material]!;
    if (!emits(material)) return;
    const place = plan.emissive[next++]!, { triangles, cdf, area, centre, bound } = emissiveTriangles(scene.meshes[o.mesh]!, o.matrix);
    v.f32.set(triangles, place.triangles >> 2);
    for (let t = 0; t < cdf.length; t++) v.u32[(place.triangles + t * K.LTRI_BYTES + K.LTRI_PRIM) >> 2] = t;
    v.f32.set(cdf, place.cdf >> 2);
    const f = put({ type: K.LIGHT_MESH, radius: 0, bound, position: centre, weight: luminance(material.emission) * area * (material.doubleSided ? 2 : 1) * 0.5 });
    v.u32[f + K.LIGHT_INSTANCE / 4] = plan.instances + i * K.INST_BYTES; v.f32[f + K.LIGHT_AREA / 4] = area;
    v.u32[f + K.LIGHT_TRIANGLES / 4] = place.triangles; v.u32[f + K.LIGHT_TRIANGLE_COUNT / 4] = cdf.length; v.u32[f + K.LIGHT_TRIANGLE_CDF / 4] = place.cdf;
  });
  const total = weights.reduce((a, b) => a + b, 0) || 1;
  let sum = 0;
  v.f32.set(weights.map((w, i) => (i === weights.length - 1 ? 1 : (sum += w) / total)), plan.lightCdf >> 2);
}
const unit = (d: Vec3): Vec3 => { const l = Math.hypot(...d) || 1; return [d[0] / l, d[1] / l, d[2] / l]; };

/** Triangles of an emitter in world space: 12 floats each (v0, e1, e2, primitive, side); the front is the edges' cross product times the side. */
function emissiveTriangles(mesh: EngineMesh, m: ArrayLike<number>) {
  const n = mesh.indices.length / 3, triangles = new Float32Array(n * 12), cdf = new Float32Array(n);
  const world = (i: number, k: number) => m[k]! * mesh.positions[i * 3]! + m[4 + k]! * mesh.positions[i * 3 + 1]! + m[8 + k]! * mesh.positions[i * 3 + 2]! + m[12 + k]!;
  const det = m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) - m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) + m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);
  const lo = [Infinity, Infinity, Infinity], hi = [-Infinity, -Infinity, -Infinity];
  let area = 0;
  for (let t = 0; t < n; t++) {
    const p = [0, 1, 2].map((c) => [0, 1, 2].map((k) => world(mesh.indices[t * 3 + c]!, k)));
    for (const q of p) for (let k = 0; k < 3; k++) { lo[k] = Math.min(lo[k]!, q[k]!); hi[k] = Math.max(hi[k]!, q[k]!); }
    const e1 = [0, 1, 2].map((k) => p[1]![k]! - p[0]![k]!), e2 = [0, 1, 2].map((k) => p[2]![k]! - p[0]![k]!);
    triangles.set(p[0]!, t * 12); triangles.set(e1, t * 12 + 3); triangles.set(e2, t * 12 + 6);
    triangles[t * 12 + K.LTRI_SIDE / 4] = Math.sign(det); // a mirrored instance turns its triangles' fronts round
    area += 0.5 * Math.hypot(e1[1]! * e2[2]! - e1[2]! * e2[1]!, e1[2]! * e2[0]! - e1[0]! * e2[2]!, e1[0]! * e2[1]! - e1[1]! * e2[0]!);
    cdf[t] = area;
  }
  for (let t = 0; t < n; t++) cdf[t] = area > 0 ? cdf[t]! / area : (t + 1) / n;
  cdf[n - 1] = 1;
  const centre: Vec3 = [(lo[0]! + hi[0]!) / 2, (lo[1]! + hi[1]!) / 2, (lo[2]! + hi[2]!) / 2];
  return { triangles, cdf, area, centre, bound: Math.hypot(hi[0]! - lo[0]!, hi[1]! - lo[1]!, hi[2]! - lo[2]!) / 2 };
}

function packEnvironment(v: Views, scene: EngineScene, plan: MemoryPlan): void {
  const e = scene.environment, p = plan.environment, q = plan.job >> 2;
  if (!e || !p) { v.u32[q + K.JOB_ENV / 4] = 0; return; }
  for (let i = 0; i < e.width * e.height; i++) {
    const at = (p.texels >> 2) + i * 4;
    v.f32[at] = e.data[i * 3]!; v.f32[at + 1] = e.data[i * 3 + 1]!; v.f32[at + 2] = e.data[i * 3 + 2]!; v.f32[at + 3] = 0;
  }
  const tables = environmentTables(e);
  v.f32.set(tables.marginal, p.marginal >> 2); v.f32.set(tables.conditional, p.conditional >> 2); v.f32.set(tables.pdf, p.pdf >> 2);
  v.u32[q + K.JOB_ENV / 4] = Math.max(...e.scale) > 0 ? p.texels : 0;
  v.u32[q + K.JOB_ENV_WIDTH / 4] = e.width; v.u32[q + K.JOB_ENV_HEIGHT / 4] = e.height; v.u32[q + K.JOB_ENV_MARGINAL / 4] = p.marginal; v.u32[q + K.JOB_ENV_CONDITIONAL / 4] = p.conditional; v.u32[q + K.JOB_ENV_PDF / 4] = p.pdf;
  v.f32[q + K.JOB_ENV_TURN_COS / 4] = Math.cos(e.turnRad); v.f32[q + K.JOB_ENV_TURN_SIN / 4] = Math.sin(e.turnRad); v.f32.set(e.scale, q + K.JOB_ENV_SCALE / 4);
}

/** Linear values of 8-bit sRGB codes (IEC 61966-2-1). */
const SRGB = Float32Array.from({ length: 256 }, (_, i) => (i / 255 <= 0.04045 ? i / 255 / 12.92 : ((i / 255 + 0.055) / 1.055) ** 2.4));

/** Everything but meshes and the top level. */
export function packScene(v: Views, scene: EngineScene, plan: MemoryPlan, settings: RenderSettings, roots: readonly number[]): void {
  const q = plan.job >> 2;
  v.u32.fill(0, q, q + K.JOB_BYTES / 4);
  v.f32.set(SRGB, plan.srgbTable >> 2);
  scene.textures.forEach((t, i) => v.u8.set(t.data, plan.textures[i]!));
  packMaterials(v, scene, plan);
  packInstances(v, scene, plan, roots);
  packLights(v, scene, plan);
  packEnvironment(v, scene, plan);
  v.u32[q + K.JOB_INSTANCES / 4] = plan.instances; v.u32[q + K.JOB_LIGHTS / 4] = plan.lights; v.u32[q + K.JOB_LIGHT_CDF / 4] = plan.lightCdf; v.u32[q + K.JOB_LIGHT_TABLE / 4] = plan.lightTable;
  v.i32[q + K.JOB_LIGHT_COUNT / 4] = scene.lights.length + plan.emissive.length;
  v.u32[q + K.JOB_SRGB_TABLE / 4] = plan.srgbTable; v.u32[q + K.JOB_ALBEDO_TABLE / 4] = plan.albedoTable; v.u32[q + K.JOB_FILM / 4] = plan.film;
  v.u32[q + K.JOB_WIDTH / 4] = settings.widthPx; v.u32[q + K.JOB_HEIGHT / 4] = settings.heightPx; v.u32[q + K.JOB_BOUNCES / 4] = settings.maxBounces; v.f32[q + K.JOB_CLAMP / 4] = settings.clampIndirect; v.u32[q + K.JOB_SEED / 4] = settings.seed;
}

export function packCamera(v: Views, plan: MemoryPlan, camera: EngineCamera, settings: RenderSettings): void {
  const q = plan.job >> 2, c = q + K.JOB_CAMERA / 4, m = camera.matrix;
  const axis = (k: number): Vec3 => unit([m[k * 4]!, m[k * 4 + 1]!, m[k * 4 + 2]!]);
  const right = axis(0), up = axis(1), back = axis(2), halfWidth = (camera.halfHeight * settings.widthPx) / settings.heightPx;
  v.u32[q + K.JOB_ORTHO / 4] = camera.projection === 'orthographic' ? 1 : 0;
  v.f32.set([m[12]!, m[13]!, m[14]!, camera.nearM], c);
  v.f32.set([...right.map((x) => x * halfWidth), camera.farM], c + 4);
  v.f32.set([...up.map((x) => x * camera.halfHeight), camera.lensRadiusM], c + 8);
  v.f32.set([...back.map((x) => -x), camera.focusDistanceM], c + 12);
}
