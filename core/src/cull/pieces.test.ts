// What is known of the pieces of meshes: put together from several looks, and what it comes to.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type PieceMet,
  type PiecesEvidence,
  joinedPieces,
  meshBytes,
  partsNeeded,
  partsReached,
  pieceEvidence,
  reachedBytes,
  reachedMeshes,
  slowerInTurns,
  unreachedBytes,
} from './index.ts';
import type { SceneMesh } from '../scene/index.ts';

const BUILD = 'a build';
const look = (meshes: PiecesEvidence['meshes'], whole: readonly string[] = [], engine = BUILD): PiecesEvidence => ({
  engine,
  meshes,
  whole,
});
const piece = (bytes: number, isMet: boolean, more: Partial<PieceMet> = {}): PieceMet => ({
  bytes,
  isMet,
  ways: 0,
  cost: 0,
  nits: 0,
  ...more,
});
const hill = (...met: boolean[]) =>
  pieceEvidence(
    'hill',
    met.map((isMet, i) => piece((i + 1) * 100, isMet)),
  );
const reachedIn = (e: PiecesEvidence | undefined, mesh: string): number[] => {
  const { isReached } = reachedMeshes(e!).get(mesh)!;
  return [0, 1, 2].filter(isReached);
};

describe('pieces of several looks', () => {
  it('are reached where one of them reached them', () => {
    const both = joinedPieces([look([hill(true, false, false)]), look([hill(false, false, true)])]);
    expect(reachedIn(both, 'hill')).toEqual([0, 2]);
    expect(reachedMeshes(both!).get('hill')).toMatchObject({
      isWhole: false,
      isNone: false,
      bytes: 400,
      unreachedBytes: 200,
    });
  });
  it('count in any order, and together with those of meshes that one of them does not show', () => {
    const array = fc.array(fc.tuple(fc.boolean(), fc.boolean(), fc.boolean()), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(array, (looks) => {
        const all = looks.map((met, i) => look([hill(...met), pieceEvidence(`only ${i}`, [piece(1, true)])]));
        const joined = joinedPieces(all);
        expect(reachedIn(joined, 'hill')).toEqual([0, 1, 2].filter((piece) => looks.some((met) => met[piece])));
        expect(reachedIn(joinedPieces([...all].reverse()), 'hill')).toEqual(reachedIn(joined, 'hill'));
        expect(joined!.meshes).toHaveLength(looks.length + 1);
      }),
    );
  });
  it('are not known of a mesh that was whole in one of them, or that was divided otherwise', () => {
    const none = hill(false, false, false);
    for (const other of [look([], ['hill']), look([hill(true, true)])])
      for (const all of [
        [look([none]), other],
        [other, look([none])],
      ])
        expect(joinedPieces(all)).toMatchObject({ meshes: [], whole: ['hill'] });
  });
  it('are not known at all where another engine measured, or one that did not look', () => {
    expect(joinedPieces([look([hill(true)]), look([hill(true)], [], 'another')])).toBeUndefined();
    expect(joinedPieces([look([hill(true)]), undefined])).toBeUndefined();
    expect(joinedPieces([undefined, look([hill(true)])])).toBeUndefined();
    expect(joinedPieces([])).toBeUndefined();
  });
});

describe('what was reached', () => {
  const mesh = (blob: string): SceneMesh => ({
    ...{ name: blob, blob, vertices: 0, triangles: 0, normals: false, uv0: false, uv1: false, colors: false },
    ...{ accelerationBytes: 600, min: [0, 0, 0], max: [1, 1, 1] },
  });
  const [slope, box, lamp] = ['hill', 'box', 'lamp'].map(mesh) as [SceneMesh, SceneMesh, SceneMesh];
  const pieces = look([hill(true, false, false), pieceEvidence('box', [piece(400, true), piece(300, true)])], ['lamp']);
  it('of a mesh is what its pieces take that rays reached, or all of it', () => {
    expect([slope, box, lamp].map(reachedBytes(pieces))).toEqual([100, meshBytes(box), meshBytes(lamp)]);
    expect([slope, box, lamp].map(reachedBytes(undefined))).toEqual([600, 600, 600]);
  });
  it('of some objects counts each mesh once', () => {
    const meshes = [slope, box, lamp];
    const node = (...parts: number[]) => ({
      ...{ path: '', name: '', parent: -1, matrix: [] as number[] },
      parts: parts.map((at) => ({ mesh: at, material: 0 })),
    });
    const document = { meshes, nodes: [node(0, 1), node(0), node(2)] };
    expect(unreachedBytes(document, [0, 1, 2], pieces)).toBe(500);
    expect(unreachedBytes(document, [2], pieces)).toBe(0);
  });
});

describe('a picture of which not all is loaded together', () => {
  const texture = { name: 'wood', blob: 'wood', mediaType: 'image/png', width: 1024, height: 1024 };
  const evidence = {
    ...{ widthPx: 384, heightPx: 216, samples: 64, lightPaths: 1, rays: 1, seconds: 1, meanNits: 1 },
    ...{ objects: [], unmet: [], entering: [], textures: [{ image: 'wood', finest: 4 }] },
  };
  it('needs what rays reached of meshes, and textures as fine as its size looks at them', () => {
    const pieces = look([hill(true, false, true)], ['lamp']);
    const reached = partsReached({ textures: [texture] }, { ...evidence, pieces })!;
    expect(reached.meshBytes).toBe(400);
    const texels = (from: number) =>
      [1024, 512, 256, 128, 64, 32, 16, 8, 4, 2, 1].slice(from).reduce((n, x) => n + x * x, 0);
    const at = (widthPx: number) => partsNeeded(reached, { widthPx, heightPx: 1 }) - 400 * 2;
    expect([384, 768, 1920, 100_000].map(at)).toEqual([4, 3, 1, 0].map((level) => texels(level) * 4));
    expect(partsReached({ textures: [texture] }, evidence)).toBeNull();
  });
  it('takes longer the less room there is, and no longer where there is enough', () => {
    expect([0, 50, 99, 100].map((needed) => slowerInTurns(needed, 100))).toEqual([1, 1, 1, 1]);
    expect(slowerInTurns(200, 100)).toBeCloseTo(2);
    expect(slowerInTurns(300, 100)).toBeCloseTo(2.7);
    expect(slowerInTurns(600, 100)).toBeCloseTo(2.7 + 3 * 0.7);
    fc.assert(
      fc.property(fc.nat(1e6), fc.nat(1e6), fc.nat(1e6), (a, b, room) => {
        const [less, more] = [Math.min(a, b), Math.max(a, b)];
        expect(slowerInTurns(less, room)).toBeLessThanOrEqual(slowerInTurns(more, room));
        expect(slowerInTurns(less, room)).toBeGreaterThanOrEqual(1);
      }),
    );
  });
});
