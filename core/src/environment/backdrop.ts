// A backdrop sweep: a floor that bends up into a wall. One shape for all sizes; a look places and stretches it, so that
// what it takes in memory is known beforehand.

/** Of the depth and the height. */
const BEND = 0.25;
const SEGMENTS = 24;

/** X from −½ to ½, floor from Z ½ to −½ at Y 0, wall up to Y 1 at Z −½; faces into the bend. */
export function backdropShape(): {
  readonly positions: Float32Array;
  readonly normals: Float32Array;
  readonly indices: Uint32Array;
} {
  const line: { y: number; z: number; ny: number; nz: number }[] = [{ y: 0, z: 0.5, ny: 1, nz: 0 }];
  for (let i = 0; i <= SEGMENTS; i++) {
    const a = (Math.PI / 2) * (i / SEGMENTS);
    line.push({ y: BEND * (1 - Math.cos(a)), z: -0.5 + BEND * (1 - Math.sin(a)), ny: Math.cos(a), nz: Math.sin(a) });
  }
  line.push({ y: 1, z: -0.5, ny: 0, nz: 1 });
  const positions = new Float32Array(line.flatMap(({ y, z }) => [-0.5, y, z, 0.5, y, z]));
  const normals = new Float32Array(line.flatMap(({ ny, nz }) => [0, ny, nz, 0, ny, nz]));
  const indices = new Uint32Array(
    Array.from({ length: line.length - 1 }, (_, i) => [
      i * 2,
      i * 2 + 1,
      i * 2 + 3,
      i * 2,
      i * 2 + 3,
      i * 2 + 2,
    ]).flat(),
  );
  return { positions, normals, indices };
}

/** A square of 1 × 1 on the ground, facing up. */
export function groundShape(): ReturnType<typeof backdropShape> {
  return {
    positions: new Float32Array([-0.5, 0, -0.5, -0.5, 0, 0.5, 0.5, 0, 0.5, 0.5, 0, -0.5]),
    normals: new Float32Array([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0]),
    indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
  };
}
