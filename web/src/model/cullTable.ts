// The rows of the Cull place: every object with its verdict and what was measured of it; how they are put in order and
// sifted; and what a list of what is left out comes to. Pure.
import {
  type CullAsked,
  type CullEvidence,
  type LeftOutPieces,
  type ObjectEvidence,
  type PieceEvidence,
  type StandIn,
  type Verdict,
  costShare,
  countMet,
  isLeftOut,
  meshBytes,
  objectBytes,
  reachedBytes,
  unreachedBytes,
  verdictWords,
} from '@variscen/core/cull';
import type { SceneDocument, SceneMesh } from '@variscen/core/scene';

export interface CullRow {
  /** Index of the node. */
  readonly node: number;
  readonly path: string;
  readonly name: string;
  /** Name of what it stands in; empty: of nothing. */
  readonly within: string;
  readonly verdict: Verdict;
  readonly words: string;
  readonly triangles: number;
  /** So many of them are loaded where it is simplified; null: it is not. */
  readonly simplerTriangles: number | null;
  /** Some of the pieces of its meshes are left out, so many of so many, bytes; null: none are. */
  readonly inPart: InPart | null;
  readonly bytes: number;
  /** Of them, of pieces that rays reached and that stay; null: all, or it is not known. */
  readonly reachedBytes: number | null;
  /** What was measured of the pieces of its meshes. */
  readonly pieces: readonly PieceEvidence[];
  /** Of the picture's light it may change; null: not measured. */
  readonly cost: number | null;
  readonly decided: 'pinned' | 'left out' | null;
  readonly isMet: boolean | null;
}

interface InPart {
  readonly leftOut: number;
  readonly of: number;
  readonly bytes: number;
}

export interface CullEvidenceIndex {
  readonly evidence: CullEvidence;
  readonly byPath: ReadonlyMap<string, ObjectEvidence>;
  readonly unmet: ReadonlySet<string>;
  readonly entering: ReadonlySet<string>;
}
export const indexed = (evidence: CullEvidence): CullEvidenceIndex => ({
  evidence,
  byPath: new Map(evidence.objects.map((o) => [o.path, o])),
  unmet: new Set(evidence.unmet),
  entering: new Set(evidence.entering),
});

const ENTERING = 'kept: comes into the frame between the frames that were measured';

/** Objects of the scene file, in its order; hidden ones are no objects of this picture. */
export function cullRows(
  document: SceneDocument,
  verdicts: readonly Verdict[],
  known: CullEvidenceIndex | null,
  asked: Pick<CullAsked, 'keep' | 'leaveOut'>,
  standIns: Readonly<Record<string, StandIn>> = {},
  pieces: LeftOutPieces['meshes'] = {},
): CullRow[] {
  const bytes = objectBytes(document);
  const gone = objectBytes(document, (m) => meshBytes(m) * (pieces[m.blob]?.bytesShare ?? 0));
  const reached = objectBytes(document, reachedBytes(known?.evidence.pieces));
  const reachedOf = (path: string, leftOut = 0): number | null => {
    const left = Math.max(0, reached.get(path)! - leftOut);
    return left < bytes.get(path)! ? left : null;
  };
  const measured = new Map(known?.evidence.pieces?.meshes.map((m) => [m.mesh, m]));
  const keep = new Set(asked.keep);
  const byHand = new Set(asked.leaveOut);
  return verdicts.flatMap((verdict): CullRow[] => {
    const node = document.nodes[verdict.node];
    if (!node || verdict.reason === 'hidden') return [];
    const { path } = node;
    const object = known?.byPath.get(path);
    const isUnmet = known?.unmet.has(path) === true;
    const isMeasured = object !== undefined || isUnmet;
    const meshes = (node.parts ?? []).map((p) => document.meshes[p.mesh]!);
    const triangles = meshes.reduce((n, m) => n + m.triangles, 0);
    const simplerTriangles =
      verdict.reason === 'simplified' ? meshes.reduce((n, m) => n + (standIns[m.blob] ?? m).triangles, 0) : null;
    const inPart = verdict.reason === 'in-part' ? inPartOf(meshes, pieces, gone.get(path) ?? 0) : null;
    const unmetCost = isUnmet ? 0 : null;
    return [
      {
        node: verdict.node,
        path,
        name: node.name,
        within: document.nodes[node.parent]?.name ?? '',
        verdict,
        words:
          verdict.keep && known?.entering.has(path)
            ? ENTERING
            : verdictWords(
                verdict,
                object,
                isMeasured ? known!.evidence : null,
                simplerTriangles === null ? undefined : simplerTriangles / triangles,
                inPart ?? undefined,
              ),
        triangles,
        simplerTriangles,
        inPart,
        bytes: bytes.get(path) ?? 0,
        pieces: simplerTriangles === null ? [...new Set(meshes)].flatMap((m) => measured.get(m.blob) ?? []) : [],
        reachedBytes: simplerTriangles === null ? reachedOf(path, inPart?.bytes) : null,
        cost: object ? costShare(object) : unmetCost,
        decided: decidedOf(keep.has(path), byHand.has(path)),
        isMet: isMeasured ? object !== undefined : null,
      },
    ];
  });
}
function inPartOf(meshes: readonly SceneMesh[], pieces: LeftOutPieces['meshes'], bytes: number): InPart {
  const own = meshes.flatMap((m) => pieces[m.blob] ?? []);
  return {
    leftOut: own.reduce((n, m) => n + countMet(m.pieces, m.count), 0),
    of: own.reduce((n, m) => n + m.count, 0),
    bytes,
  };
}
function decidedOf(isPinned: boolean, isByHand: boolean): CullRow['decided'] {
  if (isPinned) return 'pinned';
  return isByHand ? 'left out' : null;
}

