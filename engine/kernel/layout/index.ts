// Memory layout of the engine, by what lies there: the one definition, read by the kernel (AssemblyScript) and by the
// host (TypeScript).
// Everything is in bytes. Addresses are 32-bit, so a job never holds more than 4 GiB.
// Only untyped numeric constants may stand in these files: both compilers read them. The kernel imports them one by
// one.
export * as NODE from './node.ts';
export * as BLOCK from './block.ts';
export * as REF from './reference.ts';
export * as STUB from './stub.ts';
export * as INST from './instance.ts';
export * as RAY from './ray.ts';
export * as MASK from './mask.ts';
export * as HIT from './hit.ts';
export * as GEOM from './geometry.ts';
export * as MAT from './material.ts';
export * as TEX from './texture.ts';
export * as LEVEL from './level.ts';
export * as LIGHT from './light.ts';
export * as LTRI from './emissiveTriangle.ts';
export * as ENV from './environment.ts';
export * as PLANE from './plane.ts';
export * as DENOISE from './denoise.ts';
export * as NEXT from './next.ts';
export * as EVIDENCE from './evidence.ts';
export * as PIECE_EVIDENCE from './pieceEvidence.ts';
export * as TRAIL from './trail.ts';
export * as JOB from './job.ts';
export * as TILE from './tile.ts';
export * as PATH from './path.ts';
export * as SHADE from './shade.ts';
export * as SCRATCH from './scratch.ts';
export * as WAVE from './wave.ts';
export * as BUILD from './build.ts';
export * as MEMORY from './memory.ts';
