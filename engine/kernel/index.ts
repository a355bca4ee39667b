// What the host may call.
export { buildEnd, buildInstances, buildMesh, refitMesh } from './build';
export { closest, occluded } from './traverse';
export { closestTogether, occludedTogether } from './packets';
export { energyTableBytes, fillEnergyTables, fillGlassTable, glassTableBytes } from './energyFill';
export { denoiseBands, denoiseScratchBytes } from './denoise';
export { renderTiles } from './integrate';
export { evaluateAt, random3At, scatterAt, surfaceAt } from './probe';
export { FC as S_FC, FS as S_FS, KIND as S_KIND, OUT as S_OUT, PDF as S_PDF, WEIGHT as S_WEIGHT } from './record';
/** First byte after the module's own constants (tables of the math functions): the host puts nothing below it. */
export function staticEnd(): usize {
  return __heap_base;
}
