export { WEIGHTS, isWeight, makeTeaStall, type Weight } from './stall.ts';
export * from './looks.ts';
export const DEMO_NAME = 'Harvest fair, tea stall';
/** Goes up when the scene is made otherwise. */
export const DEMO_VERSION = 1;
