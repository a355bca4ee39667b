// Which pieces of meshes may go, with objects and without them.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { SceneDocument } from '../scene/index.ts';
import {
  type CullEvidence,
  type LetGoPiece,
  type Meeting,
  NO_PIECES,
  type ObjectEvidence,
  type PieceMet,
  countMet,
  joinedPieces,
  leftOutBy,
  letGo,
  mergeEvidence,
  namedBy,
  packCullPlan,
  pieceEvidence,
  piecesMet,
  piecesToLetGo,
  planFor,
  unpackCullPlan,
  waysOf,
} from './index.ts';

const BUILD = 'a build';
const piece = (cost: number, ways: readonly Meeting[], more: Partial<PieceMet> = {}): PieceMet => ({
  bytes: 1000,
  isMet: true,
  ways: waysOf(ways),
  cost,
  nits: 7,
  ...more,
});
const times = { seen: 0, reflected: 0, refracted: 0, bounced: 0, shadowed: 0, lit: 0 };
const object = (path: string, brought: number, seen = 1): ObjectEvidence => ({
  path,
  times: { ...times, seen, bounced: 1 },
  sight: { seen: 0, reflected: 0, refracted: 0, bounced: 0 },
  brought,
  shadowed: 0,
  lit: 0,
  nits: 3,
  detailM: 1,
});
const HILL = [
  piece(0.2, ['seen', 'bounced']),
  piece(0.001, ['bounced']),
  piece(0.002, ['shadowed'], { nits: 40 }),
  piece(0, []),
  piece(0.0001, ['reflected']),
  piece(0.0001, ['refracted']),
  piece(0, [], { isMet: false }),
];
const evidence = (pieces: readonly PieceMet[] = HILL, more: Partial<CullEvidence> = {}): CullEvidence => ({
  ...{ widthPx: 384, heightPx: 216, samples: 64, lightPaths: 1e6, rays: 1e7, seconds: 1, meanNits: 5 },
  ...{ unmet: [], entering: [], textures: [] },
  objects: [object('Hill', 0.203), object('Tree', 0.1), object('Far tree', 0.0015)],
  pieces: { engine: BUILD, meshes: [pieceEvidence('hill', pieces)], whole: [] },
  ...more,
});
const mesh = (blob: string) => ({
  ...{ name: blob, blob, vertices: 0, triangles: 9, normals: false, uv0: false, uv1: false, colors: false },
  ...{ accelerationBytes: 9000, min: [0, 0, 0], max: [1, 1, 1] },
});
const node = (path: string, at: number) => ({
  ...{ path, name: path, parent: -1, matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1] },
  parts: [{ mesh: at, material: 0 }],
});
const document = {
  nodes: [node('Hill', 0), node('Tree', 1), node('Far tree', 1)],
  meshes: [mesh('hill'), mesh('tree')],
} as unknown as SceneDocument;
const asked = { barShare: 0.005, keep: [], leaveOut: [], simplifies: false };
const gone = (e: CullEvidence, pinned: readonly string[] = [], simplifies = false) =>
  piecesToLetGo(e, document, new Set(pinned), simplifies).map((p) => p.piece);

describe('pieces that may go', () => {
  it('are those that rays came to and that show no hole where they are gone', () => {
    expect(gone(evidence())).toEqual([1, 2, 3]);
  });
  it('are none of what is pinned, of glass, of a sequence of which some frames alone were measured, or unknown', () => {
    expect(gone(evidence(), ['Hill'])).toEqual([]);
    expect(gone(evidence(), ['Tree'])).toEqual([1, 2, 3]);
    const pieces = { engine: BUILD, meshes: [pieceEvidence('hill', HILL, true)], whole: [] };
    expect(gone({ ...evidence(), pieces })).toEqual([]);
    expect(gone(evidence(HILL, { isOfSomeFrames: true }))).toEqual([]);
    expect(gone({ ...evidence(), pieces: undefined })).toEqual([]);
  });
  it('are none of what may be simplified as a whole', () => {
    expect(gone(evidence(), [], true)).toEqual([1, 2, 3]);
    expect(gone(evidence(HILL, { objects: [object('Hill', 0.2, 0)] }), [], true)).toEqual([]);
  });
  it('stay where a copy of what shows them is pinned', () => {
    const objects = [object('Hill', 0.2), object('Hill#2', 0.1)];
    expect(gone(evidence(HILL, { objects }))).toEqual([1, 2, 3]);
    for (const pinned of ['Hill', 'Hill#2']) expect(gone(evidence(HILL, { objects }), [pinned])).toEqual([]);
  });
});

