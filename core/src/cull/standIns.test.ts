// Which meshes may be simplified, how far, and what a camera says of it.
import { describe, expect, it } from 'vitest';
import { IDENTITY, type SceneDocument, worldMatrices } from '../scene/index.ts';
import {
  type CullEvidence,
  FrameCull,
  type ObjectEvidence,
  type StandIn,
  detailOf,
  NO_PIECES,
  mayStandIn,
  mergeEvidence,
  namedBy,
  planFor,
  standInsFor,
  standInsText,
  unpackCullPlan,
  verdictWords,
} from './index.ts';

const SCALED = [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1];
const mesh = (blob: string, triangles = 1000, more = {}) => ({
  name: blob,
  blob,
  min: [-1, -1, -1],
  max: [1, 1, 1],
  vertices: 500,
  triangles,
  accelerationBytes: 100,
  ...more,
});
const node = (path: string, at: number, matrix = IDENTITY) => ({
  path,
  name: path,
  parent: -1,
  matrix,
  parts: [{ mesh: at, material: 0 }],
});
const d = {
  meshes: [
    mesh('house'),
    mesh('roof'),
    mesh('pot', 200),
    mesh('flag', 1000, { deform: { blob: 'x', skinned: false, targets: [] } }),
  ],
  materials: [{ name: 'm' }],
  nodes: [
    node('near house', 0),
    node('far house', 0),
    node('roof', 1, SCALED as unknown as typeof IDENTITY),
    node('pot', 2),
    node('flag', 3),
  ],
} as unknown as SceneDocument;

const none = { seen: 0, reflected: 0, refracted: 0, bounced: 0, shadowed: 0, lit: 0 };
const scattered = (path: string, detailM: number | null, times: Partial<typeof none> = {}): ObjectEvidence => ({
  path,
  times: { ...none, bounced: 3, ...times },
  sight: { seen: 0, reflected: 0, refracted: 0, bounced: 0.01 },
  brought: 0.0002,
  shadowed: 0,
  lit: 0,
  nits: 1,
  detailM,
});
const evidence = (objects: readonly ObjectEvidence[], unmet: readonly string[] = []): CullEvidence => ({
  widthPx: 2,
  heightPx: 2,
  samples: 1,
  lightPaths: 4,
  rays: 9,
  seconds: 1,
  meanNits: 1,
  objects,
  unmet,
  entering: [],
  textures: [],
});
const nothing = { leftOut: new Set<string>(), keep: new Set<string>() };
const may = (objects: readonly ObjectEvidence[], unmet: readonly string[] = [], without = nothing) =>
  Object.fromEntries(mayStandIn(evidence(objects, unmet), d, without));

describe('the detail that rays tell apart', () => {
  it('is that which all but a few of them are wider than', () => {
    expect(detailOf([0, 0, 0], 1)).toBeNull();
    expect(detailOf([1, 0, 98, 1], 0.5)).toBe(2);
    expect(detailOf([3, 0, 96, 1], 0.5)).toBe(0.5);
  });
  it('in several looks is the finest', () => {
    const two = mergeEvidence([evidence([scattered('pot', 0.5)]), evidence([scattered('pot', 0.25)])]);
    expect(two.objects[0]!.detailM).toBe(0.25);
    const one = mergeEvidence([evidence([scattered('pot', null)]), evidence([scattered('pot', 0.25)])]);
    expect(one.objects[0]!.detailM).toBe(0.25);
  });
});

