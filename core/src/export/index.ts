export { exportScene, type ExportResult } from './exportScene.ts';
export * from './splitDocument.ts';
