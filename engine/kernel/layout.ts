// Memory layout of the engine: the one definition, read by the kernel (AssemblyScript) and by the host (TypeScript).
// Everything is in bytes. Addresses are 32-bit, so a job never holds more than 4 GiB.
// Only untyped numeric constants may stand here: both compilers read this file.
//
// BVH node (128 B, 64-aligned), four children as structure of arrays:
//   0 minX×4 | 16 minY×4 | 32 minZ×4 | 48 maxX×4 | 64 maxY×4 | 80 maxZ×4 | 96 ref×4 | 112 unused
// Triangle block (160 B, 32-aligned), four triangles as structure of arrays:
//   0 v0x v0y v0z | 48 e1x e1y e1z | 96 e2x e2y e2z (each ×4) | 144 primitive index ×4
// Reference (u32): low five bits 0 = node; 1…28 = that many triangle blocks; 29 = instance; 30 = leave instance; 31 = end.
export const NODE_BYTES = 128;
export const NODE_REF = 96;
export const BLOCK_BYTES = 160;
export const BLOCK_PRIM = 144;
export const REF_MASK = 31;
export const REF_INSTANCE = 29;
export const REF_LEAVE = 30;
export const REF_END = 31;
export const MAX_LEAF_BLOCKS = 2;

// Instance (128 B, 64-aligned): world→object as four columns whose fourth lanes carry integers, then object→world.
export const INST_BYTES = 128;
export const INST_ROOT = 12; // u32 reference of the mesh's root
export const INST_INDEX = 28; // u32 place in the instance list, which is scene order
export const INST_MASK = 44; // u32 MASK_* bits of the rays that may meet it, and INST_PIERCED
export const INST_PIERCED = 256; // its material's alpha lets some rays pass
export const INST_FORWARD = 64; // 12 × f32, columns x y z t
export const INST_MATERIAL = 112; // u32 address
export const INST_GEOMETRY = 116; // u32 address
export const INST_LIGHT = 120; // i32 light index, −1 for none
export const INST_OBJECT = 124; // f32: Cryptomatte id of its object

// Ray (48 B)
export const RAY_BYTES = 48;
export const RAY_TMIN = 12;
export const RAY_DIR = 16;
export const RAY_TMAX = 28;
export const RAY_MASK = 32;
export const RAY_PATH = 36;
export const RAY_SEED = 40; // u32: by it the alpha of what the ray meets is decided
export const MASK_CAMERA = 1;
export const MASK_SPECULAR = 2;
export const MASK_SHADOW = 4;
export const MASK_DIFFUSE = 8;
export const MASK_ALL = 15;
export const MASK_PANE = 16; // what stands between a point and a light and lets it through straight on: instead of MASK_SHADOW

// Hit (32 B): t u v | primitive | instance (0xffffffff: none) | block address + lane
export const HIT_BYTES = 32;
export const HIT_U = 4;
export const HIT_V = 8;
export const HIT_PRIM = 12;
export const HIT_INST = 16;
export const HIT_BLOCK = 20;

// Rays in flight: a slot of ray state and its stack. The stride is not a power of two, so that slots spread over cache sets.
export const SLOT_BYTES = 2752;
export const RAYS_IN_FLIGHT = 20;

// Geometry of a mesh primitive (32 B): addresses, 0 where the mesh has no such attribute
export const GEOM_BYTES = 32;
export const GEOM_NORMALS = 0; // f32 × 3 a vertex
export const GEOM_UV0 = 4; // f32 × 2 a vertex
export const GEOM_UV1 = 8;
export const GEOM_COLORS = 12; // f32 × 4 a vertex, linear
export const GEOM_INDICES = 16; // u32 × 3 a triangle
export const GEOM_TRIANGLES = 20;

