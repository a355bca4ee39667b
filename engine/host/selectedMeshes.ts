// The meshes of a selection: shared where they may be, of their own where a node's pose shapes them or a material
// displaces them.
import { type Matrix, type SceneDocument, deforms } from '@variscen/core/scene';
import type { DisplacedUse, SelectedMesh } from './selection.ts';

/** Placements of a displaced mesh that decide how finely it is split. */
const NEAREST = 8;

export class SelectedMeshes {
  readonly list: SelectedMesh[] = [];
  private readonly shared = new Map<string, number>();
  constructor(
    private readonly document: SceneDocument,
    private readonly placed: readonly Matrix[],
    /** Camera to world. */
    private readonly cameraMatrix: Matrix,
    private readonly reliefOf: (material: string) => Omit<DisplacedUse, 'placements'> | undefined,
  ) {}

  /** The place of a mesh that a node shows in a material. */
  of(mesh: number, node: number, material: string): number {
    if (deforms(this.document, node, mesh)) return this.list.push({ mesh, node }) - 1;
    const { uv0, uv1 } = this.document.meshes[mesh]!;
    const relief = uv0 || uv1 ? this.reliefOf(material) : undefined;
    const key = relief ? `${mesh} ${material}` : `${mesh}`;
    const at = this.shared.get(key) ?? this.add(key, mesh, relief);
    const use = this.list[at]!.displaced;
    if (use) this.list[at] = { mesh, node: null, displaced: { ...use, placements: this.nearest(use, node) } };
    return at;
  }
  private add(key: string, mesh: number, relief: Omit<DisplacedUse, 'placements'> | undefined): number {
    const at = this.list.push({ mesh, node: null, ...(relief && { displaced: { ...relief, placements: [] } }) }) - 1;
    this.shared.set(key, at);
    return at;
  }
  private nearest({ placements }: DisplacedUse, node: number): readonly Matrix[] {
    return [...placements, this.placed[node]!].sort((a, b) => this.away(a) - this.away(b)).slice(0, NEAREST);
  }
  private away(m: Matrix): number {
    const eye = this.cameraMatrix;
    return Math.hypot(m[12]! - eye[12]!, m[13]! - eye[13]!, m[14]! - eye[14]!);
  }
}
