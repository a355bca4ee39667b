import { DataSource } from 'typeorm';
import { ENTITIES } from './entities/index.ts';
import { First1764030000000 } from './migrations/0001-first.ts';
import { HistoryRevisions1764200000000 } from './migrations/0003-history-revisions.ts';
import { ProfileDenoiseAovs1764120000000 } from './migrations/0002-profile-denoise-aovs.ts';

import { Library1764300000000 } from './migrations/0005-library.ts';
import { StateHashes1764310000000 } from './migrations/0006-state-hashes.ts';
import { Undelivered1764320000000 } from './migrations/0007-undelivered.ts';
import { HistoryByChange1764330000000 } from './migrations/0008-history-by-change.ts';
import { Crashes1764340000000 } from './migrations/0009-crashes.ts';
import { Slices1764350000000 } from './migrations/0010-slices.ts';
import { QueueOrder1764360000000 } from './migrations/0011-queue-order.ts';
import { Profiles1764370000000 } from './migrations/0012-profiles.ts';
import { Machines1764380000000 } from './migrations/0013-machines.ts';
import { BatchEnds1764390000000 } from './migrations/0014-batch-ends.ts';
import { SeenHashes1764400000000 } from './migrations/0015-seen-hashes.ts';
import { Frames1764410000000 } from './migrations/0016-frames.ts';
import { AcceptedWarnings1764420000000 } from './migrations/0017-accepted-warnings.ts';
import { MetNodes1764430000000 } from './migrations/0018-met-nodes.ts';
import { Reviews1764440000000 } from './migrations/0019-reviews.ts';
import { Deliveries1764450000000 } from './migrations/0020-deliveries.ts';
import { Cleanings1764460000000 } from './migrations/0021-cleanings.ts';
import { References1764470000000 } from './migrations/0022-references.ts';
import { Regions1764500000000 } from './migrations/0023-regions.ts';
import { NotesTabs1764290000000 } from './migrations/0004-notes-tabs.ts';

export const MIGRATIONS = [
  First1764030000000,
  ProfileDenoiseAovs1764120000000,
  HistoryRevisions1764200000000,
  NotesTabs1764290000000,
  Library1764300000000,
  StateHashes1764310000000,
  Undelivered1764320000000,
  HistoryByChange1764330000000,
  Crashes1764340000000,
  Slices1764350000000,
  QueueOrder1764360000000,
  Profiles1764370000000,
  Machines1764380000000,
  BatchEnds1764390000000,
  SeenHashes1764400000000,
  Frames1764410000000,
  AcceptedWarnings1764420000000,
  MetNodes1764430000000,
  Reviews1764440000000,
  Deliveries1764450000000,
  Cleanings1764460000000,
  References1764470000000,
  Regions1764500000000,
];

export async function openDatabase(url: string): Promise<DataSource> {
  const db = new DataSource({
    type: 'postgres',
    url,
    entities: ENTITIES,
    migrations: MIGRATIONS,
    migrationsTransactionMode: 'all',
    extra: { max: 10 },
  });
  await db.initialize();
  await db.runMigrations();
  return db;
}