// Material (224 B), after glTF 2.0 and its ratified extensions
export const MAT_BYTES = 224;
export const MAT_BASE = 0; // rgb linear, alpha
export const MAT_METALLIC = 16;
export const MAT_ROUGHNESS = 20;
export const MAT_TRANSMISSION = 24;
export const MAT_IOR = 28;
export const MAT_EMISSION = 32; // rgb in nits
export const MAT_NORMAL_SCALE = 44;
export const MAT_ATTENUATION = 48; // rgb absorption coefficients, 1/m
export const MAT_FLAGS = 60;
export const MAT_SPECULAR = 80; // factor on the dielectric's reflectance
export const MAT_ALPHA_CUTOFF = 84;
export const MAT_COAT = 88;
export const MAT_COAT_ROUGHNESS = 92;
export const MAT_SPECULAR_COLOR = 96; // rgb on the dielectric's reflectance at normal incidence
export const MAT_COAT_NORMAL_SCALE = 108;
export const MAT_SHEEN = 112; // rgb
export const MAT_SHEEN_ROUGHNESS = 124;
export const MAT_ANISOTROPY = 128;
export const MAT_ANISOTROPY_COS = 132;
export const MAT_ANISOTROPY_SIN = 136;
export const MAT_IRIDESCENCE = 140;
export const MAT_IRIDESCENCE_IOR = 144;
export const MAT_IRIDESCENCE_MIN = 148; // nm
export const MAT_IRIDESCENCE_MAX = 152;
export const MAT_ID = 156; // f32: Cryptomatte id
export const MAT_GLASS_TABLE = 160; // u32 address, 0 where nothing is transmitted
// u32 addresses of texture uses, 0 for none; in the order of TEXTURE_SLOTS in the host
export const MAT_TEX_BASE = 164;
export const MAT_TEX_METAL_ROUGH = 168;
export const MAT_TEX_NORMAL = 172;
export const MAT_TEX_EMISSION = 176;
export const MAT_TEX_TRANSMISSION = 180; // r
export const MAT_TEX_SPECULAR = 184; // a
export const MAT_TEX_SPECULAR_COLOR = 188; // rgb
export const MAT_TEX_COAT = 192; // r
export const MAT_TEX_COAT_ROUGHNESS = 196; // g
export const MAT_TEX_COAT_NORMAL = 200;
export const MAT_TEX_SHEEN = 204; // rgb
export const MAT_TEX_SHEEN_ROUGHNESS = 208; // a
export const MAT_TEX_ANISOTROPY = 212; // rg direction, b strength
export const MAT_TEX_IRIDESCENCE = 216; // r
export const MAT_TEX_IRIDESCENCE_THICKNESS = 220; // g
export const MAT_DOUBLE_SIDED = 1;
export const MAT_SOLID = 2; // has a volume: refraction bends rays
export const MAT_MASKED = 4; // alpha is 1 or 0, cut at MAT_ALPHA_CUTOFF
export const MAT_UNLIT = 8; // shown in its base colour, neither lit nor lighting
export const MAT_PANE = 16; // thin glass that is clear wherever its textures are looked up: light goes straight on
export const CLEAR_ALPHA = 0.002; // glass of a lobe narrower than this is only ever sampled
export const MAX_PANES = 64; // light through more is lost

// Use of a texture (64 B): the pixels and how texture coordinates reach them
export const TEX_BYTES = 64;
export const TEX_DATA = 0; // u32 address of RGBA8 texels, row by row
export const TEX_WIDTH = 4;
export const TEX_HEIGHT = 8;
export const TEX_FLAGS = 12;
export const TEX_UV = 16; // 2 × 3 matrix: u' = m0 u + m1 v + m2, v' = m3 u + m4 v + m5
export const TEX_TEXELS = 40; // f32: width × height × |determinant of the matrix|
export const TEX_LEVELS = 44; // mip levels, each of half the size (rounded down, at least 1), one after another
export const TEX_SRGB = 1;
export const TEX_UV1 = 2;
export const TEX_WRAP_S = 4; // shift of two bits: 0 repeat, 1 clamp, 2 mirror
export const TEX_WRAP_T = 6;
export const TEX_16 = 256; // four u16 a texel instead of four u8
export const WRAP_REPEAT = 0;
export const WRAP_CLAMP = 1;
export const WRAP_MIRROR = 2;

