export * from './subdivide.ts';
export * from './displace.ts';
