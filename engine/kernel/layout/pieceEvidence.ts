// Evidence of a piece of a mesh (40 B), wherever the mesh is shown: how often each kind of event was, u32, as in
// evidence.ts but for lamps; light in nits, f64. Behind a thread's evidence of instances.
export const COUNTS = 0;
export const BROUGHT = 24;
export const SHADOWED = 32;
export const BYTES = 40;
