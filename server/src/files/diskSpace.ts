// Free space of the disks that Variscen writes to. Some of it is kept free: a disk that is full to the last byte takes
// the database with it.
import { statfs } from 'node:fs/promises';
import { AppError } from '@variscen/contract';

const MIB = 2 ** 20;
const mb = (bytes: number): string => `${Math.max(0, Math.floor(bytes / MIB)).toLocaleString('en')} MB`;

export class DiskSpace {
  constructor(
    private readonly folders: readonly string[],
    readonly reserveBytes: number,
  ) {}

  /** Of the fullest of the disks. @param more folders on other disks */
  async freeBytes(...more: readonly string[]): Promise<number> {
    const free = await Promise.all(
      [...this.folders, ...more].map((f) =>
        statfs(f).then(
          ({ bavail, bsize }) => bavail * bsize,
          () => Infinity,
        ),
      ),
    );
    return Math.min(...free);
  }
  /** Beside what is kept free. */
  async usableBytes(...more: readonly string[]): Promise<number> {
    const free = await this.freeBytes(...more);
    return Number.isFinite(free) ? Math.max(0, free - this.reserveBytes) : Number.MAX_SAFE_INTEGER;
  }
  /** Why nothing is rendered now, in words; null where there is space. */
  async shortage(): Promise<string | null> {
    const free = await this.freeBytes();
    if (free >= this.reserveBytes) return null;
    return `${mb(free)} are free on the disk, and ${mb(this.reserveBytes)} are kept free. Rendering goes on as soon as there is space.`;
  }
  /** @throws AppError NO_SPACE where so much more would leave less than is kept free */
  async need(bytes: number): Promise<void> {
    const free = await this.freeBytes();
    if (free - bytes >= this.reserveBytes) return;
    throw new AppError(
      'NO_SPACE',
      `There is no space for this: ${mb(bytes)} are needed beside the ${mb(this.reserveBytes)} that are kept free, and ${mb(free)} are free.`,
    );
  }
}
