// What a plan comes to, all traces together. Pure.
import type { Plan, PlanTraceSource } from '@variscen/contract';

type PlannedTrace = Plan['traces'][number];

export const MEMORY_KINDS = ['vertices', 'acceleration', 'textures', 'lights', 'film', 'scratch'] as const;
export const MEMORY_WORDS: Readonly<Record<(typeof MEMORY_KINDS)[number], string>> = {
  vertices: 'Vertices',
  acceleration: 'Acceleration',
  textures: 'Textures',
  lights: 'Lights',
  film: 'Film',
  scratch: 'Scratch',
};

/** Of the engine and of the process around it, as far as that was measured. */
export const wholeBytes = (t: PlannedTrace): number => t.totalBytes + (t.processBytes ?? 0);

/** From what a time is expected, in words. */
export const SOURCE_WORDS: Readonly<Record<PlanTraceSource, string>> = {
  cell: 'As this cell took before',
  camera: 'As this camera took before',
  measured: 'By what was measured of this view: a rough figure',
  project: 'As other cameras of the project took: a rough figure',
  other: 'As other projects took: a rough figure',
};
export const isRough = ({ expectedFrom }: PlannedTrace): boolean =>
  expectedFrom === 'measured' || isUnsure({ expectedFrom });
/** Measuring the view would tell more than what is known. */
const isUnsure = ({ expectedFrom }: Pick<PlannedTrace, 'expectedFrom'>): boolean =>
  expectedFrom === null || expectedFrom === 'project' || expectedFrom === 'other';

export interface PlanFigures {
  /** null: nothing was measured yet. */
  readonly expectedS: number | null;
  /** Whether some of it goes by what other cameras took. */
  readonly isRough: boolean;
  /** Of the trace that takes most: traces are rendered one after another. */
  readonly mostBytes: number;
  readonly mostBytesWithoutCulling: number;
  /** Whether what the process takes is part of it. */
  readonly isWhole: boolean;
  readonly droppedObjects: number;
  readonly simplifiedObjects: number;
  readonly inPartObjects: number;
  readonly culls: boolean;
  /** Different frames, each once. */
  readonly frames: readonly string[];
}

/** Cells of whose render time little or nothing is known, each once. */
export function unsureCells({ traces }: Plan): { cameraId: string; variantId: string }[] {
  const cells = traces.filter(isUnsure).map(({ cells: [cell] }) => cell!);
  const refs = cells.map(({ cameraId, variantId }) => [`${cameraId} ${variantId}`, { cameraId, variantId }] as const);
  return [...new Map(refs).values()];
}

/** Cameras of which what some picture needs does not fit in the budget, with the variants that it is in. */
export function tooLarge({ traces }: Plan): { readonly cameraId: string; readonly variantIds: readonly string[] }[] {
  const over = new Map<string, Set<string>>();
  for (const t of traces) {
    if (t.slower === 1 && !t.isRefused) continue;
    for (const { cameraId, variantId } of t.cells) over.set(cameraId, (over.get(cameraId) ?? new Set()).add(variantId));
  }
  return [...over].map(([cameraId, variantIds]) => ({ cameraId, variantIds: [...variantIds] }));
}

/** Of traces that serve several lightings: how many those are, and what tracing each would take besides. */
export function sharedLight({ traces }: Plan): {
  readonly pictures: number;
  readonly traces: number;
  /** null: nothing was measured yet. */
  readonly savedS: number | null;
} {
  const shared = traces.filter((t) => t.lightings > 1);
  const saved = shared.map((t) => (t.expectedS === null ? null : t.expectedS * (t.lightings - 1)));
  return {
    pictures: shared.reduce((n, t) => n + t.lightings, 0),
    traces: shared.length,
    savedS: saved.includes(null) ? null : saved.reduce<number>((n, s) => n + s!, 0),
  };
}

export function figuresOf({ traces }: Plan): PlanFigures {
  const expected = traces.map((t) => t.expectedS);
  const isKnown = (s: number | null): s is number => s !== null;
  return {
    expectedS: expected.every(isKnown) ? expected.reduce((n, s) => n + s, 0) : null,
    isRough: traces.some(isRough),
    mostBytes: Math.max(0, ...traces.map(wholeBytes)),
    mostBytesWithoutCulling: Math.max(0, ...traces.map((t) => t.totalBytesWithoutCulling + (t.processBytes ?? 0))),
    isWhole: traces.every((t) => t.processBytes !== null),
    droppedObjects: traces.reduce((n, t) => n + t.droppedCount, 0),
    simplifiedObjects: traces.reduce((n, t) => n + t.simplifiedCount, 0),
    inPartObjects: traces.reduce((n, t) => n + t.inPartCount, 0),
    culls: traces.some((t) => t.culls),
    frames: [...new Set(traces.map((t) => `${t.widthPx} × ${t.heightPx}`))],
  };
}
