import {
  type CullEvidence,
  type ObjectEvidence,
  type Verdict,
  packMet,
  pieceEvidence,
  pieceWords,
  waysOf,
} from '@variscen/core/cull';
import type { SceneDocument } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { BARS, barPlace, cullRows, decidedAfter, inOrder, indexed, sifted, sumsOf, unreachedOf } from './cullTable.ts';

const mesh = (triangles: number) => ({ blob: `mesh ${triangles}`, triangles, vertices: 0, accelerationBytes: 1000 });
const document = {
  meshes: [mesh(12), mesh(500)],
  nodes: [
    { path: 'Fair', name: 'Fair', parent: -1 },
    { path: 'Fair/Bowl', name: 'Bowl', parent: 0, parts: [{ mesh: 0, material: 0 }] },
    {
      path: 'Fair/Roof',
      name: 'Roof',
      parent: 0,
      parts: [
        { mesh: 1, material: 0 },
        { mesh: 0, material: 0 },
      ],
    },
    { path: 'Fair/Cellar', name: 'Cellar', parent: 0, parts: [{ mesh: 0, material: 0 }] },
    { path: 'Fair/Ghost', name: 'Ghost', parent: 0, parts: [{ mesh: 0, material: 0 }] },
  ],
} as unknown as SceneDocument;
const verdicts: Verdict[] = [
  { node: 1, keep: true, reason: 'pinned' },
  { node: 2, keep: false, reason: 'evidence' },
  { node: 3, keep: false, reason: 'by-hand' },
  { node: 4, keep: false, reason: 'hidden' },
];
const times = { seen: 0, reflected: 0, refracted: 0, bounced: 0, shadowed: 0, lit: 0 };
const object = (path: string, more: Partial<ObjectEvidence>): ObjectEvidence => ({
  path,
  times: { ...times, bounced: 3 },
  sight: { seen: 0, reflected: 0, refracted: 0, bounced: 0 },
  brought: 0,
  shadowed: 0,
  lit: 0,
  nits: 1,
  detailM: null,
  ...more,
});
const evidence = {
  rays: 2_000_000,
  meanNits: 1,
  objects: [object('Fair/Bowl', { brought: 0.3 }), object('Fair/Roof', { shadowed: 0.002 })],
  unmet: ['Fair/Cellar'],
  entering: [],
} as unknown as CullEvidence;
const asked = { keep: ['Fair/Bowl'], leaveOut: ['Fair/Cellar'] };
const rows = cullRows(document, verdicts, indexed(evidence), asked);

