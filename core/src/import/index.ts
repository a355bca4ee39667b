export { importScene, type ImportOptions, type ImportResult } from './importScene.ts';
export { importEnvironment, MAX_MAP_HEIGHT, type EnvironmentImport } from './importEnvironment.ts';
