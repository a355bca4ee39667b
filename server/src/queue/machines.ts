// Machines that render, as they are recorded: their tokens (hashed), what people have set, what each has done.
import { createHash, randomBytes } from 'node:crypto';
import { AppError, type MachineToken } from '@variscen/contract';
import type { DataSource } from 'typeorm';
import { type MachineRow, MachineRows } from '../db/entities/index.ts';

const TOKEN_BYTES = 32;
/** Kept with the record so often at most. */
const SEEN_EVERY_MS = 60_000;

/** What a slice or a trace took on the machine that rendered it. */
export interface Effort {
  readonly seconds: number;
  readonly paths: number;
}

export class Machines {
  /** By name in lower case, in the order in which they were added. */
  private readonly rows = new Map<string, MachineRow>();
  private readonly byToken = new Map<string, string>();

  constructor(
    private readonly db: DataSource,
    private readonly now: () => Date,
  ) {}

  async open(): Promise<void> {
    for (const row of await this.db.getRepository(MachineRows).find({ order: { createdAt: 'ASC' } })) this.keep(row);
  }

  all(): MachineRow[] {
    return [...this.rows.values()];
  }
  get(name: string): MachineRow | undefined {
    return this.rows.get(name.toLowerCase());
  }
  /** The machine whose token this is; undefined where it is none's. */
  nameOf(token: string): string | undefined {
    return this.byToken.get(hashOf(token));
  }

  /** @throws AppError NAME_TAKEN */
  async add(name: string): Promise<MachineToken> {
    if (this.get(name)) throw new AppError('NAME_TAKEN', `There is a machine called “${this.get(name)!.name}”.`);
    const token = newToken();
    const row = newRow(name, hashOf(token), this.now());
    await this.db.getRepository(MachineRows).insert(row);
    this.keep(row);
    return { name, token };
  }
  /** @throws AppError NOT_FOUND, WRONG_STATE of the machine that Variscen runs on */
  async renewToken(name: string): Promise<MachineToken> {
    const row = this.joined(name);
    const token = newToken();
    await this.change(row, { tokenHash: hashOf(token) });
    return { name: row.name, token };
  }
  async set(name: string, values: Pick<MachineRow, 'isDrained' | 'budgetMib'>): Promise<void> {
    await this.change(this.known(name), values);
  }
  /** @throws AppError NOT_FOUND, WRONG_STATE of the machine that Variscen runs on */
  async remove(name: string): Promise<void> {
    const row = this.joined(name);
    await this.db.getRepository(MachineRows).delete({ name: row.name });
    this.rows.delete(row.name.toLowerCase());
    if (row.tokenHash) this.byToken.delete(row.tokenHash);
  }

  /** A node of it speaks. The machine that Variscen runs on is recorded when it first does. */
  async seen(name: string): Promise<void> {
    const now = this.now();
    const row = this.get(name);
    if (!row) {
      const own = { ...newRow(name, null, now), seenAt: now };
      await this.db.getRepository(MachineRows).upsert(own, ['name']);
      this.keep(own);
    } else if (now.getTime() - (row.seenAt?.getTime() ?? 0) > SEEN_EVERY_MS) await this.change(row, { seenAt: now });
  }
  /** @param what it has finished */
  async worked(name: string, what: 'trace' | 'slice', { seconds, paths }: Effort): Promise<void> {
    const row = this.get(name);
    if (!row) return;
    await this.change(row, {
      traces: row.traces + (what === 'trace' ? 1 : 0),
      slices: row.slices + (what === 'slice' ? 1 : 0),
      seconds: row.seconds + seconds,
      paths: row.paths + paths,
    });
  }

  private known(name: string): MachineRow {
    const row = this.get(name);
    if (!row) throw new AppError('NOT_FOUND', `There is no machine called “${name}”.`);
    return row;
  }
  private joined(name: string): MachineRow {
    const row = this.known(name);
    if (row.tokenHash === null)
      throw new AppError(
        'WRONG_STATE',
        `“${row.name}” is the machine that Variscen runs on: its node starts and ends with it.`,
        'To let it render nothing, drain it or give it working hours.',
      );
    return row;
  }
  /** At once here, so that two words of one moment add up; then in the database. */
  private async change(row: MachineRow, values: Partial<MachineRow>): Promise<void> {
    if (values.tokenHash && row.tokenHash) this.byToken.delete(row.tokenHash);
    this.keep({ ...row, ...values });
    await this.db.getRepository(MachineRows).update({ name: row.name }, values);
  }
  private keep(row: MachineRow): void {
    this.rows.set(row.name.toLowerCase(), row);
    if (row.tokenHash) this.byToken.set(row.tokenHash, row.name);
  }
}

const newToken = (): string => randomBytes(TOKEN_BYTES).toString('hex');
const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');
const newRow = (name: string, tokenHash: string | null, createdAt: Date): MachineRow => ({
  name,
  tokenHash,
  isDrained: false,
  budgetMib: null,
  traces: 0,
  slices: 0,
  seconds: 0,
  paths: 0,
  seenAt: null,
  createdAt,
});
