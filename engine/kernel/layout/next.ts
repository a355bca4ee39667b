// Where an instance is at the next frame (64 B): object→world columns x y z t | u32 does it move | u32 address of the
// mesh's positions then, 0: as now
export const BYTES = 64;
export const MOVES = 48;
export const POSITIONS = 52;