describe('the table of verdicts', () => {
  it('has a row for each object that is shown, with what was measured of it', () => {
    expect(rows.map((r) => [r.name, r.within, r.triangles, r.cost, r.decided, r.isMet])).toEqual([
      ['Bowl', 'Fair', 12, 0.3, 'pinned', true],
      ['Roof', 'Fair', 512, 0.002, null, true],
      ['Cellar', 'Fair', 12, 0, 'left out', false],
    ]);
    expect(rows[2]!.words).toBe('left out by hand; no ray of 2.0 million came near');
    // a mesh that four objects show counts a quarter for each
    expect(rows[0]!.bytes).toBeCloseTo((1000 + 12 * 12) / 4, 6);
  });

  it('says of what was not measured that it is not known, and never that it costs nothing', () => {
    const unknown = cullRows(document, verdicts, null, asked);
    expect(unknown.map((r) => [r.cost, r.isMet])).toEqual([
      [null, null],
      [null, null],
      [null, null],
    ]);
    expect(sumsOf(unknown).cost).toBeNull();
    // shown since the measurement
    const later = cullRows(document, verdicts, indexed({ ...evidence, unmet: [] }), asked);
    expect(later[2]!.cost).toBeNull();
  });

  it('is put in order by every column, and sifted by verdict and words', () => {
    expect(inOrder(rows, { by: 'cost', isDown: true }).map((r) => r.name)).toEqual(['Bowl', 'Roof', 'Cellar']);
    expect(inOrder(rows, { by: 'triangles', isDown: false }).map((r) => r.name)).toEqual(['Bowl', 'Cellar', 'Roof']);
    expect(inOrder(rows, { by: 'name', isDown: false }).map((r) => r.name)).toEqual(['Bowl', 'Cellar', 'Roof']);
    expect(sifted(rows, 'left out', '').map((r) => r.name)).toEqual(['Roof', 'Cellar']);
    expect(sifted(rows, 'not met', '').map((r) => r.name)).toEqual(['Cellar']);
    expect(sifted(rows, 'decided', '').map((r) => r.name)).toEqual(['Bowl', 'Cellar']);
    expect(sifted(rows, 'all', ' SHADOW ').map((r) => r.name)).toEqual(['Roof']);
    // who looks for a mirror does not look for all that it shows
    const inMirror = rows.map((r) => ({ ...r, words: 'kept: in reflections on “Brass tray”, 2 % of what is seen' }));
    expect(sifted(inMirror, 'all', 'brass')).toEqual([]);
    expect(sifted(inMirror, 'all', 'reflections')).toHaveLength(3);
  });

  it('sums what is left out', () => {
    const none = { simplified: 0, wholeTriangles: 0, simplerTriangles: 0, inPart: 0, piecesLeftOut: 0, pieces: 0 };
    const sums = { objects: 3, leftOut: 2, triangles: 536, leftOutTriangles: 524, cost: 0.002, ...none };
    expect(sumsOf(rows)).toEqual(sums);
  });

  it('says of what comes into the frame unmeasured why it is kept, unless a person has left it out', () => {
    const [bowl, roof, cellar] = verdicts;
    const between = indexed({ ...evidence, entering: ['Fair/Roof', 'Fair/Cellar'] });
    const all = cullRows(document, [bowl!, { ...roof!, keep: true, reason: 'in-frame' }, cellar!], between, asked);
    expect(all[1]!.words).toBe('kept: comes into the frame between the frames that were measured');
    expect(all[2]!.words).toContain('left out by hand');
  });

  it('says of what is simplified how much of it is loaded', () => {
    const [bowl, roof, ...others] = verdicts;
    const simpler = [bowl!, { ...roof!, keep: true, reason: 'simplified' } as const, ...others];
    const standIn = { exponent: -4, vertices: 60, triangles: 64, accelerationBytes: 1 };
    const { blob } = document.meshes[1]!;
    const [kept, simplified] = cullRows(document, simpler, indexed(evidence), asked, { [blob]: standIn });
    expect(kept!.simplerTriangles).toBeNull();
    expect(simplified).toMatchObject({ triangles: 512, simplerTriangles: 76 });
    expect(simplified!.words).toBe('simplified to 15 %: its shadow, 0.2 % of the light');
    expect(sifted([kept!, simplified!], 'simplified', '')).toEqual([simplified]);
    const sums = { simplified: 1, wholeTriangles: 512, simplerTriangles: 76, leftOut: 0 };
    expect(sumsOf([kept!, simplified!])).toMatchObject(sums);
  });

  const piece = (bytes: number, isMet: boolean) => ({ bytes, isMet, ways: 0, cost: 0, nits: 0 });
  it('says how much of a mesh rays reached, and of all that is loaded how much they did not', () => {
    const pieces = {
      engine: 'a build',
      meshes: [
        pieceEvidence('mesh 12', [piece(400, true), piece(600, false)]),
        pieceEvidence('mesh 500', [piece(500, true), piece(500, true)]),
      ],
      whole: [],
    };
    const kept = verdicts.map((v): Verdict => (v.reason === 'evidence' ? { ...v, keep: true, reason: 'in-frame' } : v));
    const known = indexed({ ...evidence, pieces });
    const all = cullRows(document, kept, known, asked);
    // the bowl's mesh is shared by four
    expect(all.map((r) => r.reachedBytes)).toEqual([100, 7000 + 100, 100]);
    expect(unreachedOf(document, all, pieces)).toBe(600);
    expect(unreachedOf(document, all, undefined)).toBeNull();
    expect(rows.map((r) => r.reachedBytes)).toEqual([null, null, null]);

    // of what is simplified other pieces are loaded
    const simpler = kept.map((v): Verdict => (v.node === 1 ? { ...v, reason: 'simplified' } : v));
    const some = cullRows(document, simpler, known, asked);
    expect(some[0]!.reachedBytes).toBeNull();
    expect(unreachedOf(document, some, pieces)).toBe(0);
  });

  it('says of what is left out in part how many pieces go, and what all of them cost', () => {
    const pieces = {
      engine: 'a build',
      meshes: [
        pieceEvidence('mesh 500', [
          { ...piece(300, true), ways: waysOf(['seen', 'bounced']) },
          { ...piece(300, true), ways: waysOf(['shadowed']), cost: 0.001 },
          piece(100, true),
          piece(300, false),
        ]),
      ],
      whole: [],
    };
    const gone = { count: 4, pieces: packMet([1, 2], 4), bytesShare: 0.4, costShare: 0.001, nits: 5 };
    const inPart = verdicts.map((v): Verdict =>
      v.reason === 'evidence' ? { ...v, keep: true, reason: 'in-part' } : v,
    );
    const all = cullRows(document, inPart, indexed({ ...evidence, pieces }), asked, {}, { 'mesh 500': gone });
    const roof = all.find((r) => r.name === 'Roof')!;
    expect(roof.words).toBe('kept but for 2 of 4 pieces: its shadow, 0.2 % of the light');
    expect(roof.inPart).toMatchObject({ leftOut: 2, of: 4 });
    expect(pieceWords(roof.pieces)).toBe('Rays came to 3 of 4 pieces: 1 seen, 1 for their shadow, 1 only near.');
    expect(sifted(all, 'in part', '')).toEqual([roof]);
    const cost = all.find((r) => r.name === 'Cellar')!.cost! + 0.001;
    expect(sumsOf(all, { 'mesh 500': gone })).toMatchObject({
      inPart: 1,
      piecesLeftOut: 2,
      pieces: 4,
      leftOut: 1,
      cost,
    });
  });
});

describe('decisions', () => {
  it('of people move objects from one list to the other, and back to the measurement', () => {
    expect(decidedAfter(asked, ['Fair/Cellar', 'Fair/Roof'], 'pin')).toEqual({
      keep: ['Fair/Bowl', 'Fair/Cellar', 'Fair/Roof'],
      leaveOut: [],
    });
    expect(decidedAfter(asked, ['Fair/Bowl'], 'leave out')).toEqual({
      keep: [],
      leaveOut: ['Fair/Cellar', 'Fair/Bowl'],
    });
    expect(decidedAfter(asked, ['Fair/Bowl', 'Fair/Cellar'], 'neither')).toEqual({ keep: [], leaveOut: [] });
  });

  it('of a bar stand on the slider where they belong, also those that a program has set', () => {
    for (const [i, bar] of BARS.entries()) expect(barPlace(bar)).toBe(i);
    expect(barPlace(0.003)).toBe(BARS.indexOf(0.005));
    expect(barPlace(0.2)).toBe(BARS.length - 1);
  });
});
