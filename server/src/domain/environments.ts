// Environment maps that were brought in: one list for all projects.
import { skyValue } from '@variscen/core/environment';
import { EnvironmentMaps } from '../db/entities/index.ts';
import { runTask } from '../work/run.ts';
import type { Context } from './context.ts';

export class EnvironmentService {
  constructor(private readonly c: Context) {}

  async list(): Promise<{ value: string; name: string; width: number; height: number }[]> {
    const rows = await this.c.db.getRepository(EnvironmentMaps).find({ order: { name: 'ASC', createdAt: 'ASC' } });
    return rows.map(({ hash, name, width, height }) => ({
      value: skyValue({ hash, name, width, height }),
      name,
      width,
      height,
    }));
  }
  /** Decodes a file in a worker. The same picture under the same name is in the list once. */
  async bring(
    file: string,
    fileName: string,
    signal: AbortSignal,
  ): Promise<{ value: string; name: string; width: number; height: number; remarks: readonly string[] }> {
    const { hash, width, height, remarks } = await runTask(
      { kind: 'environment', assets: this.c.assetsFolder, file, fileName },
      undefined,
      signal,
    );
    const name = fileName.slice(0, 200);
    await this.c.db
      .getRepository(EnvironmentMaps)
      .upsert({ hash, name, width, height, createdAt: this.c.now() }, ['hash', 'name']);
    return { value: skyValue({ hash, name, width, height }), name, width, height, remarks };
  }
}
