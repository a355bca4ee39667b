export * from './label.ts';
export * from './layout.ts';
