// Refuses what the kernel could not survive, by name.
import { LIGHT } from '../kernel/layout/index.ts';
import {
  EngineError,
  type EngineScene,
  type EngineTexture,
  type SceneMesh,
  TEXTURE_SLOTS,
  type Texels,
  bitsOf,
  isStored,
} from './scene.ts';
import { type RenderSettings, regionOf } from './renderSettings.ts';

/** Of a lamp's shape of light. */
const SHARES = LIGHT.PROFILE_ROWS * LIGHT.PROFILE_COLUMNS;
const finite = (a: ArrayLike<number>): boolean => {
  for (let i = 0; i < a.length; i++) if (!Number.isFinite(a[i]!)) return false;
  return true;
};

/** @throws EngineError BAD_TEXTURE naming the texture */
export function checkTexels(t: EngineTexture, texels: Texels): void {
  const { name, width, height } = t;
  if (bitsOf({ ...t, data: texels }) !== bitsOf(t))
    throw new EngineError('BAD_TEXTURE', `Texture “${name}” is not of ${bitsOf(t)} bits.`);
  if (!(width >= 1 && height >= 1) || texels.length !== width * height * 4)
    throw new EngineError(
      'BAD_TEXTURE',
      `Texture “${name}” holds ${texels.length} values instead of ${width * height * 4}.`,
    );
}

/** @throws EngineError naming the mesh, texture, material or object */
export function checkScene(scene: EngineScene<SceneMesh>): void {
  checkLights(scene.lights);
  for (const m of scene.meshes) {
    if (isStored(m)) continue; // it was checked when it was made a piece
    const vertices = m.positions.length / 3;
    if (m.indices.length === 0 || m.indices.length % 3 !== 0 || !Number.isInteger(vertices))
      throw new EngineError('BAD_MESH', `Mesh “${m.name}” has no whole triangles. Remove it or export it again.`);
    for (const i of m.indices)
      if (i >= vertices)
        throw new EngineError(
          'BAD_MESH',
          `Mesh “${m.name}” refers to vertex ${i}, but has ${vertices}. Export it again.`,
        );
    if (!finite(m.positions))
      throw new EngineError('BAD_MESH', `Mesh “${m.name}” has a position that is not a number. Export it again.`);
    for (const other of [m.restPositions, m.nextPositions])
      if (other && (other.length !== m.positions.length || !finite(other)))
        throw new EngineError(
          'BAD_MESH',
          `Mesh “${m.name}” is posed with positions that do not fit it or are not numbers. Import the scene again.`,
        );
    for (const [what, array, size] of [
      ['normals', m.normals, 3],
      ['texture coordinates', m.uv0, 2],
      ['second texture coordinates', m.uv1, 2],
      ['colours', m.colors, 4],
    ] as const) {
      if (array && array.length !== vertices * size)
        throw new EngineError(
          'BAD_MESH',
          `Mesh “${m.name}” has ${array.length / size} ${what} for ${vertices} vertices. Export it again.`,
        );
      if (array && !finite(array))
        throw new EngineError('BAD_MESH', `Mesh “${m.name}” has ${what} that are not numbers. Export it again.`);
    }
  }
  for (const t of scene.textures) if (!('bits' in t.data)) checkTexels(t, t.data);
  scene.materials.forEach((m, i) => {
    const numbers = [
      ...m.baseColor,
      m.metallic,
      m.roughness,
      m.transmission,
      m.ior,
      m.specular,
      ...m.emission,
      ...m.attenuation,
      m.normalScale,
      m.coat ?? 0,
      m.coatRoughness ?? 0,
      ...(m.sheen ?? []),
      m.anisotropy ?? 0,
      m.iridescence ?? 0,
      m.priority ?? 0,
    ];
    if (!finite(numbers) || m.ior < 1)
      throw new EngineError(
        'BAD_SETTINGS',
        `Material “${m.name ?? i}” has a value that is not a number, or an index of refraction below 1.`,
      );
    for (const slot of TEXTURE_SLOTS) {
      const u = m.textures?.[slot];
      if (u && !scene.textures[u.texture])
        throw new EngineError(
          'BAD_TEXTURE',
          `Material “${m.name ?? i}” uses texture ${u.texture}, which is not there.`,
        );
    }
  });
  for (const i of scene.instances) {
    const m = i.matrix;
    const d =
      m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) -
      m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) +
      m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);
    if (!Number.isFinite(d) || d === 0 || !Number.isFinite(Math.fround(d)) || !Number.isFinite(Math.fround(1 / d)))
      throw new EngineError(
        'BAD_INSTANCE',
        `Object “${i.name}” is scaled to nothing, or beyond what can be computed. Give it a size on every axis or hide it.`,
      );
    if (!finite(m))
      throw new EngineError(
        'BAD_INSTANCE',
        `Object “${i.name}” has a position that is not a number. Set it again or hide it.`,
      );
    if (!scene.meshes[i.mesh] || !scene.materials[i.material])
      throw new EngineError('BAD_INSTANCE', `Object “${i.name}” refers to a mesh or material that is not there.`);
  }
  for (const e of [scene.environment, ...Object.values(scene.environmentInputs ?? {})])
    if (e && e !== 'none' && (e.data.length !== e.width * e.height * 3 || !finite(e.data)))
      throw new EngineError(
        'BAD_TEXTURE',
        `An environment map of ${e.width} × ${e.height} holds ${e.data.length} values, or some that are not numbers. Choose another map.`,
      );
}

/** @throws EngineError naming the light */
function checkLights(lights: EngineScene['lights']): void {
  for (const l of lights) {
    const shares = 'profile' in l ? l.profile?.shares : undefined;
    if (shares && (shares.length !== SHARES || !finite(shares)))
      throw new EngineError('BAD_SETTINGS', `The shape of light “${l.name ?? l.type}” has not ${SHARES} numbers.`);
  }
}

export function checkSettings(s: RenderSettings): void {
  const r = regionOf(s);
  const whole = (x: number) => Number.isInteger(x);
  if (
    ![s.widthPx, s.heightPx, r.left, r.top, r.widthPx, r.heightPx].every(whole) ||
    !(s.widthPx >= 1 && s.heightPx >= 1 && r.widthPx >= 1 && r.heightPx >= 1)
  )
    throw new EngineError('BAD_SETTINGS', 'A picture needs at least one pixel.');
  if (r.left < 0 || r.top < 0 || r.left + r.widthPx > s.widthPx || r.top + r.heightPx > s.heightPx)
    throw new EngineError(
      'BAD_SETTINGS',
      `The region ${r.left}, ${r.top}, ${r.widthPx} × ${r.heightPx} reaches beyond the frame of ${s.widthPx} × ${s.heightPx}.`,
    );
}
