// When each machine may render, as people have set it, and how many of its threads may work now.
import { ALWAYS, type ClockTime, type WorkingHours, secondsUntilDone, threadsAt } from '@variscen/core/plan';
import type { DataSource } from 'typeorm';
import { Settings } from '../db/entities/index.ts';

/** The setting that holds the hours, by the names of nodes. */
const HOURS = 'node.hours';
/** So long after the last edit nobody edits. */
const EDITING_MS = 60_000;

export interface NodePower {
  readonly threads: number;
  /** Why not all, in words; null: all may work. */
  readonly why: string | null;
}

export class NodeHours {
  private readonly byName = new Map<string, WorkingHours>();
  private editedAt = 0;

  constructor(
    private readonly db: DataSource,
    private readonly now: () => Date,
  ) {}

  async open(): Promise<void> {
    const row = await this.db.getRepository(Settings).findOneBy({ key: HOURS });
    for (const [name, hours] of Object.entries((row?.value ?? {}) as Record<string, WorkingHours>))
      this.byName.set(name, hours);
  }
  of(name: string): WorkingHours {
    return this.byName.get(name) ?? ALWAYS;
  }
  async set(name: string, hours: WorkingHours): Promise<void> {
    const all = { ...Object.fromEntries(this.byName), [name]: hours };
    await this.db.getRepository(Settings).upsert({ key: HOURS, value: all as never }, ['key']);
    this.byName.set(name, hours);
  }
  /** Somebody changes something in a window. */
  edited(): void {
    this.editedAt = this.now().getTime();
  }

  /** @param isOwn whether it is the machine that Variscen runs on, where people edit */
  power(name: string, threads: number, isOwn: boolean): NodePower {
    const hours = this.of(name);
    if (this.pauseS(hours) > 0) return { threads: 0, why: `Not until ${timeOf(new Date(hours.notUntil!))}` };
    const allowed = threadsAt(hours, threads, clockOf(this.now()));
    if (allowed === 0) return { threads: 0, why: 'Not in its working hours' };
    const isEdited = Math.abs(this.now().getTime() - this.editedAt) < EDITING_MS;
    if (isOwn && hours.stepsBack && isEdited && allowed === threads && threads > 1)
      return { threads: threads - 1, why: 'Somebody edits' };
    return { threads: allowed, why: allowed < threads ? 'Working hours' : null };
  }

  /** When work of so many seconds at full power is done; null where the hours never let it be. */
  doneAt(name: string, threads: number, workS: number): Date | null {
    const hours = this.of(name);
    const s = secondsUntilDone(hours, threads, clockOf(this.now()), workS, this.pauseS(hours));
    return s === null ? null : new Date(this.now().getTime() + s * 1000);
  }
  private pauseS({ notUntil }: WorkingHours): number {
    return notUntil === null ? 0 : Math.max(0, (Date.parse(notUntil) - this.now().getTime()) / 1000);
  }
}

const clockOf = (d: Date): ClockTime => ({
  day: (d.getDay() + 6) % 7,
  hour: d.getHours() + d.getMinutes() / 60 + d.getSeconds() / 3600,
});
const timeOf = (d: Date): string =>
  `${String(d.getHours()).padStart(2, '0')}:${String(d.getMinutes()).padStart(2, '0')}`;
