// Job (832 B): everything a thread needs to know
export const BYTES = 832;
export const ROOT = 0;
export const INSTANCES = 4;
export const LIGHT_COUNT = 8;
export const LIGHTS = 12;
export const LIGHT_CDF = 16; // f32 cumulative weight / total
export const LIGHT_TABLE = 20;
export const SUNS = 24; // how many lights are suns
export const SPOTS = 28; // how many after them are spots
export const POINTS = 32; // and how many after those are points
export const SRGB_TABLE = 36; // f32 × 256
export const TABLES = 40; // energy tables, see energy.ts
export const FILM = 44; // f32 × 4 a pixel: sums of r g b and coverage
export const WIDTH = 48; // of the film
export const HEIGHT = 52;
export const FRAME_WIDTH = 56; // of the whole frame, of which the film may be a part
export const FRAME_HEIGHT = 60;
export const LEFT = 64; // of the film in the frame
export const TOP = 68;
export const BOUNCES = 72;
export const CLAMP = 76; // f32, 0 = off
export const SEED = 80;
export const ORTHO = 84;
export const BLADES = 88; // 0 = round
export const BLADE_TURN = 92; // rad
export const SHIFT_X = 96; // lens shift, in half widths and half heights of the frame
export const SHIFT_Y = 100;
export const SPLIT = 104; // reflections or refractions see another environment than surfaces are lit by
export const ENV_GROUP = 108;
export const CAMERA = 112; // origin, near | right × half width, far | up × half height, lens radius | forward, focus distance
export const NEXT_TILE = 192; // atomic
export const CANCEL = 196; // atomic
export const TILES_DONE = 200; // atomic
export const SAMPLE_START = 204;
export const SAMPLE_COUNT = 208;
export const TILE_STATE = 212; // u32 address: samples of each tile so far, TILE.FINISHED added where it gets no more
export const RAYS = 216; // atomic u64: rays traced
export const PATHS = 224; // atomic u64: camera paths started
export const NOISE = 232; // f32: tiles whose relative noise is below get no more samples; 0 = all samples
export const NOISE_FLOOR = 236; // f32, nits: darker pixels are judged as if they were so bright
export const FOG = 240; // extinction 1/m, phase anisotropy, top m | albedo rgb
export const FOG_ALBEDO = 256;
export const EVIDENCE = 272; // u32 offset of a thread's evidence from its scratch, 0 = off
export const GROUPS = 276;
export const PLANES = 288;
export const ENVS = 384;
export const CLUSTERS = 348; // how many; 0: lights are weighed one by one, or picked by power
export const CLUSTER_TABLE = 352; // rows like those of lights
export const CLUSTER_RECORDS = 356;
export const NEXT = 360; // NEXT records of the instances, for motion
export const PANES = 364; // not 0: some instances are panes
export const END_TILE = 368; // of the tiles that are to be rendered, the first is where NEXT_TILE begins
export const ACTIVE = 372; // atomic: threads that may work; those from this number on end at their next tile
export const NEXT_CAMERA = 768; // as CAMERA, at the next frame
