// Emissive triangle in world space (48 B): v0 e1 e2 | primitive, side (±1: the front is the edges' cross product times
// it)
export const BYTES = 48;
export const PRIM = 36;
export const SIDE = 40;
