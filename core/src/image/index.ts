export * from './half.ts';
export * from './exr/index.ts';
export * from './grade.ts';
export * from './lut.ts';
export * from './whitePoint.ts';
export * from './ink.ts';
export * from './luminance.ts';
export * from './tiff.ts';
