// The meshes of a selection: shared where they may be, of their own where a node's pose shapes them or a material
// displaces them.
import type { StandIn } from '@variscen/core/cull';
import { type Matrix, type SceneDocument, deforms } from '@variscen/core/scene';
import type { DisplacedUse, SelectedMesh } from './selection.ts';

/** Placements of a displaced mesh that decide how finely it is split. */
const NEAREST = 8;

const keyOf = (mesh: number, material: string): string => `${mesh} ${material}`;

export class SelectedMeshes {
  readonly list: SelectedMesh[] = [];
  private readonly shared = new Map<string, number>();
  private readonly placements = new Map<string, readonly Matrix[]>();
  constructor(
    private readonly document: SceneDocument,
    private readonly placed: readonly Matrix[],
    /** Camera to world. */
    private readonly cameraMatrix: Matrix,
    private readonly reliefOf: (material: string) => Omit<DisplacedUse, 'placements'> | undefined,
  ) {}

  /**
   * A node shows a mesh in a material, whether it is kept or not: how finely a displaced mesh is split follows from all
   * places where it is shown, so that what is left out changes nothing. Before the first of().
   */
  shows(mesh: number, node: number, material: string): void {
    if (!this.reliefFor(mesh, node, material)) return;
    const key = keyOf(mesh, material);
    this.placements.set(key, this.nearest(this.placements.get(key) ?? [], node));
  }

  /** The place of a mesh that a node shows in a material, or of what stands in for it. */
  of(mesh: number, node: number, material: string, standIn?: StandIn): number {
    if (deforms(this.document, node, mesh)) return this.list.push({ mesh, node }) - 1;
    const relief = this.reliefFor(mesh, node, material);
    const simpler = relief ? undefined : standIn;
    const key = relief ? keyOf(mesh, material) : `${mesh}${simpler ? ' simplified' : ''}`;
    let at = this.shared.get(key);
    if (at !== undefined) return at;
    const displaced = relief && { ...relief, placements: this.placements.get(key)! };
    at =
      this.list.push({ mesh, node: null, ...(displaced && { displaced }), ...(simpler && { standIn: simpler }) }) - 1;
    this.shared.set(key, at);
    return at;
  }
  private reliefFor(mesh: number, node: number, material: string): Omit<DisplacedUse, 'placements'> | undefined {
    const { uv0, uv1 } = this.document.meshes[mesh]!;
    return (uv0 || uv1) && !deforms(this.document, node, mesh) ? this.reliefOf(material) : undefined;
  }
  private nearest(placements: readonly Matrix[], node: number): readonly Matrix[] {
    return [...placements, this.placed[node]!].sort((a, b) => this.away(a) - this.away(b)).slice(0, NEAREST);
  }
  private away(m: Matrix): number {
    const eye = this.cameraMatrix;
    return Math.hypot(m[12]! - eye[12]!, m[13]! - eye[13]!, m[14]! - eye[14]!);
  }
}
