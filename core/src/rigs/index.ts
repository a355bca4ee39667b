export * from './rigs.ts';
export * from './rigChanges.ts';
export * from './subject.ts';