describe('letting go of objects and pieces', () => {
  const things = fc.record({
    objects: fc.array(fc.record({ costShare: fc.double({ min: 0, max: 0.2, noNaN: true }), bytes: fc.nat(100) }), {
      maxLength: 12,
    }),
    pieces: fc.array(
      fc.record({
        costShare: fc.double({ min: 0, max: 0.05, noNaN: true }),
        bytes: fc.nat(100),
        of: fc.nat(15),
      }),
      { maxLength: 40 },
    ),
  });
  it('costs no more than the bar, and a higher bar lets go of all that a lower one does', () => {
    const bar = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(things, bar, bar, (all, a, b) => {
        const objects = all.objects.map((o, i) => ({ ...o, path: `o${i}` }));
        const pieces = all.pieces.map((p, number): LetGoPiece => ({
          ...p,
          mesh: `m${p.of}`,
          piece: number,
          owner: p.of < 12 ? `o${p.of}` : null,
        }));
        const [low, high] = [Math.min(a, b), Math.max(a, b)];
        const less = letGo(objects, low, pieces);
        const more = letGo(objects, high, pieces);
        const out = new Set(more.objects);
        for (const path of less.objects) expect(out).toContain(path);
        for (const p of less.pieces) expect(out.has(p.owner ?? '') || more.pieces.includes(p)).toBe(true);
        const isLessOut = new Set(less.objects);
        expect(less.pieces.some((p) => isLessOut.has(p.owner ?? ''))).toBe(false);
        // an object's cost has that of its pieces in it
        const costs = [...less.objects.map((path) => objects.find((o) => o.path === path)!), ...less.pieces];
        expect(costs.reduce((n, c) => n + c.costShare, 0)).toBeLessThanOrEqual(low + 1e-9);
        expect(letGo([...objects].reverse(), low, [...pieces].reverse())).toEqual(less);
        // no object more than without pieces is worth less: what may go for nothing always goes
        for (const o of objects) if (o.costShare === 0) expect(isLessOut).toContain(o.path);
      }),
    );
  });
});

describe('a plan with pieces', () => {
  it('names those that give least beside the objects, and how bright they may be', () => {
    const plan = planFor(asked, evidence(), document, []);
    expect(plan.byEvidence).toEqual(['Far tree']);
    const { hill } = plan.pieces.meshes;
    expect(plan.pieces.engine).toBe(BUILD);
    expect(countMet(hill!.pieces, hill!.count)).toBe(3);
    expect(hill).toMatchObject({ count: 7, bytesShare: 3 / 7, nits: 40 });
    expect(hill!.costShare).toBeCloseTo(0.003, 10);
    expect(planFor({ ...asked, barShare: 0 }, evidence(), document, []).pieces.meshes['hill']).toMatchObject({
      bytesShare: 1 / 7,
      nits: 7,
      costShare: 0,
    });
    expect(planFor({ ...asked, barShare: null }, evidence(), document, []).pieces).toEqual(NO_PIECES);
    expect(planFor({ ...asked, keep: ['Hill'] }, evidence(), document, []).pieces).toEqual(NO_PIECES);
  });
  it('is another picture than without them, and the same read back', () => {
    const plan = planFor(asked, evidence(), document, []);
    const without = { ...plan, pieces: NO_PIECES };
    expect(leftOutBy(plan)).toHaveLength(leftOutBy(without).length + 1);
    expect(unpackCullPlan(packCullPlan(plan))).toEqual(plan);
    // of what has no pieces the list is as it always was
    expect(leftOutBy(without)).toEqual(['Far tree']);
  });
  it('leaves them out where the same engine divides the meshes, and nowhere else', () => {
    const plan = planFor(asked, evidence(), document, []);
    expect([...namedBy(plan, BUILD).pieces.keys()]).toEqual(['hill']);
    expect(namedBy(plan, 'another').pieces.size).toBe(0);
    expect(namedBy(plan, undefined).pieces.size).toBe(0);
    expect(namedBy({ ...plan, pieces: NO_PIECES }, undefined).pieces.size).toBe(0);
  });
  it('made from several looks holds to the most that any of them says of a piece', () => {
    const dusk = evidence([
      piece(0, [], { isMet: false }),
      piece(0.004, ['bounced'], { nits: 90 }),
      piece(0, [], { isMet: false }),
      piece(0.001, ['seen']),
      ...HILL.slice(4),
    ]);
    const both = mergeEvidence([evidence(), dusk]);
    const all = piecesMet(both.pieces!.meshes[0]!);
    expect(all[1]).toMatchObject({ cost: 0.004, nits: 90, ways: waysOf(['bounced']) });
    expect(gone(both)).toEqual([1, 2]);
    const glass = { engine: BUILD, meshes: [pieceEvidence('hill', HILL, true)], whole: [] };
    expect(joinedPieces([evidence().pieces, glass])!.meshes[0]!.isGlass).toBe(true);
    expect(joinedPieces([glass, evidence().pieces])!.meshes[0]!.isGlass).toBe(true);
    expect(mergeEvidence([evidence(), evidence(HILL, { isOfSomeFrames: true })]).isOfSomeFrames).toBe(true);
  });
});
