export * from './frustum.ts';
