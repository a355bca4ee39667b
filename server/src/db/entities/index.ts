// Tables as TypeORM sees them. Their SQL is written by migrations; a test holds the two together.
import { EnvironmentMaps, Projects, References, Revisions } from './projects.ts';
import { Cameras, LibraryEntries, Options, Patches, Pendings, Variants } from './looks.ts';
import { Batches, Outputs, Slices, Traces } from './batches.ts';
import { Cleanings, Deliveries, Regions, Renders, Reviews } from './renders.ts';
import { MachineRows, Settings } from './machines.ts';

export * from './projects.ts';
export * from './looks.ts';
export * from './batches.ts';
export * from './renders.ts';
export * from './machines.ts';

export const ENTITIES = [
  References,
  Cleanings,
  Deliveries,
  Reviews,
  Regions,
  MachineRows,
  Settings,
  LibraryEntries,
  EnvironmentMaps,
  Projects,
  Revisions,
  Cameras,
  Options,
  Variants,
  Patches,
  Pendings,
  Batches,
  Traces,
  Slices,
  Outputs,
  Renders,
];
