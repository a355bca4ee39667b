export { WEIGHTS, makeTeaStall, type Weight } from './stall.ts';
export * from './looks.ts';
export const DEMO_NAME = 'Harvest fair, tea stall';
