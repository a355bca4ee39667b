// Files of a finished trace: put aside as they arrive, linked to their places when all are there.
import { randomUUID } from 'node:crypto';
import type { Readable } from 'node:stream';
import { AppError, type TraceResult } from '@variscen/contract';
import { type FileKind, filesOfCell, isFirstInLight, linearFiles, pathOfFile } from '@variscen/core/plan';
import type { RenderRow, TraceCell, TraceRow } from '../db/entities/index.ts';
import type { AsideFile, OutputFolder } from '../files/outputFolder.ts';

/** Several times a 4K picture with all layers: about 190 bytes a pixel before it is packed, 1.6 GB. */
const MOST_FILE_BYTES = 8 * 2 ** 30;
const asideFile = (traceId: string, token: string, cell: number, kind: FileKind): AsideFile => ({
  traceId,
  token,
  name: `${cell}.${kind}`,
});

export class AttemptFiles {
  constructor(private readonly output: OutputFolder) {}

  async put(row: TraceRow, token: string, cell: number, kind: FileKind, bytes: Readable): Promise<void> {
    if (!row.cells[cell]) throw new AppError('INVALID', `The trace has no cell ${cell}.`);
    await this.output.putAside(asideFile(row.id, token, cell, kind), bytes, MOST_FILE_BYTES);
  }
  drop(traceId: string): Promise<void> {
    return this.output.dropAside(traceId);
  }

  /**
   * The files of each cell at their places. They are there before the rows say so: after a crash between the two, the
   * same bytes are found and left as they are.
   */
  async publish(row: TraceRow, token: string): Promise<RenderRow['files'][]> {
    const files = row.cells.flatMap((cell, i) =>
      filesOfCell(row.profile, isFirstInLight(row.cells, i)).map((file) => ({
        i,
        kind: file.kind,
        path: pathOfFile(cell.path, file),
      })),
    );
    for (const { i, kind, path } of files)
      if (!(await this.output.has(asideFile(row.id, token, i, kind))))
        throw new AppError('INVALID', `The file ${path} was not delivered.`);
    const byCell: RenderRow['files'][] = row.cells.map(() => []);
    for (const { i, kind, path } of files)
      byCell[i]!.push({ kind, path, ...(await this.output.publish(asideFile(row.id, token, i, kind), path)) });
    // what is the same for all cells in one lighting lies beside the first of them
    const linear = new Set(linearFiles(row.profile).map((f) => f.kind));
    return byCell.map((own, i) => {
      const first = row.cells.findIndex((c) => (c.lighting ?? 0) === (row.cells[i]!.lighting ?? 0));
      const shared = byCell[first]!.filter((f) => linear.has(f.kind));
      return [...shared.filter((f) => !own.some((x) => x.kind === f.kind)), ...own];
    });
  }
}

/** What is kept of a picture of a trace. */
export function renderOf(
  row: TraceRow,
  cell: TraceCell,
  files: RenderRow['files'],
  result: TraceResult,
  createdAt: Date,
): RenderRow {
  const { cameraId, variantId, frame = null, version, hash, inputs } = cell;
  const { projectId, profile, widthPx, heightPx } = row;
  return {
    id: randomUUID(),
    projectId,
    traceId: row.id,
    cameraId,
    variantId,
    frame,
    version,
    hash,
    inputs,
    profile,
    widthPx,
    heightPx,
    files,
    result: ofLighting(withoutMet(result), cell.lighting ?? 0),
    met: result.met ?? null,
    cleaningId: null,
    createdAt,
  };
}
/** It is kept with the pictures, and read only where it is asked for. */
export const withoutMet = ({ met: _, ...result }: TraceResult): TraceResult => result;
/** As a render keeps it: of its own lighting alone. */
const ofLighting = (result: TraceResult, lighting: number): TraceResult => ({
  ...result,
  ...(result.noises && { noises: [result.noises[lighting] ?? null] }),
});
