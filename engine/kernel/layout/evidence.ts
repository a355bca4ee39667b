// Evidence of an instance (96 B): for each kind the weight in units of 1/UNIT, u64, then for each how often it was, u64
export const SEEN = 0;
export const REFLECTED = 1;
export const REFRACTED = 2;
export const BOUNCED = 3;
export const SHADOWED = 4;
export const LIT = 5;
export const KINDS = 6;
export const BYTES = 96;
export const COUNTS = 48;
export const UNIT = 1024;
