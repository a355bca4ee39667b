export * from './encodeExr.ts';
export { exrBlockCount, exrBlockData, exrFiltered } from './exrBlocks.ts';
export type { ExrChannel, ExrImage } from './exrImage.ts';
export * from './writeExr.ts';
export * from './readLayers.ts';
export * from './readObjects.ts';
