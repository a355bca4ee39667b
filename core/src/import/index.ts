export { importScene, type ImportOptions, type ImportResult } from './importScene.ts';
export { importEnvironment, type EnvironmentImport } from './importEnvironment.ts';
