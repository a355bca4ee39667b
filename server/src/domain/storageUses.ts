// What takes space on the disks, by project; and what may go because it is made again.
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { StorageUses } from '@variscen/contract';
import { filesBelow } from '../files/trimFolder.ts';
import type { Context } from './context.ts';

type OfProject = StorageUses['projects'][number];
interface Row extends Omit<OfProject, 'films' | 'tiles' | 'references'> {
  readonly renders: readonly string[];
  readonly traces: readonly string[];
  readonly hashes: readonly string[];
}
/** A file that several pictures have counts once, and as older where no newest picture has it. */
const BY_PROJECT = `
  WITH ranked AS (
    SELECT r.id, r.project_id, r.files, r.cleaning_id,
      row_number() OVER (
        PARTITION BY r.project_id, r.camera_id, r.variant_id, r.frame, r.profile->>'id' ORDER BY r.version DESC) = 1 is_newest
    FROM render r),
  files AS (
    SELECT r.project_id, f->>'path' path, max((f->>'bytes')::float8) bytes, bool_or(r.is_newest) is_newest
    FROM ranked r, jsonb_array_elements(r.files) f
    WHERE r.cleaning_id IS NULL OR f->>'kind' = 'thumbnail' GROUP BY 1, 2)
  SELECT p.id "projectId", p.name,
    coalesce((SELECT sum(bytes) FROM files f WHERE f.project_id = p.id), 0) pictures,
    coalesce((SELECT sum(bytes) FROM files f WHERE f.project_id = p.id AND NOT is_newest), 0) older,
    coalesce((SELECT sum((f->>'bytes')::float8) FROM cleaning c, jsonb_array_elements(c.files) f
      WHERE c.project_id = p.id AND c.state = 'aside'), 0) aside,
    coalesce((SELECT sum((f->>'bytes')::float8) FROM delivery d, jsonb_array_elements(d.files) f
      WHERE d.project_id = p.id), 0) deliveries,
    ARRAY(SELECT r.id::text FROM render r WHERE r.project_id = p.id
      UNION ALL SELECT x.id::text FROM reference_picture x WHERE x.project_id = p.id) renders,
    ARRAY(SELECT t.id::text FROM trace t WHERE t.project_id = p.id AND t.state <> 'done') traces,
    ARRAY(SELECT DISTINCT x.hash FROM reference_picture x WHERE x.project_id = p.id) hashes
  FROM project p ORDER BY p.created_at`;

export class StorageUseService {
  constructor(private readonly c: Context) {}

  async look(): Promise<StorageUses> {
    const { db, picturesFolder, filmsFolder, evidenceFolder, nodeFolder, assetsFolder } = this.c;
    const rows = await db.query<Row[]>(BY_PROJECT);
    const [tiles, films, contents, evidence, parts] = await Promise.all([
      bytesIn(picturesFolder),
      bytesIn(filmsFolder),
      bytesByName(assetsFolder),
      bytesBelow(evidenceFolder),
      bytesBelow(join(nodeFolder, 'parts')),
    ]);
    const sum = (of: ReadonlyMap<string, number>, names: readonly string[]) =>
      names.reduce((n, name) => n + (of.get(name) ?? 0), 0);
    return {
      projects: rows.map(({ renders, traces, hashes, ...row }) => ({
        ...row,
        references: sum(contents, hashes),
        films: sum(films, traces),
        tiles: sum(tiles, renders),
      })),
      evidence,
      parts,
    };
  }

  /** What is being made at this moment stays. @returns how much it was, bytes */
  async drop(what: 'tiles' | 'evidence'): Promise<number> {
    const files = await filesBelow(what === 'tiles' ? this.c.picturesFolder : this.c.evidenceFolder);
    const whole = files.filter((f) => WHOLE[what].test(f.path));
    for (const { path } of whole) await rm(path, { force: true });
    return whole.reduce((n, f) => n + f.bytes, 0);
  }
}
/** Under their last names. */
const WHOLE = { tiles: /\.tiles$/, evidence: /\/[0-9a-f]{64}(\.cost)?$/ } as const;

const bytesBelow = async (folder: string): Promise<number> =>
  (await filesBelow(folder)).reduce((n, f) => n + f.bytes, 0);

/** Of what lies in each folder of a folder, by its name. */
async function bytesIn(folder: string): Promise<ReadonlyMap<string, number>> {
  const out = new Map<string, number>();
  for (const { path, bytes } of await filesBelow(folder)) {
    const [name] = path.slice(folder.length + 1).split('/');
    out.set(name!, (out.get(name!) ?? 0) + bytes);
  }
  return out;
}
/** Of the files below a folder, by their own names. */
async function bytesByName(folder: string): Promise<ReadonlyMap<string, number>> {
  const files = await filesBelow(folder);
  return new Map(files.map(({ path, bytes }) => [path.slice(path.lastIndexOf('/') + 1), bytes]));
}
