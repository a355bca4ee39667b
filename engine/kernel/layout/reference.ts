// Reference (u32): low five bits 0 = node; 1…27 = that many triangle blocks; 28 = stub; 29 = instance; 30 = leave
// instance; 31 = end.
export const MASK = 31;
export const STUB = 28;
export const INSTANCE = 29;
export const LEAVE = 30;
export const END = 31;
