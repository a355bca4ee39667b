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

/**
 * A picture under what was rendered: seen where nothing is, by the share that is not covered. Fills the frame, whatever
 * its own shape. film: r, g, b, coverage of a part of the frame.
 * @param open how much of the picture is seen, r, g, b a pixel; absent: what is not covered
 */
export function underlaid(
  film: Float32Array,
  part: { readonly left: number; readonly top: number; readonly widthPx: number; readonly heightPx: number },
  frame: { readonly widthPx: number; readonly heightPx: number },
  plate: { readonly width: number; readonly height: number; readonly data: ArrayLike<number> },
  strength: number,
  open?: Float32Array,
): Float32Array {
  const out = film.slice();
  const k = Math.min(plate.width / frame.widthPx, plate.height / frame.heightPx);
  const x0 = (plate.width - frame.widthPx * k) / 2;
  const y0 = (plate.height - frame.heightPx * k) / 2;
  const top = plate.data instanceof Uint16Array ? 65535 : 255;
  const linear = (c: number) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
  for (let y = 0; y < part.heightPx; y++)
    for (let x = 0; x < part.widthPx; x++) {
      const at = (y * part.widthPx + x) * 4;
      const bare = 1 - film[at + 3]!;
      if (!open && !(bare > 0)) continue;
      const u = Math.min(plate.width - 1, Math.max(0, Math.floor(x0 + (x + part.left + 0.5) * k)));
      const v = Math.min(plate.height - 1, Math.max(0, Math.floor(y0 + (y + part.top + 0.5) * k)));
      const from = (v * plate.width + u) * 4;
      for (let c = 0; c < 3; c++)
        out[at + c]! += (open ? open[(at >> 2) * 3 + c]! : bare) * strength * linear(plate.data[from + c]! / top);
    }
  return out;
}
