export * from './levels.ts';
export * from './buildPyramid.ts';
export * from './tileBytes.ts';
