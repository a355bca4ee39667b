export * from './looks.ts';
export * from './looksFile.ts';
export * from './project.ts';
export * from './profiles.ts';
export * from './hours.ts';
export * from './render.ts';
export * from './errors.ts';
export * from './routes/index.ts';
export { openApiDocument } from './openapi.ts';
