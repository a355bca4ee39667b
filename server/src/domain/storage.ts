// What lies in the data folder by content: what refers to it, what nothing does any more, and whether it is as it was
// stored.
// Kept is whatever a project with its history, its revisions, its cameras and looks, the library, the list of
// environment maps, a reference or a trace that is not done refers to. What nothing refers to is removed when somebody
// says so, and only when nobody has stored it for so many days: what an upload has just put there may be referred to in
// a moment.
import { readdir, rm, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import type { NotSoundContent, Storage } from '@variscen/contract';
import type { SceneDocument } from '@variscen/core/scene';
import { contentOf } from '../files/sceneContent.ts';
import { AssetStore } from '../files/store.ts';
import { runTask } from '../work/run.ts';
import type { Context } from './context.ts';

const KEPT_DAYS = 7;
const DAY_MS = 24 * 3600 * 1000;
const HASH = /^[0-9a-f]{64}$/;

interface StoredContent {
  readonly hash: string;
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}
interface Reference {
  what: string;
  readonly usedBy: Set<string>;
}
type References = Map<string, Reference>;

/** Every table that may name content, as text with the name of what it belongs to. */
const NAMING = `
  SELECT p.name AS used_by, p.base::text AS body FROM project p
  UNION ALL SELECT p.name, o.changes::text FROM look_option o JOIN project p ON p.id = o.project_id
  UNION ALL SELECT p.name, x.changes::text FROM patch x JOIN project p ON p.id = x.project_id
  UNION ALL SELECT p.name, x.changes::text FROM pending x JOIN project p ON p.id = x.project_id
  UNION ALL SELECT p.name, c.handling::text || c.settings::text FROM camera c JOIN project p ON p.id = c.project_id
  UNION ALL SELECT p.name, coalesce(r.before::text, '') || coalesce(r.after::text, '')
    FROM history_row r JOIN history_step s ON s.id = r.step_id JOIN project p ON p.id = s.project_id
  UNION ALL SELECT p.name, t.inputs::text || t.cells::text
    FROM trace t JOIN project p ON p.id = t.project_id WHERE t.state <> 'done'
  UNION ALL SELECT p.name, x.hash FROM reference_picture x JOIN project p ON p.id = x.project_id
  UNION ALL SELECT 'the library', looks::text FROM library_entry
  UNION ALL SELECT 'the environment maps', hash FROM environment_map`;
const NAMED = `
  SELECT DISTINCT m.found[1] AS hash, n.used_by FROM (${NAMING}) n, regexp_matches(n.body, '[0-9a-f]{64}', 'g') m(found)`;

export class StorageService {
  private readonly store: AssetStore;
  constructor(private readonly c: Context) {
    this.store = c.assets;
  }

  async look(): Promise<Storage> {
    const [contents, references] = await Promise.all([this.contents(), this.references()]);
    const unused = this.unused(contents, references);
    const { bavail, bsize } = await statfs(this.c.assetsFolder);
    return {
      files: contents.length,
      bytes: sum(contents),
      unusedFiles: unused.length,
      unusedBytes: sum(unused),
      keptDays: KEPT_DAYS,
      freeBytes: bavail * bsize,
    };
  }

  async removeUnused(): Promise<{ files: number; bytes: number }> {
    const unused = this.unused(await this.contents(), await this.references());
    for (const { path } of unused) await rm(path, { force: true });
    return { files: unused.length, bytes: sum(unused) };
  }

  /** Reads everything: in a process of its own, at the lowest priority. */
  async verify(signal?: AbortSignal): Promise<{ files: number; notSound: NotSoundContent[] }> {
    const [contents, references] = await Promise.all([this.contents(), this.references()]);
    const hashes = [...new Set([...contents.map((x) => x.hash), ...references.keys()])];
    const { notSound } = await runTask({ kind: 'verify', assets: this.c.assetsFolder, hashes }, undefined, signal);
    return {
      files: contents.length,
      notSound: notSound.map(({ hash, fault }) => {
        const { what, usedBy } = references.get(hash) ?? { what: 'content that nothing refers to', usedBy: [] };
        return { hash, fault, what, usedBy: [...usedBy].sort() };
      }),
    };
  }

  private unused(contents: readonly StoredContent[], references: References): StoredContent[] {
    const before = this.c.now().getTime() - KEPT_DAYS * DAY_MS;
    return contents.filter((x) => !references.has(x.hash) && x.modifiedMs < before);
  }

  private async contents(): Promise<StoredContent[]> {
    const out: StoredContent[] = [];
    const root = this.c.assetsFolder;
    for (const folder of await readdir(root).catch(() => [])) {
      if (!/^[0-9a-f]{2}$/.test(folder)) continue;
      for (const hash of await readdir(join(root, folder))) {
        if (!HASH.test(hash)) continue;
        const path = join(root, folder, hash);
        const about = await stat(path).catch(() => null);
        if (about) out.push({ hash, path, bytes: about.size, modifiedMs: about.mtimeMs });
      }
    }
    return out;
  }

  private async references(): Promise<References> {
    const out: References = new Map();
    const add = (hash: string, what: string, usedBy: string) => {
      const known = out.get(hash);
      if (known) known.usedBy.add(usedBy);
      else out.set(hash, { what, usedBy: new Set([usedBy]) });
    };
    const scenes = await this.c.db.query<{ hash: string; name: string; number: number }[]>(
      `SELECT r.scene_hash AS hash, p.name, r.number FROM scene_revision r JOIN project p ON p.id = r.project_id`,
    );
    for (const { hash, name, number } of scenes) add(hash, `revision ${number} of the scene`, name);
    for (const { hash, used_by } of await this.c.db.query<{ hash: string; used_by: string }[]>(NAMED))
      add(hash, 'a map, an image or a table of a look', used_by);
    for (const { hash, name } of scenes) {
      const document = await this.scene(hash);
      for (const [content, what] of document ? contentOf(document) : []) add(content, what, name);
    }
    return out;
  }
  /** Undefined where it is gone or damaged, which verify says. */
  private async scene(hash: string): Promise<SceneDocument | undefined> {
    try {
      return JSON.parse(new TextDecoder().decode(await this.store.get(hash))) as SceneDocument;
    } catch {
      return undefined;
    }
  }
}

const sum = (contents: readonly StoredContent[]): number => contents.reduce((n, x) => n + x.bytes, 0);
