// Denoiser: pixels looked at on each side, pixels on each side that are compared, and rows at a time
export const REACH = 10;
export const PATCH = 2;
export const BORDER = 12; // both together
export const BAND = 32;
