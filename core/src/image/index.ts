export * from './half.ts';
export * from './writeExr.ts';
export * from './grade.ts';
export * from './ink.ts';