export const CULL_COLUMNS = ['name', 'words', 'triangles', 'bytes', 'cost'] as const;
export type CullColumn = (typeof CULL_COLUMNS)[number];
export interface CullOrder {
  readonly by: CullColumn;
  readonly isDown: boolean;
}
const names = new Intl.Collator('en', { numeric: true });
export function inOrder(rows: readonly CullRow[], { by, isDown }: CullOrder): CullRow[] {
  const compare = (a: CullRow, b: CullRow): number => {
    if (by === 'name' || by === 'words') return names.compare(a[by], b[by]);
    return (a[by] ?? -1) - (b[by] ?? -1);
  };
  const sign = isDown ? -1 : 1;
  return [...rows].sort((a, b) => sign * compare(a, b) || a.node - b.node);
}

export const CULL_SIEVES = ['all', 'left out', 'in part', 'simplified', 'kept', 'not met', 'decided'] as const;
export type CullSieve = (typeof CULL_SIEVES)[number];
const PASSES: Readonly<Record<CullSieve, (r: CullRow) => boolean>> = {
  all: () => true,
  'left out': (r) => isLeftOut(r.verdict),
  'in part': (r) => r.inPart !== null,
  simplified: (r) => r.simplerTriangles !== null,
  kept: (r) => r.verdict.keep,
  'not met': (r) => r.isMet === false,
  decided: (r) => r.decided !== null,
};
const NAMES = /“[^”]*”/g;
/** @param find in paths and verdicts, whatever the case; not in the names of what a thing is reflected in */
export function sifted(rows: readonly CullRow[], sieve: CullSieve, find: string): CullRow[] {
  const wanted = find.trim().toLowerCase();
  const isIn = (text: string) => text.toLowerCase().includes(wanted);
  const isFound = (r: CullRow) => isIn(r.path) || isIn(r.words.replace(NAMES, ''));
  return rows.filter((r) => PASSES[sieve](r) && (wanted === '' || isFound(r)));
}

export interface CullSums {
  readonly objects: number;
  readonly leftOut: number;
  readonly triangles: number;
  readonly leftOutTriangles: number;
  readonly simplified: number;
  /** Of those that are simplified, whole and as they are loaded. */
  readonly wholeTriangles: number;
  readonly simplerTriangles: number;
  /** Objects of which pieces are left out, and so many pieces, of the meshes that they show. */
  readonly inPart: number;
  readonly piecesLeftOut: number;
  readonly pieces: number;
  /** What all that is left out gave to the picture, as measured; null where some was not. */
  readonly cost: number | null;
}
export function sumsOf(rows: readonly CullRow[], pieces: LeftOutPieces['meshes'] = {}): CullSums {
  let leftOut = 0;
  let triangles = 0;
  let leftOutTriangles = 0;
  const meshes = Object.values(pieces);
  let cost: number | null = meshes.reduce((n, m) => n + m.costShare, 0);
  const simplified = rows.filter((r) => r.simplerTriangles !== null);
  for (const r of rows) {
    triangles += r.triangles;
    if (!isLeftOut(r.verdict)) continue;
    leftOut++;
    leftOutTriangles += r.triangles;
    cost = cost === null || r.cost === null ? null : cost + r.cost;
  }
  return {
    objects: rows.length,
    leftOut,
    triangles,
    leftOutTriangles,
    simplified: simplified.length,
    wholeTriangles: simplified.reduce((n, r) => n + r.triangles, 0),
    simplerTriangles: simplified.reduce((n, r) => n + r.simplerTriangles!, 0),
    inPart: rows.filter((r) => r.inPart).length,
    piecesLeftOut: meshes.reduce((n, m) => n + countMet(m.pieces, m.count), 0),
    pieces: meshes.reduce((n, m) => n + m.count, 0),
    cost,
  };
}

/** Of meshes that are loaded as they are so many bytes were reached by no ray; null: not measured. */
export function unreachedOf(
  document: SceneDocument,
  rows: readonly CullRow[],
  pieces: CullEvidence['pieces'],
): number | null {
  if (!pieces) return null;
  const simplified = new Set(rows.filter((r) => r.simplerTriangles !== null).flatMap((r) => meshesOf(document, r)));
  const loaded = rows.filter((r) => r.verdict.keep && meshesOf(document, r).every((mesh) => !simplified.has(mesh)));
  return unreachedBytes(
    document,
    loaded.map((r) => r.node),
    pieces,
  );
}
const meshesOf = ({ nodes }: SceneDocument, { node }: CullRow): number[] =>
  (nodes[node]!.parts ?? []).map((p) => p.mesh);

/** People's decisions after some objects were pinned, left out, or given back to the measurement. */
export function decidedAfter(
  { keep, leaveOut }: Pick<CullAsked, 'keep' | 'leaveOut'>,
  paths: readonly string[],
  how: 'pin' | 'leave out' | 'neither',
): Pick<CullAsked, 'keep' | 'leaveOut'> {
  const touched = new Set(paths);
  const rest = (list: readonly string[]) => list.filter((p) => !touched.has(p));
  return {
    keep: how === 'pin' ? [...rest(keep), ...paths] : rest(keep),
    leaveOut: how === 'leave out' ? [...rest(leaveOut), ...paths] : rest(leaveOut),
  };
}

/** Stops of the slider; null: nothing is left out by what was measured. */
export const BARS = [null, 0, 0.0005, 0.001, 0.0025, 0.005, 0.01, 0.02, 0.05] as const;
/** The stop nearest to a bar. */
export function barPlace(barShare: number | null): number {
  if (barShare === null) return 0;
  const at = BARS.findIndex((b) => b !== null && b >= barShare - 1e-9);
  return at < 0 ? BARS.length - 1 : at;
}
