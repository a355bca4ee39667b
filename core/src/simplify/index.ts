export * from './simplify.ts';
