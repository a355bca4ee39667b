/** How finely something is made: one number for the heavy stall, one for the light one. */
export type Quality = (heavy: number, light: number) => number;
