// Where the vertices of a triangle are described: of a mesh, or of the piece of it that the triangle is in; and which
// instances were reached.
import * as GEOM from './layout/geometry';
import * as INST from './layout/instance';

// @ts-ignore
@inline export function geometryOf(inst: usize, prim: u32): usize {
  const geom: usize = load<u32>(inst, INST.GEOMETRY);
  return <i32>prim < 0 ? geom + <usize>((prim >> GEOM.PIECE_SHIFT) & GEOM.PIECE_MASK) * GEOM.BYTES : geom;
}
/** Number of the piece that a triangle is in, among all of the job, from 1 on; 0: its mesh is whole. */
// @ts-ignore
@inline export function pieceOf(inst: usize, prim: u32): u32 {
  return <i32>prim < 0 ? load<u32>(geometryOf(inst, prim), GEOM.PIECE) : 0;
}
/** The three indices of a triangle of that geometry. */
// @ts-ignore
@inline export function indicesOf(geom: usize, prim: u32): usize {
  const local = <i32>prim < 0 ? prim & GEOM.LOCAL_MASK : prim;
  return <usize>load<u32>(geom, GEOM.INDICES) + <usize>local * 12;
}
/** A ray enters the box of an instance's mesh. Threads may say so at once: it stays so. */
// @ts-ignore
@inline export function reach(inst: usize): void {
  const mask = load<u32>(inst, INST.MASK);
  if (!(mask & INST.REACHED)) store<u32>(inst, mask | INST.REACHED, INST.MASK);
}
