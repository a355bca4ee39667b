// Whether traces are handed out now: people may hold the queue, and it waits by itself while the disk is nearly full.
import type { DataSource } from 'typeorm';
import { Settings } from '../db/entities/index.ts';
import type { DiskSpace } from '../files/diskSpace.ts';

/** The setting that says whether people hold the queue. */
const HELD = 'queue.held';

export class QueuePause {
  private held = false;
  private shortage: string | null = null;

  constructor(
    private readonly db: DataSource,
    private readonly disk: DiskSpace,
    private readonly onChange: () => void,
  ) {}

  async open(): Promise<void> {
    this.held = (await this.db.getRepository(Settings).findOneBy({ key: HELD }))?.value === true;
  }
  get isHeld(): boolean {
    return this.held;
  }
  /** Why nothing is handed out now, in words; null: it is. */
  get reason(): string | null {
    return this.held ? 'By hand: nothing is handed out until you resume.' : this.shortage;
  }
  async hold(held: boolean): Promise<void> {
    await this.db.getRepository(Settings).upsert({ key: HELD, value: held as never }, ['key']);
    this.held = held;
  }
  /** On a full disk every trace would fail in its turn: they wait instead, and go on by themselves. */
  async isPaused(): Promise<boolean> {
    if (this.held) return true;
    const shortage = await this.disk.shortage();
    const isOther = (shortage === null) !== (this.shortage === null);
    this.shortage = shortage;
    if (isOther) this.onChange();
    return shortage !== null;
  }
}