describe('meshes that may be simplified', () => {
  it('are off by a quarter of the detail, in their own metres, and the finest of all that show them', () => {
    expect(may([scattered('roof', 1)])).toEqual({ roof: -3 });
    expect(may([scattered('near house', 1), scattered('far house', 4)])).toEqual({ house: -2 });
    expect(may([scattered('near house', 0.9)])).toEqual({ house: -3 });
    // no ray comes near the other
    expect(may([scattered('near house', 1)], ['far house'])).toEqual({ house: -2 });
  });
  it.each(['seen', 'lit'] as const)('are not %s anywhere', (how) => {
    expect(may([scattered('near house', 1), scattered('far house', 1, { [how]: 1 })])).toEqual({});
  });
  it('are large enough, and not posed', () => {
    expect(may([scattered('pot', 1), scattered('flag', 1), scattered('roof', null)])).toEqual({});
  });
  it('are not pinned, nor shown by a copy whose size is not known here', () => {
    const all = [scattered('near house', 1), scattered('far house', 1)];
    expect(may(all, [], { ...nothing, keep: new Set(['far house']) })).toEqual({});
    expect(may([...all, scattered('far house#2', 1)])).toEqual({});
    expect(may(all, [], { ...nothing, leftOut: new Set(['near house', 'far house']) })).toEqual({});
  });
  it('are asked for with what is left out by the same plan', () => {
    const known = evidence([scattered('near house', 1), scattered('roof', 1)]);
    const asked = { barShare: null, keep: [], leaveOut: ['near house'], simplifies: true };
    expect([...standInsFor(asked, known, d).keys()]).toEqual(['roof']);
    expect(standInsFor({ ...asked, simplifies: false }, known, d).size).toBe(0);
    expect(standInsFor({ ...asked, barShare: 0.01 }, known, d).size).toBe(0);
  });
});

describe('a plan with them', () => {
  const standIn: StandIn = { exponent: -3, vertices: 30, triangles: 50, accelerationBytes: 10 };
  const asked = { barShare: null, keep: ['far house'], leaveOut: [], simplifies: true };
  const plan = planFor(asked, evidence([scattered('near house', 1)]), d, [], { house: standIn, roof: standIn });
  const verdictsFor = (grownM: number) => {
    const cull = new FrameCull({
      document: d,
      world: worldMatrices(d.nodes),
      shown: () => true,
      emits: () => false,
      grownM: () => grownM,
    });
    const camera = {
      matrix: IDENTITY,
      projection: 'perspective',
      widthPx: 16,
      heightPx: 9,
      sensorWidthMm: 36,
      focalLengthMm: 35,
      orthoHalfHeightM: 1,
      nearM: 1,
      farM: 50,
      focusDistanceM: 3,
      fStop: null,
      cullMarginPct: null,
      cull: { standIns: 'a'.repeat(64) },
    } as const;
    return Object.fromEntries(
      cull.verdicts(camera, namedBy(plan, undefined)).map((v) => [d.nodes[v.node]!.path, `${v.reason} ${v.keep}`]),
    );
  };
  it('simplifies what is neither pinned nor displaced, and leaves nothing out', () => {
    const verdicts = { 'near house': 'simplified true', 'far house': 'pinned true', roof: 'simplified true' };
    expect(verdictsFor(0)).toMatchObject({ ...verdicts, pot: 'in-frame true' });
    expect(verdictsFor(0.1)).toMatchObject({ 'near house': 'in-frame true', roof: 'in-frame true' });
  });
  it('says how much of it is left, and what it is needed for', () => {
    const words = verdictWords({ keep: true, reason: 'simplified' }, scattered('roof', 1), { rays: 9 }, 0.05);
    expect(words).toBe('simplified to 5 %: bounced light only, 0.02 %');
  });
  it('is told apart by meshes and how far they may be off, and by nothing else', () => {
    const other = { ...standIn, exponent: -4 };
    expect(standInsText({ a: standIn, b: standIn })).toBe(standInsText({ b: standIn, a: standIn }));
    expect(standInsText({ a: standIn })).not.toBe(standInsText({ a: other }));
  });
  it('kept before there were any simplifies nothing, and leaves out no pieces', () => {
    const { simplifies: _, standIns: __, pieces: ___, ...old } = plan;
    const read = unpackCullPlan(new TextEncoder().encode(JSON.stringify(old)));
    expect(read).toEqual({ ...plan, simplifies: false, standIns: {}, pieces: NO_PIECES });
  });
});
