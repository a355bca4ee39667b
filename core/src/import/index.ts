export { importScene, type ImportOptions, type ImportResult } from './importScene.ts';
export { MOST_REFERENCE_PIXELS, type ReferenceExr, readReference } from './readReference.ts';
export { isExr } from './readExr.ts';
export { importLut } from './importLut.ts';
export { importEnvironment, type EnvironmentImport } from './importEnvironment.ts';
