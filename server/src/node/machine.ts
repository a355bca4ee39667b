// What a node has to work with.
import type { MeshCache } from '@variscen/engine';
import type { ExrFiles } from './encode/exrFile.ts';
import type { FinishedTraces } from './finishedTraces.ts';

export interface Machine {
  readonly threads: number;
  /** What a job and what is kept from earlier jobs may take together. */
  readonly budgetBytes: number;
  readonly meshCache: MeshCache;
  readonly exrFiles: ExrFiles;
  readonly finished: FinishedTraces;
}
