// Writes textures into engine memory, one after another: no more than a few of them are held beside it.
import { checkTexels } from './check.ts';
import type { MemoryPlan } from './memoryPlan.ts';
import { halve, mipSizes } from './mips.ts';
import type { EngineScene, EngineTexture, SceneMesh, Texels } from './scene.ts';
import type { Views } from './views.ts';

/** So many are read while one is written. */
const AHEAD = 2;

/** @throws EngineError BAD_TEXTURE of one that is not as it says; whatever its reader throws */
export async function packTextures(
  v: Views,
  { textures, materials }: EngineScene<SceneMesh>,
  plan: MemoryPlan,
  capPx: number | undefined,
): Promise<void> {
  const uses = materials.flatMap((m) => Object.values(m.textures ?? {}));
  const srgb = new Set(uses.filter((u) => u.srgb).map((u) => u.texture));
  const coming: Promise<Texels>[] = [];
  try {
    for (const [i, t] of textures.entries()) {
      for (let k = i + coming.length; k <= Math.min(i + AHEAD, textures.length - 1); k++) {
        const texels = texelsOf(textures[k]!);
        texels.catch(() => undefined); // said when its turn comes
        coming.push(texels);
      }
      packOne(v, t, await coming.shift()!, plan.textures[i]!, srgb.has(i), capPx);
    }
  } finally {
    await Promise.allSettled(coming);
  }
}

async function texelsOf(t: EngineTexture): Promise<Texels> {
  if (!('read' in t.data)) return t.data;
  const texels = await t.data.read();
  checkTexels(t, texels);
  return texels;
}

/** All levels that are kept; averaged as light where any use reads the texture as sRGB. */
function packOne(
  v: Views,
  { width, height }: EngineTexture,
  texels: Texels,
  at: number,
  isSrgb: boolean,
  capPx: number | undefined,
): void {
  const isWide = texels instanceof Uint16Array;
  const kept = mipSizes(width, height, capPx)[0]!;
  let level = texels;
  let w = width;
  let h = height;
  let to = at;
  for (;;) {
    if (w <= kept.width && h <= kept.height) {
      if (isWide) v.u16.set(level, to >>> 1);
      else v.u8.set(level, to);
      to += level.length * (isWide ? 2 : 1);
    }
    if (w === 1 && h === 1) return;
    level = halve(level, w, h, isSrgb);
    w = Math.max(1, w >> 1);
    h = Math.max(1, h >> 1);
  }
}
