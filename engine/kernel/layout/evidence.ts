// Kinds of evidence, u64 each, weights in units of 1/EVIDENCE_UNIT
export const SEEN = 0;
export const REFLECTED = 1;
export const REFRACTED = 2;
export const BOUNCED = 3;
export const SHADOWED = 4;
export const LIT = 5;
export const KINDS = 6;
export const UNIT = 1024;
