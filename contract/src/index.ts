export * from './looks.ts';
export * from './looksFile.ts';
export * from './project.ts';
export * from './profiles.ts';
export * from './batches.ts';
export * from './cleaning.ts';
export * from './cull.ts';
export * from './deliveries.ts';
export * from './hours.ts';
export * from './machines.ts';
export * from './pictures.ts';
export * from './render.ts';
export * from './reviews.ts';
export * from './errors.ts';
export * from './routes/index.ts';
export * from './routes/calls.ts';
/** For the command line, which knows the contract alone. */
export { framesIn, readRanges } from '@variscen/core/scene';
export { openApiDocument } from './openapi.ts';
