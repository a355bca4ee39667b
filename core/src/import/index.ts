export { importScene, type ImportOptions, type ImportResult } from './importScene.ts';
export { importLut } from './importLut.ts';
export { importEnvironment, type EnvironmentImport } from './importEnvironment.ts';
