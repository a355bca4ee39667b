// Writes OpenEXR files with threads that pack their blocks. The threads are started with the first file and end when
// they have nothing to do.
import { fileURLToPath } from 'node:url';
import { type ExrImage, encodeExr } from '@variscen/core/image';
import { Piscina } from 'piscina';
import { writeFlushed } from '../../files/writeFlushed.ts';

const IDLE_MS = 5_000;
/** Blocks waiting for each thread, so that none stands still while lines are gathered for it. */
const BLOCKS_PER_THREAD = 2;

export class ExrFiles {
  private readonly pool: Piscina;

  constructor(private readonly threads: number) {
    const inSources = import.meta.url.endsWith('.ts');
    const worker = new URL(
      inSources ? '../../../dist/node/encode/packBlock.worker.js' : './packBlock.worker.js',
      import.meta.url,
    ); // always the build
    this.pool = new Piscina({
      filename: fileURLToPath(worker),
      minThreads: 0,
      maxThreads: threads,
      idleTimeout: IDLE_MS,
      execArgv: [],
    });
  }

  /** Writes a new file. @throws EEXIST where there is one; ENOSPC and others of the disk; the signal's reason */
  async write(path: string, image: ExrImage, signal?: AbortSignal): Promise<void> {
    await writeFlushed(path, async (file) => {
      await encodeExr(
        image,
        {
          pack: (filtered) =>
            this.pool.run(filtered, { transferList: [filtered.buffer as ArrayBuffer] }) as Promise<Uint8Array>,
          write: async (bytes, at) => {
            const { bytesWritten } = await file.write(bytes, 0, bytes.length, at);
            if (bytesWritten !== bytes.length)
              throw new Error(
                `Only ${bytesWritten} of ${bytes.length} bytes of ${path} could be written: the disk is full.`,
              );
          },
          blocksAtOnce: this.threads * BLOCKS_PER_THREAD,
        },
        signal,
      );
    });
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