// Light (96 B)
export const LIGHT_BYTES = 96;
export const LIGHT_TYPE = 0;
export const LIGHT_RADIUS = 4; // m; for a sun: sine of half its angular diameter
export const LIGHT_COS_OUTER = 8;
export const LIGHT_COS_INNER = 12;
export const LIGHT_POSITION = 16;
export const LIGHT_WEIGHT = 28; // cd-like power by which lights are picked
export const LIGHT_DIRECTION = 32; // the way light travels
export const LIGHT_INSTANCE = 44; // u32 address of the emitting instance
export const LIGHT_COLOR = 48; // rgb: cd (point, spot), lux (sun); unused for meshes
export const LIGHT_AREA = 60; // m² of a mesh's surface
export const LIGHT_TRIANGLES = 64; // u32 address
export const LIGHT_TRIANGLE_COUNT = 68;
export const LIGHT_TRIANGLE_CDF = 72; // u32 address, f32 cumulative area / total
export const LIGHT_GROUP = 76; // u32
export const LIGHT_CLUSTER = 80; // u32, with many lights: its cluster
export const LIGHT_PLACE = 84; // u32: and its place there
export const LIGHT_SHADOWLESS = 88; // u32, not 0: nothing stands in its way
export const LIGHT_SUN = 0;
export const LIGHT_POINT = 1;
export const LIGHT_SPOT = 2;
export const LIGHT_MESH = 3;
// Emissive triangle in world space (48 B): v0 e1 e2 | primitive, side (±1: the front is the edges' cross product times it)
export const LTRI_BYTES = 48;
export const LTRI_PRIM = 36;
export const LTRI_SIDE = 40;
// Up to this many lights are weighed at every shading point. More are gathered into clusters by place, none of which is larger and of which there are no more:
// a cluster is weighed and picked like a light, then a light within it. Beyond 65,536 lights they are picked by power alone.
// Weighing reads a table of its own, four lights a row (80 B): x×4 y×4 z×4 | weight×4 | bound×4. Suns have weight 0 there and, like the spots' cones,
// are looked at one by one; so lights are sorted: suns, then spots, then the rest.
export const LIGHTS_WEIGHED = 256;
export const LIGHT_ROW_BYTES = 80;
// Cluster (16 B): u32 address of its rows, number of lights, address of their indices (u32 each)
export const CLUSTER_BYTES = 16;

// Environment input (64 B): lit surfaces see one; what the camera, reflections and refractions see may differ from it
export const ENV_BYTES = 64;
export const ENV_DATA = 0; // u32 address of f32 × 4 texels, 0 for none
export const ENV_WIDTH = 4;
export const ENV_HEIGHT = 8;
export const ENV_TURN_COS = 12;
export const ENV_SCALE = 16; // rgb
export const ENV_TURN_SIN = 28;
export const ENV_MARGINAL = 32; // f32 × height, cumulative; tables of the lighting input only
export const ENV_CONDITIONAL = 36; // f32 × width × height, cumulative by row
export const ENV_PDF = 40; // f32 × width × height, per steradian before the sine is divided out
export const ENV_LIGHTING = 0;
export const ENV_CAMERA = 1;
export const ENV_REFLECTION = 2;
export const ENV_REFRACTION = 3;

// Planes of the film, each with sums over samples: a table of u32 addresses in the job, 0 where a plane is not wanted
export const PLANE_MOMENT = 0; // sums of squares, 3
export const PLANE_DEPTH = 1; // m along the viewing direction, 1
export const PLANE_POSITION = 2; // m, 3
export const PLANE_NORMAL = 3; // 3
export const PLANE_GEOMETRIC = 4; // 3
export const PLANE_ALBEDO = 5; // 3
export const PLANE_EMISSION = 6; // what the camera sees glow, the environment included, 3
export const PLANE_DIRECT = 7; // light scattered once, 3
export const PLANE_INDIRECT = 8; // light scattered more often, 3
export const PLANE_OBJECTS = 9; // CRYPTO_RANKS pairs of id and weight
export const PLANE_MATERIALS = 10;
export const PLANE_GUIDE_ALBEDO = 11; // as albedo and normal, but seen through smooth glass and in mirrors, for the denoiser, 3
export const PLANE_GUIDE_NORMAL = 12; // 3
export const PLANE_GROUPS = 13; // 3 a pixel for each light group, one group after another
export const PLANE_MOTION = 14; // pixels to the right and down until the next frame, 2
export const PLANES = 15;
export const CRYPTO_RANKS = 6;

