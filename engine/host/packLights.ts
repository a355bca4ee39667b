// Lights in engine memory: records, a table for weighing them four at a time, and emitting triangles in world space.
import * as K from '../kernel/layout/index.ts';
import { emits, isArea } from './count.ts';
import { environmentTables } from './environmentTables.ts';
import { clusterCount } from './memoryPlan.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import {
  type EngineInstance,
  type EngineEnvironment,
  EngineError,
  type EngineMesh,
  type EngineScene,
  type EnvironmentInput,
  type LampProfile,
  type SceneMesh,
  type Vec3,
  isStored,
} from './scene.ts';
import type { Views } from './views.ts';

const luminance = (c: Vec3) => 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2];
export const unit = (d: Vec3): Vec3 => {
  const l = Math.hypot(...d) || 1;
  return [d[0] / l, d[1] / l, d[2] / l];
};

export function packLights(v: Views, scene: EngineScene<SceneMesh>, plan: MemoryPlan): void {
  const weights: number[] = [];
  const rows: Weighed[] = [];
  let profiles = 0;
  const putProfile = (f: number, { shares, axis, across }: LampProfile) => {
    const at = plan.profiles + profiles++ * K.LIGHT.PROFILE_BYTES;
    v.f32.set(shares, at >>> 2);
    v.f32.set(axis, f + K.LIGHT.DIRECTION / 4);
    v.f32.set(across, f + K.LIGHT.ACROSS / 4);
    v.u32[f + K.LIGHT.PROFILE / 4] = at;
  };
  const put = (l: {
    type: number;
    radius: number;
    bound?: number;
    cosOuter?: number;
    cosInner?: number;
    position?: Vec3;
    direction?: Vec3;
    color?: Vec3;
    weight: number;
    group: number | undefined;
    shadowless: boolean | undefined;
    profile?: LampProfile | undefined;
  }) => {
    const f = (plan.lights + weights.length * K.LIGHT.BYTES) >>> 2;
    v.u32.fill(0, f, f + K.LIGHT.BYTES / 4);
    v.u32[f] = l.type;
    v.f32[f + 1] = l.radius;
    v.f32[f + 2] = l.cosOuter ?? -1;
    v.f32[f + 3] = l.cosInner ?? -1;
    v.f32.set(l.position ?? [0, 0, 0], f + K.LIGHT.POSITION / 4);
    v.f32[f + K.LIGHT.WEIGHT / 4] = l.weight;
    v.f32.set(l.direction ?? [0, 0, -1], f + K.LIGHT.DIRECTION / 4);
    v.f32.set(l.color ?? [0, 0, 0], f + K.LIGHT.COLOR / 4);
    v.u32[f + K.LIGHT.GROUP / 4] = l.group ?? 0;
    v.u32[f + K.LIGHT.SHADOWLESS / 4] = l.shadowless ? 1 : 0;
    if (l.profile) putProfile(f, l.profile);
    rows.push({
      at: l.position ?? [0, 0, 0],
      weight: l.type === K.LIGHT.SUN ? 0 : l.weight,
      bound: l.bound ?? l.radius,
    });
    weights.push(l.weight);
    return f;
  };
  const ORDER = { sun: 0, spot: 1, point: 2 };
  const lights = scene.lights.filter((l) => !isArea(l)).sort((a, b) => ORDER[a.type] - ORDER[b.type]);
  const number = (type: string) => lights.filter((l) => l.type === type).length;
  v.u32[(plan.job + K.JOB.SUNS) >>> 2] = number('sun');
  v.u32[(plan.job + K.JOB.SPOTS) >>> 2] = number('spot');
  v.u32[(plan.job + K.JOB.POINTS) >>> 2] = number('point');
  for (const l of lights) {
    const { lightGroup: group, shadowless } = l;
    // the disc at distance 1 whose edge is half the angular diameter off the axis
    if (l.type === 'sun')
      put({
        type: K.LIGHT.SUN,
        radius: Math.tan(l.angularDiameterRad / 2),
        direction: unit(l.direction),
        color: l.illuminanceLux,
        weight: luminance(l.illuminanceLux),
        group,
        shadowless,
      });
    else if (l.type === 'point')
      put({
        type: K.LIGHT.POINT,
        radius: l.radiusM,
        position: l.position,
        color: l.intensityCd,
        weight: luminance(l.intensityCd),
        group,
        shadowless,
        profile: l.profile,
      });
    else
      put({
        type: K.LIGHT.SPOT,
        radius: l.radiusM,
        position: l.position,
        direction: unit(l.direction),
        color: l.intensityCd,
        weight: luminance(l.intensityCd),
        cosInner: Math.cos(l.innerConeRad),
        cosOuter: Math.cos(l.outerConeRad),
        group,
        shadowless,
        profile: l.profile,
      });
  }
  let next = 0;
  scene.instances.forEach((o, i) => {
    const material = scene.materials[o.material]!;
    if (!emits(material)) return;
    const place = plan.emissive[next++]!;
    const mesh = scene.meshes[o.mesh]!;
    if (isStored(mesh)) throw new EngineError('BAD_SETTINGS', `“${o.name}” gives light: its mesh has to be whole.`);
    const { triangles, cdf, area, centre, bound } = emissiveTriangles(mesh, o.matrix);
    v.f32.set(triangles, place.triangles >>> 2);
    for (let t = 0; t < cdf.length; t++) v.u32[(place.triangles + t * K.LTRI.BYTES + K.LTRI.PRIM) >>> 2] = t;
    v.f32.set(cdf, place.cdf >>> 2);
    const f = put({
      type: K.LIGHT.MESH,
      radius: 0,
      bound,
      position: centre,
      weight: luminance(material.emission) * area * (material.doubleSided ? 2 : 1) * 0.5,
      group: o.lightGroup,
      shadowless: o.shadowless,
    });
    v.u32[f + K.LIGHT.INSTANCE / 4] = plan.instances + i * K.INST.BYTES;
    v.f32[f + K.LIGHT.AREA / 4] = area;
    v.u32[f + K.LIGHT.TRIANGLES / 4] = place.triangles;
    v.u32[f + K.LIGHT.TRIANGLE_COUNT / 4] = cdf.length;
    v.u32[f + K.LIGHT.TRIANGLE_CDF / 4] = place.cdf;
  });
  packTables(v, rows, plan);
  const total = weights.reduce((a, b) => a + b, 0) || 1;
  let sum = 0;
  v.f32.set(
    weights.map((w, i) => (i === weights.length - 1 ? 1 : (sum += w) / total)),
    plan.lightCdf >>> 2,
  );
}

