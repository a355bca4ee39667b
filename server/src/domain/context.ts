// What the services share.
import type { DataSource } from 'typeorm';
import type { Events } from '../events.ts';
import type { DiskSpace } from '../files/diskSpace.ts';
import type { OutputFolder } from '../files/outputFolder.ts';
import type { AssetStore } from '../files/store.ts';
import type { TraceQueue } from '../queue/traceQueue.ts';
import type { LooksThread } from '../work/looksThread.ts';

export interface Context {
  readonly db: DataSource;
  readonly assets: AssetStore;
  readonly assetsFolder: string;
  readonly uploads: string;
  /** In which the id of the demo's project stands; there is none where no demo was made. */
  readonly demoFile: string;
  /** What was measured of cells, kept to be asked again. */
  readonly evidenceFolder: string;
  /** Finished pictures as they are looked at: made from their files, and made again where they are gone. */
  readonly picturesFolder: string;
  /** Of slices, until their trace is finished. */
  readonly filmsFolder: string;
  /** Where this machine keeps what engines load. */
  readonly nodeFolder: string;
  readonly output: OutputFolder;
  readonly disk: DiskSpace;
  readonly events: Events;
  readonly queue: TraceQueue;
  readonly looks: LooksThread;
  readonly memoryBudgetBytes: number;
  readonly now: () => Date;
}