// Denoiser: pixels looked at on each side, pixels on each side that are compared, and rows at a time
export const DENOISE_REACH = 10;
export const DENOISE_PATCH = 2;
export const DENOISE_BORDER = 12; // both together
export const DENOISE_BAND = 32;

// Where an instance is at the next frame (64 B): object→world columns x y z t | u32 does it move | u32 address of the mesh's positions then, 0: as now
export const NEXT_BYTES = 64;
export const NEXT_MOVES = 48;
export const NEXT_POSITIONS = 52;

// Kinds of evidence, u64 each, weights in units of 1/EVIDENCE_UNIT
export const EVIDENCE_SEEN = 0;
export const EVIDENCE_REFLECTED = 1;
export const EVIDENCE_REFRACTED = 2;
export const EVIDENCE_BOUNCED = 3;
export const EVIDENCE_SHADOWED = 4;
export const EVIDENCE_LIT = 5;
export const EVIDENCE_KINDS = 6;
export const EVIDENCE_UNIT = 1024;

// Job (832 B): everything a thread needs to know
export const JOB_BYTES = 832;
export const JOB_ROOT = 0;
export const JOB_INSTANCES = 4;
export const JOB_LIGHT_COUNT = 8;
export const JOB_LIGHTS = 12;
export const JOB_LIGHT_CDF = 16; // f32 cumulative weight / total
export const JOB_LIGHT_TABLE = 20;
export const JOB_SUNS = 24; // how many lights are suns
export const JOB_SPOTS = 28; // how many after them are spots
export const JOB_POINTS = 32; // and how many after those are points
export const JOB_SRGB_TABLE = 36; // f32 × 256
export const JOB_TABLES = 40; // energy tables, see energy.ts
export const JOB_FILM = 44; // f32 × 4 a pixel: sums of r g b and coverage
export const JOB_WIDTH = 48; // of the film
export const JOB_HEIGHT = 52;
export const JOB_FRAME_WIDTH = 56; // of the whole frame, of which the film may be a part
export const JOB_FRAME_HEIGHT = 60;
export const JOB_LEFT = 64; // of the film in the frame
export const JOB_TOP = 68;
export const JOB_BOUNCES = 72;
export const JOB_CLAMP = 76; // f32, 0 = off
export const JOB_SEED = 80;
export const JOB_ORTHO = 84;
export const JOB_BLADES = 88; // 0 = round
export const JOB_BLADE_TURN = 92; // rad
export const JOB_SHIFT_X = 96; // lens shift, in half widths and half heights of the frame
export const JOB_SHIFT_Y = 100;
export const JOB_SPLIT = 104; // reflections or refractions see another environment than surfaces are lit by
export const JOB_ENV_GROUP = 108;
export const JOB_CAMERA = 112; // origin, near | right × half width, far | up × half height, lens radius | forward, focus distance
export const JOB_NEXT_TILE = 192; // atomic
export const JOB_CANCEL = 196; // atomic
export const JOB_TILES_DONE = 200; // atomic
export const JOB_SAMPLE_START = 204;
export const JOB_SAMPLE_COUNT = 208;
export const JOB_TILE_STATE = 212; // u32 address: samples of each tile so far, TILE_FINISHED added where it gets no more
export const JOB_RAYS = 216; // atomic u64: rays traced
export const JOB_PATHS = 224; // atomic u64: camera paths started
export const JOB_NOISE = 232; // f32: tiles whose relative noise is below get no more samples; 0 = all samples
export const JOB_NOISE_FLOOR = 236; // f32, nits: darker pixels are judged as if they were so bright
export const JOB_FOG = 240; // extinction 1/m, phase anisotropy, top m | albedo rgb
export const JOB_FOG_ALBEDO = 256;
export const JOB_EVIDENCE = 272; // u32 offset of a thread's evidence from its scratch, 0 = off
export const JOB_GROUPS = 276;
export const JOB_PLANES = 288;
export const JOB_ENVS = 384;
export const JOB_CLUSTERS = 348; // how many; 0: lights are weighed one by one, or picked by power
export const JOB_CLUSTER_TABLE = 352; // rows like those of lights
export const JOB_CLUSTER_RECORDS = 356;
export const JOB_NEXT = 360; // NEXT records of the instances, for motion
export const JOB_PANES = 364; // not 0: some instances are panes
export const JOB_NEXT_CAMERA = 768; // as JOB_CAMERA, at the next frame
export const TILE_FINISHED = 0x40000000;
export const TILE_WIDTH = 64;
export const TILE_HEIGHT = 32;
export const WAVE_PATHS = 1024;

