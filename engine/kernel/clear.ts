// Values of the surface's CLEAR besides 0: glass that is only ever sampled; and such that does not bend light.
export const GLASS: i32 = 1;
export const PANE: i32 = 2;
