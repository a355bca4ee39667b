export * from './names.ts';
export * from './profile.ts';
export * from './files.ts';
export * from './nameValues.ts';
export * from './exceptions.ts';
export * from './workingHours.ts';
export * from './profileDifferences.ts';
export * from './group.ts';