// Path (112 B): throughput, pdf of the last direction (0: cannot be sampled by light picking) | radiance, seed |
//   normal at the last vertex (0: none), pixel | sample, bounce, flags, covered | guide's throughput, ray width | ray spread |
//   where it was scattered last, panes left out, and metres from there to the ray's origin
export const PATH_BYTES = 112;
export const PATH_PDF = 12;
export const PATH_RADIANCE = 16;
export const PATH_SEED = 28;
export const PATH_NORMAL = 32;
export const PATH_PIXEL = 44;
export const PATH_SAMPLE = 48;
export const PATH_BOUNCE = 52;
export const PATH_FLAGS = 56;
export const PATH_COVERED = 60;
export const PATH_GUIDE = 64;
export const PATH_WIDTH = 76; // m across the ray at its origin
export const PATH_SPREAD = 80; // and how it grows a metre
export const PATH_FROM = 96;
export const PATH_TRAVELLED = 108;
export const PATH_KIND = 7; // flags: how the path was scattered last
export const PATH_GUIDED = 8; // the denoiser's guides are written
export const PATH_MEETS = 16; // may meet the discs of suns and the balls of lamps
export const PATH_PANES = 8; // shift: from this bit on, how many panes it went straight through
// Shadow candidate (32 B): contribution rgb, path index | light group, light's instance (NONE: none), scatterings; two a path and bounce at most
export const SHADE_BYTES = 32;
export const SHADE_PATH = 12;
export const SHADE_GROUP = 16;
export const SHADE_LIGHT = 20;
export const SHADE_SCATTERINGS = 24; // of the light when it arrives at the camera

// Per-thread scratch: ray slots, then two ray queues, hits, paths, shadow rays, shadow contributions, shadow results
export const SCRATCH_SLOTS = 0;
export const SCRATCH_RAYS_A = SCRATCH_SLOTS + SLOT_BYTES * (RAYS_IN_FLIGHT + 1);
export const SCRATCH_RAYS_B = SCRATCH_RAYS_A + RAY_BYTES * WAVE_PATHS;
export const SCRATCH_HITS = SCRATCH_RAYS_B + RAY_BYTES * WAVE_PATHS;
export const SCRATCH_PATHS = SCRATCH_HITS + HIT_BYTES * WAVE_PATHS;
export const SCRATCH_SHADOW_RAYS = SCRATCH_PATHS + PATH_BYTES * WAVE_PATHS;
export const SCRATCH_SHADE = SCRATCH_SHADOW_RAYS + RAY_BYTES * WAVE_PATHS * 2;
export const SCRATCH_SHADOW_HITS = SCRATCH_SHADE + SHADE_BYTES * WAVE_PATHS * 2;
export const SCRATCH_SURFACE = SCRATCH_SHADOW_HITS + 4 * WAVE_PATHS * 2;
export const SURFACE_BYTES = 768;
export const SCRATCH_WEIGHTS = SCRATCH_SURFACE + SURFACE_BYTES; // f32 × LIGHTS_WEIGHED
export const SCRATCH_BYTES = SCRATCH_WEIGHTS + 4 * LIGHTS_WEIGHED;

// Builder scratch: bins, then frames of four child descriptors for each level, beside 32 B a triangle or instance of records
export const BUILD_RECORD_BYTES = 32;
export const BUILD_BINS = 16;
export const BUILD_CHILD_BYTES = 96;
export const BUILD_FRAMES = 4096;
export const BUILD_MAX_DEPTH = 24; // beyond it splits are by count, so that stacks stay bounded
export const BUILD_SCRATCH_BYTES = BUILD_FRAMES + BUILD_CHILD_BYTES * 4 * 64;

// The module's own constants (tables of the math functions) lie below this; every thread checks on start that they do. Written over, exp() and
// sin() silently give nonsense: the furnace test of glass once caught it.
export const FIRST_ADDRESS = 65536;
