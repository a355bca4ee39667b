// The meshes of a split: whole, simplified, posed, or with those pieces alone that a ray reached.
import { type CullEvidence, type MeshReached, type StandIn, reachedMeshes } from '@variscen/core/cull';
import type { SplitMesh } from '@variscen/core/export';
import {
  type Geometry,
  type SceneDocument,
  type SceneMesh,
  type SceneNode,
  deformGeometry,
  unpackDeform,
  unpackGeometry,
  worldMatrices,
} from '@variscen/core/scene';
import { simplified, someTriangles } from '@variscen/core/simplify';
import type { Engine } from '@variscen/engine';
import { engineBuild, openNodeEngine } from '@variscen/engine/node';

/** By hash of the mesh. */
type Cuts = ReadonlyMap<string, MeshReached>;

/**
 * Meshes of which rays reached some pieces and others not, where that is known and enough: nothing that shows the mesh
 * is kept though no ray met it, as what is pinned may be.
 * @param keep nodes of the document
 */
export async function cutsOf(
  evidence: CullEvidence | null,
  { nodes, meshes }: SceneDocument,
  keep: ReadonlySet<number>,
): Promise<Cuts> {
  if (!evidence?.pieces || evidence.pieces.engine !== (await engineBuild())) return new Map();
  const cuts = reachedMeshes(evidence.pieces);
  const isMet = new Set(evidence.objects.map((o) => o.path));
  for (const node of keep)
    if (!isMet.has(nodes[node]!.path)) for (const p of nodes[node]!.parts ?? []) cuts.delete(meshes[p.mesh]!.blob);
  return cuts;
}

/** Without parts of which no ray reached a piece. */
export function withoutUnreached(document: SceneDocument, cuts: Cuts): SceneDocument {
  const { nodes, meshes } = document;
  const reachedOf = ({ parts, ...node }: SceneNode): SceneNode => {
    const reached = parts?.filter((p) => cuts.get(meshes[p.mesh]!.blob)?.isNone !== true);
    return reached?.length ? { ...node, parts: reached } : node;
  };
  return { ...document, nodes: nodes.map(reachedOf) };
}

export class SplitMeshes {
  private readonly world;
  private engine: Promise<Engine> | undefined;
  constructor(
    private readonly asset: (hash: string) => Promise<Uint8Array>,
    /** As posed. */
    private readonly document: SceneDocument,
    private readonly standIns: ReadonlyMap<string, Pick<StandIn, 'exponent'>>,
    private readonly cuts: Cuts,
  ) {
    this.world = worldMatrices(document.nodes);
  }

  async of({ mesh, node }: SplitMesh): Promise<Geometry> {
    const about = this.document.meshes[mesh]!;
    const still = unpackGeometry(await this.asset(about.blob), about);
    if (node !== null) return this.posed(about, still, node);
    const standIn = this.standIns.get(about.blob);
    if (standIn) return simplified(still, 2 ** standIn.exponent);
    const cut = this.cuts.get(about.blob);
    return cut && !cut.isWhole ? this.reached(about, still, cut) : still;
  }
  private async posed(about: SceneMesh, still: Geometry, node: number): Promise<Geometry> {
    const deform = unpackDeform(await this.asset(about.deform!.blob), about.deform!, about.vertices);
    return deformGeometry(this.document, node, still, deform, this.world);
  }
  private async reached({ name }: SceneMesh, still: Geometry, { isReached }: MeshReached): Promise<Geometry> {
    const engine = await (this.engine ??= openNodeEngine(1));
    const pieces = await engine.divide({ name, ...still });
    return someTriangles(still, (triangle) => isReached(pieces[triangle]!));
  }
  async close(): Promise<void> {
    await (await this.engine)?.close();
  }
}
