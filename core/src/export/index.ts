export { exportScene, type ExportResult } from './exportScene.ts';