/** A light, or a cluster of them, as it is weighed: where, how strong, and how far it reaches about its middle. */
interface Weighed {
  readonly at: Vec3;
  readonly weight: number;
  readonly bound: number;
}

/** Rows of four for weighing: of all lights, or with many of each cluster's lights, and of the clusters. */
function packTables(v: Views, lights: readonly Weighed[], plan: MemoryPlan): void {
  const count = clusterCount(lights.length);
  const write = (list: readonly Weighed[], address: number): number => {
    const size = Math.ceil(list.length / 4) * K.LIGHT.ROW_BYTES;
    v.f32.fill(0, address >>> 2, (address + size) >>> 2);
    list.forEach((l, i) => {
      const q = (address >>> 2) + (i >>> 2) * (K.LIGHT.ROW_BYTES / 4) + (i & 3);
      l.at.forEach((x, k) => {
        v.f32[q + k * 4] = x;
      });
      v.f32[q + 12] = l.weight;
      v.f32[q + 16] = l.bound;
    });
    return address + size;
  };
  v.u32.set([count, plan.clusterTable, plan.clusterRecords], (plan.job + K.JOB.CLUSTERS) >>> 2);
  if (!count) {
    write(lights, plan.lightTable);
    return;
  }
  const clusters = gather(
    lights,
    lights.map((_, i) => i),
    count,
  );
  let rows = plan.lightTable;
  let indices = plan.clusterIndices;
  clusters.forEach((members, k) => {
    v.u32.set([rows, members.length, indices], (plan.clusterRecords + k * K.LIGHT.CLUSTER_BYTES) >>> 2);
    rows = write(
      members.map((i) => lights[i]!),
      rows,
    );
    v.u32.set(members, indices >>> 2);
    indices += members.length * 4;
    members.forEach((i, place) => {
      v.u32.set([k, place], (plan.lights + i * K.LIGHT.BYTES + K.LIGHT.CLUSTER) >>> 2);
    });
  });
  write(
    clusters.map((members) => enclose(members.map((i) => lights[i]!))),
    plan.clusterTable,
  );
}
/**
 * Splits lights in halves along their longest extent until there are so many parts (a power of two). Ties go by index.
 */
