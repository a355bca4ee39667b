import type { V3 } from '../builder.ts';

/** The colour of lantern light, linear. */
export const LANTERN: V3 = [1, 0.62, 0.28];
