export * from './half.ts';
export * from './writeExr.ts';
export * from './grade.ts';
export * from './lut.ts';
export * from './whitePoint.ts';
export * from './ink.ts';
