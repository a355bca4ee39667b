// What a light sample leaves at the address it is given: direction, then these.
export const DISTANCE: usize = 12;
export const RADIANCE: usize = 16;
export const PDF: usize = 28;
export const GROUP: usize = 32;
export const INSTANCE: usize = 36;
export const REACH: usize = 40;
