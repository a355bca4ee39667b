export * from './cullPlan.ts';
export * from './evidence.ts';
export * from './frameCull.ts';
export * from './letGo.ts';
export * from './namedByEvidence.ts';
export * from './objectBytes.ts';
export * from './verdict.ts';
export * from './verdictWords.ts';
export { framePlanes, outside } from './rules/outsideFrame.ts';
