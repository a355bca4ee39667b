// Writes textures into engine memory, one after another: no more than a few of them are held beside it. Of stored ones
// only the levels that are always there (textureLevels.ts loads the others).
import * as K from '../kernel/layout/index.ts';
import { checkTexels } from './check.ts';
import { levelBytes } from './memoryPlan.ts';
import type { MemoryPlan, TexturePlace } from './memoryPlaces.ts';
import { halve } from './mips.ts';
import {
  type EngineMaterial,
  type EngineScene,
  type EngineTexture,
  type SceneMesh,
  type Texels,
  bitsOf,
  isStoredTexture,
} from './scene.ts';
import type { Views } from './views.ts';

/** So many are read while one is written. */
const AHEAD = 2;

/** Textures whose colours some use reads as sRGB: these are averaged as light. */
export const srgbTextures = (materials: readonly EngineMaterial[]): ReadonlySet<number> =>
  new Set(
    materials
      .flatMap((m) => Object.values(m.textures ?? {}))
      .filter((u) => u.srgb)
      .map((u) => u.texture),
  );

/** Levels that are always in memory, the finest first. */
type Levels = readonly Texels[];

/** @throws EngineError BAD_TEXTURE of one that is not as it says; whatever its reader throws */
export async function packTextures(
  v: Views,
  { textures, materials }: EngineScene<SceneMesh>,
  plan: MemoryPlan,
): Promise<void> {
  const srgb = srgbTextures(materials);
  const coming: Promise<Levels>[] = [];
  try {
    for (const [i, t] of textures.entries()) {
      for (let k = i + coming.length; k <= Math.min(i + AHEAD, textures.length - 1); k++) {
        const levels = levelsOf(textures[k]!, plan.textures[k]!, srgb.has(k));
        levels.catch(() => undefined); // said when its turn comes
        coming.push(levels);
      }
      packOne(v, t, await coming.shift()!, plan.textures[i]!);
    }
  } finally {
    await Promise.allSettled(coming);
  }
}

async function levelsOf(t: EngineTexture, place: TexturePlace, isSrgb: boolean): Promise<Levels> {
  const { data } = t;
  if (isStoredTexture(data)) return storedLevels(t, data.level, place);
  const texels = 'read' in data ? await data.read() : data;
  checkTexels(t, texels);
  return keptLevels(t, texels, place.leftOut, isSrgb);
}
/** Of texels that somebody still holds, and loads again. */
const kept = new WeakMap<Texels, Map<string, Levels>>();
function keptLevels(t: EngineTexture, texels: Texels, from: number, isSrgb: boolean): Levels {
  const key = `${t.width} ${t.height} ${from} ${isSrgb}`;
  const known = kept.get(texels) ?? new Map<string, Levels>();
  kept.set(texels, known);
  const levels = known.get(key) ?? madeLevels(t, texels, from, isSrgb);
  known.set(key, levels);
  return levels;
}
async function storedLevels(
  t: EngineTexture,
  read: (level: number) => Promise<Texels>,
  { levels, resident, leftOut }: TexturePlace,
): Promise<Levels> {
  const out: Texels[] = [];
  for (const [i, size] of levels.entries()) {
    if (i < resident) continue;
    const texels = await read(leftOut + i);
    checkTexels({ ...t, ...size }, texels);
    out.push(texels);
  }
  return out;
}
/** Averaged as light where any use reads the texture as sRGB. */
export function madeLevels(
  { width, height }: Pick<EngineTexture, 'width' | 'height'>,
  texels: Texels,
  from: number,
  isSrgb: boolean,
): Texels[] {
  const out: Texels[] = [];
  let level = texels;
  let [w, h] = [width, height];
  for (let i = 0; ; i++) {
    if (i >= from) out.push(level);
    if (w === 1 && h === 1) return out;
    level = halve(level, w, h, isSrgb);
    w = Math.max(1, w >> 1);
    h = Math.max(1, h >> 1);
  }
}

function packOne(v: Views, t: EngineTexture, here: Levels, { table, levels, resident, texels }: TexturePlace): void {
  let at = texels;
  levels.forEach((size, i) => {
    const record = (table + i * K.LEVEL.BYTES) >>> 2;
    v.u32.fill(0, record, record + K.LEVEL.BYTES / 4);
    if (i < resident) return;
    const level = here[i - resident]!;
    v.u8.set(new Uint8Array(level.buffer, level.byteOffset, level.byteLength), at);
    v.u32[record + K.LEVEL.AT / 4] = at;
    at += levelBytes(size, bitsOf(t));
  });
}
