export * from './scene.ts';
export * from './engine.ts';
export * from './memoryPlan.ts';
export { KernelPool } from './pool.ts';
export type { SpawnThread, ThreadHandle } from './pool.ts';
export { emits } from './pack.ts';
export { environmentTables } from './environmentTables.ts';
export { serve, instantiate } from './kernelThread.ts';
export { MASK_CAMERA, MASK_SPECULAR, MASK_SHADOW, MASK_DIFFUSE, MASK_ALL } from '../kernel/layout.ts';