function gather(lights: readonly Weighed[], members: readonly number[], parts: number): number[][] {
  if (parts === 1) return [[...members]];
  const extent = [0, 1, 2].map((k) => {
    const x = members.map((i) => lights[i]!.at[k]!);
    return Math.max(...x) - Math.min(...x);
  });
  const axis = extent.indexOf(Math.max(...extent));
  const sorted = [...members].sort((a, b) => lights[a]!.at[axis]! - lights[b]!.at[axis]! || a - b);
  const half = sorted.length >> 1;
  return [...gather(lights, sorted.slice(0, half), parts / 2), ...gather(lights, sorted.slice(half), parts / 2)];
}
function enclose(members: readonly Weighed[]): Weighed {
  const lo = [0, 1, 2].map((k) => Math.min(...members.map((m) => m.at[k]! - m.bound)));
  const hi = [0, 1, 2].map((k) => Math.max(...members.map((m) => m.at[k]! + m.bound)));
  return {
    at: [0, 1, 2].map((k) => (lo[k]! + hi[k]!) / 2) as unknown as Vec3,
    weight: members.reduce((s, m) => s + m.weight, 0),
    bound: Math.hypot(hi[0]! - lo[0]!, hi[1]! - lo[1]!, hi[2]! - lo[2]!) / 2,
  };
}

const crossed = (edges: Float64Array, a: number, b: number): number =>
  edges[a]! * edges[3 + b]! - edges[b]! * edges[3 + a]!;
/**
 * Triangles of an emitter in world space: 12 floats each (v0, e1, e2, primitive, side); the front is the edges' cross
 * product times the side.
 */
function emissiveTriangles(mesh: EngineMesh, m: ArrayLike<number>) {
  const n = mesh.indices.length / 3;
  const triangles = new Float32Array(n * 12);
  const cdf = new Float32Array(n);
  const det =
    m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) -
    m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) +
    m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);
  const lo: [number, number, number] = [Infinity, Infinity, Infinity];
  const hi: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  let area = 0;
  const side = Math.sign(det); // a mirrored instance turns its triangles' fronts round
  const corners = new Float64Array(9);
  const edges = new Float64Array(6);
  const { indices, positions } = mesh;
  for (let t = 0; t < n; t++) {
    for (let c = 0; c < 3; c++) {
      const v = indices[t * 3 + c]! * 3;
      const x = positions[v]!;
      const y = positions[v + 1]!;
      const z = positions[v + 2]!;
      for (let k = 0; k < 3; k++) {
        const at = m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!;
        corners[c * 3 + k] = at;
        if (at < lo[k]!) lo[k] = at;
        if (at > hi[k]!) hi[k] = at;
      }
    }
    const to = t * 12;
    for (let k = 0; k < 3; k++) {
      edges[k] = corners[3 + k]! - corners[k]!;
      edges[3 + k] = corners[6 + k]! - corners[k]!;
      triangles[to + k] = corners[k]!;
      triangles[to + 3 + k] = edges[k]!;
      triangles[to + 6 + k] = edges[3 + k]!;
    }
    triangles[to + K.LTRI.SIDE / 4] = side;
    area += 0.5 * Math.hypot(crossed(edges, 1, 2), crossed(edges, 2, 0), crossed(edges, 0, 1));
    cdf[t] = area;
  }
  for (let t = 0; t < n; t++) cdf[t] = area > 0 ? cdf[t]! / area : (t + 1) / n;
  cdf[n - 1] = 1;
  const centre: Vec3 = [(lo[0]! + hi[0]!) / 2, (lo[1]! + hi[1]!) / 2, (lo[2]! + hi[2]!) / 2];
  return { triangles, cdf, area, centre, bound: Math.hypot(hi[0]! - lo[0]!, hi[1]! - lo[1]!, hi[2]! - lo[2]!) / 2 };
}

