export { importScene, type ImportOptions, type ImportResult } from './importScene.ts';
