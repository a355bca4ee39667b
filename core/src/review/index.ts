export * from './show.ts';
export * from './difference.ts';
export * from './statistics.ts';
export * from './resample.ts';
