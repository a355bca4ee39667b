// Light (96 B)
export const BYTES = 96;
export const TYPE = 0;
export const RADIUS = 4; // m; for a sun: sine of half its angular diameter
export const COS_OUTER = 8;
export const COS_INNER = 12;
export const POSITION = 16;
export const WEIGHT = 28; // cd-like power by which lights are picked
export const DIRECTION = 32; // the way light travels
export const INSTANCE = 44; // u32 address of the emitting instance
export const COLOR = 48; // rgb: cd (point, spot), lux (sun); unused for meshes
export const AREA = 60; // m² of a mesh's surface
export const ACROSS = 60; // of a lamp's shape of light: a unit vector across its direction, from which columns count
export const PROFILE = 72; // u32 address of its shares, f32 row by row; 0: it shines evenly
export const TRIANGLES = 64; // u32 address
export const TRIANGLE_COUNT = 68;
export const TRIANGLE_CDF = 72; // u32 address, f32 cumulative area / total
export const GROUP = 76; // u32
export const CLUSTER = 80; // u32, with many lights: its cluster
export const PLACE = 84; // u32: and its place there
export const SHADOWLESS = 88; // u32, not 0: nothing stands in its way
export const SUN = 0;
export const POINT = 1;
export const SPOT = 2;
export const MESH = 3;
// Up to this many lights are weighed at every shading point. More are gathered into clusters by place, none of which is
// larger and of which there are no more: a cluster is weighed and picked like a light, then a light within it. Beyond
// 65,536 lights they are picked by power alone. Weighing reads a table of its own, four lights a row (80 B): x×4 y×4
// z×4 | weight×4 | bound×4. Suns have weight 0 there and, like the spots' cones, are looked at one by one; so lights
// are sorted: suns, then spots, then the rest.
export const WEIGHED = 256;
export const ROW_BYTES = 80;
// Cluster (16 B): u32 address of its rows, number of lights, address of their indices (u32 each)
export const CLUSTER_BYTES = 16;
// Shape of a lamp's light: rows from along its direction to against it, each of columns about it
export const PROFILE_ROWS = 91;
export const PROFILE_COLUMNS = 8;
export const PROFILE_BYTES = PROFILE_ROWS * PROFILE_COLUMNS * 4;
