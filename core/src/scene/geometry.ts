// Packed geometry of one mesh: the only form in which geometry is stored and sent. Sections one after another,
// little-endian:
//   positions f32×3 | normals f32×3 | uv0 f32×2 | uv1 f32×2 | colours f32×4 (linear) | indices u32×3
// Which optional sections exist stands in the scene document, so offsets follow from counts.

export interface Geometry {
  readonly positions: Float32Array;
  readonly normals?: Float32Array | undefined;
  readonly uv0?: Float32Array | undefined;
  readonly uv1?: Float32Array | undefined;
  readonly colors?: Float32Array | undefined;
  readonly indices: Uint32Array;
}

export interface GeometryCounts {
  readonly vertices: number;
  readonly triangles: number;
  readonly normals: boolean;
  readonly uv0: boolean;
  readonly uv1: boolean;
  readonly colors: boolean;
}

export const geometryBytes = (c: GeometryCounts): number =>
  c.vertices * 4 * (3 + (c.normals ? 3 : 0) + (c.uv0 ? 2 : 0) + (c.uv1 ? 2 : 0) + (c.colors ? 4 : 0)) +
  c.triangles * 12;

/** Bytes of arrays, one after another. */
export function joined(sections: readonly ArrayBufferView[]): Uint8Array {
  const out = new Uint8Array(sections.reduce((n, s) => n + s.byteLength, 0));
  let at = 0;
  for (const s of sections) {
    out.set(new Uint8Array(s.buffer, s.byteOffset, s.byteLength), at);
    at += s.byteLength;
  }
  return out;
}

export function packGeometry(g: Geometry): Uint8Array {
  const sections = [g.positions, g.normals, g.uv0, g.uv1, g.colors, g.indices].filter((s) => s !== undefined);
  return joined(sections);
}

/** Views into bytes (which must be 4-aligned). @throws RangeError where the length does not fit the counts */
export function unpackGeometry(bytes: Uint8Array, c: GeometryCounts): Geometry {
  if (bytes.byteLength !== geometryBytes(c))
    throw new RangeError(`Geometry holds ${bytes.byteLength} bytes instead of ${geometryBytes(c)}.`);
  let at = bytes.byteOffset;
  const floats = (present: boolean, n: number) => {
    if (!present) return undefined;
    const view = new Float32Array(bytes.buffer, at, n);
    at += n * 4;
    return view;
  };
  const positions = floats(true, c.vertices * 3)!;
  const normals = floats(c.normals, c.vertices * 3);
  const uv0 = floats(c.uv0, c.vertices * 2);
  const uv1 = floats(c.uv1, c.vertices * 2);
  const colors = floats(c.colors, c.vertices * 4);
  return { positions, normals, uv0, uv1, colors, indices: new Uint32Array(bytes.buffer, at, c.triangles * 3) };
}
