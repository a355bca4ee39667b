export * from './document.ts';
export * from './matrix.ts';
export * from './geometry.ts';
export * from './report.ts';
export * from './cameraSettings.ts';
export { importGltf, type ImportOptions, type ImportResult } from './importGltf.ts';
export * from './animation.ts';
export * from './deform.ts';
