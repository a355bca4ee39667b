// What a node has to work with.
import type { MeshCache } from '@variscen/engine';
import type { Content } from './content.ts';
import type { ExrFiles } from './encode/exrFile.ts';
import type { FinishedTraces } from './finishedTraces.ts';
import type { SliceTimes } from './slicedFilm.ts';
import type { StoredParts } from '../files/storedParts.ts';

export interface Machine {
  readonly threads: number;
  /** What a job and what is kept from earlier jobs may take together. */
  readonly budgetBytes: number;
  /** Where the content of scenes comes from. */
  readonly content: Content;
  readonly meshCache: MeshCache;
  readonly storedParts: StoredParts;
  readonly exrFiles: ExrFiles;
  readonly finished: FinishedTraces;
  /** Which engine it renders with: films of different ones are never put together. */
  readonly engineBuild: string;
  readonly sliceTimes: SliceTimes;
}