const INPUTS: readonly EnvironmentInput[] = ['camera', 'reflection', 'refraction'];
export function packEnvironment(v: Views, scene: EngineScene<SceneMesh>, plan: MemoryPlan): void {
  const record = (k: number) => (plan.job + K.JOB.ENVS + k * K.ENV.BYTES) >>> 2;
  const texels = (e: EngineEnvironment, at: number) => {
    for (let i = 0, q = at >>> 2; i < e.width * e.height; i++, q += 4) {
      v.f32[q] = e.data[i * 3]!;
      v.f32[q + 1] = e.data[i * 3 + 1]!;
      v.f32[q + 2] = e.data[i * 3 + 2]!;
      v.f32[q + 3] = 0;
    }
  };
  const put = (k: number, e: EngineEnvironment, at: number) => {
    const q = record(k);
    v.u32[q] = Math.max(...e.scale) > 0 ? at : 0;
    v.u32[q + 1] = e.width;
    v.u32[q + 2] = e.height;
    v.f32[q + K.ENV.TURN_COS / 4] = Math.cos(e.turnRad);
    v.f32[q + K.ENV.TURN_SIN / 4] = Math.sin(e.turnRad);
    v.f32.set(e.scale, q + K.ENV.SCALE / 4);
  };
  const e = scene.environment;
  const p = plan.environment;
  if (e && p) {
    texels(e, p.texels);
    const tables = environmentTables(e);
    const q = record(K.ENV.LIGHTING);
    v.f32.set(tables.marginal, p.marginal >>> 2);
    v.f32.set(tables.conditional, p.conditional >>> 2);
    v.f32.set(tables.pdf, p.pdf >>> 2);
    for (let k = 0; k < 4; k++) put(k, e, p.texels);
    v.u32[q + K.ENV.MARGINAL / 4] = p.marginal;
    v.u32[q + K.ENV.CONDITIONAL / 4] = p.conditional;
    v.u32[q + K.ENV.PDF / 4] = p.pdf;
    const { up, down } = luxOf(e);
    v.f32[(plan.job + K.JOB.SKY_UP) >>> 2] = up;
    v.f32[(plan.job + K.JOB.SKY_DOWN) >>> 2] = down;
  }
  let own = 0;
  INPUTS.forEach((name, i) => {
    const input = scene.environmentInputs?.[name];
    if (!input) return;
    if (input === 'none') v.u32[record(i + 1)] = 0;
    else {
      const at = plan.environmentInputs[own++]!;
      texels(input, at);
      put(i + 1, input, at);
    }
  });
  const { reflection, refraction } = scene.environmentInputs ?? {};
  const isSplit = reflection !== undefined || refraction !== undefined || scene.instances.some(isSeenByHalf);
  v.u32[(plan.job + K.JOB.SPLIT) >>> 2] = isSplit ? 1 : 0;
  v.u32[(plan.job + K.JOB.ENV_GROUP) >>> 2] = scene.environmentGroup ?? 0;
}

/** What an environment gives a surface that faces up or down. */
function luxOf({ width, height, data, scale }: EngineEnvironment): { readonly up: number; readonly down: number } {
  const sums = { up: 0, down: 0 };
  for (let y = 0; y < height; y++) {
    const theta = (Math.PI * (y + 0.5)) / height;
    const solidAngle = ((2 * Math.PI) / width) * (Math.PI / height) * Math.sin(theta);
    const cosine = Math.cos(theta);
    for (let i = y * width * 3; i < (y + 1) * width * 3; i += 3) {
      const light = luminance([data[i]! * scale[0], data[i + 1]! * scale[1], data[i + 2]! * scale[2]]);
      sums[cosine > 0 ? 'up' : 'down'] += light * solidAngle * Math.abs(cosine);
    }
  }
  return sums;
}

/** Whether only rays of some lobes meet it. */
const isSeenByHalf = ({ mask }: EngineInstance): boolean =>
  ((mask & K.MASK.SPECULAR) !== 0) !== ((mask & K.MASK.DIFFUSE) !== 0);
