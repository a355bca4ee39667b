// Reference (u32): low five bits 0 = node; 1…28 = that many triangle blocks; 29 = instance; 30 = leave instance; 31 =
// end.
export const MASK = 31;
export const INSTANCE = 29;
export const LEAVE = 30;
export const END = 31;
