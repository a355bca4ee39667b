// The traces of a plan as they are shown, and what is said of them.
import type { Plan } from '@variscen/contract';
import { croppedPx } from '@variscen/core/scene';
import {
  type Profile,
  type ProfileException,
  filesOfCell,
  frameSize,
  isFirstInLight,
  pathOfFile,
  pathOfPicture,
} from '@variscen/core/plan';
import type { PlannedTrace } from '../work/tasks.ts';
import { cellKey } from '../work/looksTasks.ts';
import { tightRemark, turnsRemark } from './planRemarks.ts';
import type { PlannedCell, PlannedGroup } from './plannedGroups.ts';
import { type Expected, inTurns } from './renderCosts.ts';
import { isEndless } from './slowdowns.ts';

type Row = Plan['traces'][number];
/** What is known of a trace. */
interface About {
  readonly planned: PlannedTrace;
  /** With all that it needs in memory; null: nothing was measured. */
  readonly expected: Expected | null;
  /** So many times as long it takes, loaded in turns; null: it is not known. */
  readonly slower: number | null;
  readonly excepted: readonly ProfileException[];
}

/** @returns pixels: of each trace's picture */
export function plannedTraceRows(groups: readonly PlannedGroup[], about: readonly About[]) {
  const remarks = new Remarks();
  const pixels: number[] = [];
  const traces = groups.map((g, i) => {
    const { planned, slower, excepted } = about[i]!;
    const first = g.cells[0]!;
    const own = first.profile;
    const size = frameSize(own, first.inputs.camera);
    const part = croppedPx(size, first.inputs.camera.crop);
    pixels.push(part.widthPx * part.heightPx);
    const expected = inTurns(about[i]!.expected, slower, own.timeLimitS);
    const refusal = refusalOf(planned, slower);
    remarks.of(g, planned, slower, refusal);
    return {
      hash: g.hash,
      cells: g.cells.map((cell, k) => shownCell(cell, own, isFirstInLight(g.cells, k))),
      profile: excepted.length ? (own as Plan['profile']) : null,
      exceptions: [...new Set(excepted.flatMap((e) => Object.keys(e.settings)))],
      ...size,
      samples: own.samples,
      lightings: g.lightings.length,
      ...memoryOf(planned),
      slower,
      isRefused: refusal !== null,
      expectedS: expected?.expectedS ?? null,
      expectedFrom: expected?.from ?? null,
    } satisfies Row;
  });
  return { traces, pixels, errors: remarks.errors, warnings: remarks.warnings };
}

/** What it takes, and what it leaves out for that. */
const memoryOf = (t: PlannedTrace) => ({
  bytes: t.bytes,
  totalBytes: t.totalBytes,
  bytesWithoutCulling: t.bytesWithoutCulling,
  totalBytesWithoutCulling: t.totalBytesWithoutCulling,
  processBytes: t.processBytes,
  turnsBytes: t.turnsBytes,
  objects: t.objects,
  dropped: [...t.dropped],
  droppedCount: t.droppedCount,
  simplifiedCount: t.simplifiedCount,
  inPartCount: t.inPartCount,
  culls: t.culls,
});
const refusalOf = ({ refusal, tight }: PlannedTrace, slower: number | null): string | null =>
  refusal ?? (tight !== null && isEndless(slower) ? tightRemark(tight, slower) : null);

function shownCell(
  { cameraId, variantId, frame, version, path }: PlannedCell,
  profile: Profile,
  isFirst: boolean,
): Row['cells'][number] {
  const files = shownFiles(profile, isFirst).map((file) => pathOfFile(path, file));
  return { cameraId, variantId, frame, version, path: pathOfPicture(path), files };
}
/** What a person sees among a cell's files. */
const shownFiles = (profile: Profile, first: boolean) =>
  filesOfCell(profile, first).filter((f) => f.kind !== 'thumbnail');

/** What is wrong with traces, and what is warned of. */
class Remarks {
  readonly errors: Plan['errors'] = [];
  readonly warnings = new Set<string>();
  private readonly told = new Set<string>();

  of(g: PlannedGroup, planned: PlannedTrace, slower: number | null, refusal: string | null): void {
    const { cameraName, profile } = g.cells[0]!;
    this.ofLight(g, planned);
    for (const what of planned.missing) this.wrong(`${cameraName}: ${what}`);
    for (const name of planned.limited)
      this.warnings.add(
        `The displacement of “${name}” is coarser than wanted for ${cameraName}: it ends at ${profile.displacement.maxTriangles.toLocaleString('en')} triangles.`,
      );
    for (const { lamp, glass } of planned.trapped)
      this.warnings.add(
        `“${lamp}” lights nothing outside “${glass}”: the light of a lamp of no size does not get through clear glass with a volume. Give the lamp a radius, or let it cast no shadow.`,
      );
    if (slower !== 1 && refusal === null) this.warnings.add(turnsRemark(cameraName, slower));
    if (refusal) this.wrong(`${cameraName}: ${refusal}`);
  }
  private ofLight({ lightings }: PlannedGroup, { unlit, isSeen }: PlannedTrace): void {
    for (const dark of unlit.map((k) => lightings[k]!).filter((cell) => this.isFirst(cell, 'dark')))
      this.wrong(
        `${whereOf(dark)}: nothing gives light, so the picture would be black. Switch a light on, or give it an environment.`,
      );
    const lit = lightings.find((_, k) => !unlit.includes(k));
    if (lit && !isSeen && this.isFirst(lit, 'empty'))
      this.warnings.add(`${whereOf(lit)}: the frame seems empty. Look through the camera on the Stage.`);
  }
  /** What is so in every frame of a sequence is said of the first. */
  private isFirst(cell: PlannedCell, what: string): boolean {
    const key = `${cellKey(cell)} ${what}`;
    return !this.told.has(key) && Boolean(this.told.add(key));
  }
  private wrong(message: string): void {
    this.errors.push({ message, path: null });
  }
}

const whereOf = ({ cameraName, variantName, frame }: PlannedCell): string =>
  `${cameraName} in ${variantName}${frame === null ? '' : `, frame ${frame}`}`;
