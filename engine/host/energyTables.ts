// How much light rough surfaces and glass lose in what a model of one bounce leaves out, as the kernel tabulates it.
import { glassesOf } from './count.ts';
import { ENERGY_BYTES } from './memoryPlan.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import type { KernelPool } from './pool.ts';
import type { EngineScene } from './scene.ts';

/**
 * The kernel's energy tables are the same for every job of a process: filled once, some hundredths of a second each. A
 * few kilobytes.
 */
const TABLES = new Map<string, Float32Array>();

/** Those that the scene's materials need, at their places in memory. */
export async function fillTables(
  pool: KernelPool,
  plan: MemoryPlan,
  scene: Pick<EngineScene, 'materials'>,
): Promise<void> {
  const stretched = plan.energyBytes > ENERGY_BYTES.plain ? 1 : 0;
  await table(pool, `energy ${stretched}`, plan.energyTables, plan.energyBytes, () =>
    pool.call(0, 'fillEnergyTables', plan.energyTables, stretched, plan.scratch),
  );
  for (const [i, ior] of glassesOf(scene.materials).entries())
    await table(pool, `glass ${ior}`, plan.glassTables[i]!, ENERGY_BYTES.glass, () =>
      pool.call(0, 'fillGlassTable', plan.glassTables[i]!, ior, plan.scratch),
    );
}
async function table(
  pool: KernelPool,
  key: string,
  at: number,
  bytes: number,
  fill: () => Promise<number>,
): Promise<void> {
  const known = TABLES.get(key);
  const here = () => new Float32Array(pool.memory.buffer, at, bytes / 4);
  if (known) here().set(known);
  else {
    await fill();
    TABLES.set(key, here().slice());
  }
}
