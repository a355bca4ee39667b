export * from './facets.ts';
export * from './targets.ts';
export * from './properties.ts';
export * from './resolve.ts';
export * from './fingerprint.ts';
export * from './layers.ts';
export * from './drawn.ts';
export * from './gradeOf.ts';
