// Builder scratch: bins, then frames of four child descriptors for each level, beside 32 B a triangle or instance of
// records
export const RECORD_BYTES = 32;
export const BINS = 16;
export const CHILD_BYTES = 96;
export const FRAMES = 4096;
export const MAX_DEPTH = 24; // beyond it splits are by count, so that stacks stay bounded
export const SCRATCH_BYTES = FRAMES + CHILD_BYTES * 4 * 64;
