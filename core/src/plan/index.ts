export * from './names.ts';
export * from './profile.ts';
export * from './group.ts';
