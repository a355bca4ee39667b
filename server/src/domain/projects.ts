// Projects and what belongs to them, as rows; rules of looks live in core.
import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { AppError, type Project, type ProjectSummary } from '@variscen/contract';
import { DEFAULT_VARIANT_TEMPLATE, faultOfVariantTemplate } from '@variscen/core/looks';
import { DEFAULT_TEMPLATE, faultOfTemplate, slug } from '@variscen/core/plan';
import type { EntityManager } from 'typeorm';
import {
  Cameras,
  Options,
  Patches,
  Pendings,
  type ProjectRow,
  Projects,
  Renders,
  Revisions,
  Variants,
} from '../db/entities/index.ts';
import type { Context } from './context.ts';
import { type Edits, dropUndefined } from './edits.ts';
import { renameVariants } from './variantNaming.ts';
import { asRevision } from './revisionRows.ts';

interface SummaryRow {
  readonly id: string;
  readonly name: string;
  readonly created_at: Date;
  readonly changed_at: Date | null;
  readonly cameras: string;
  readonly variants: string;
  readonly renders: string;
  readonly cover: string | null;
  readonly has_scene: boolean;
}
const SUMMARIES = `
  SELECT p.id, p.name, p.created_at, p.revision_id IS NOT NULL AS has_scene,
    (SELECT max(s.created_at) FROM history_step s WHERE s.project_id = p.id) AS changed_at,
    (SELECT count(*) FROM camera c WHERE c.project_id = p.id) AS cameras,
    (SELECT count(*) FROM variant v WHERE v.project_id = p.id) AS variants,
    (SELECT count(*) FROM render r WHERE r.project_id = p.id) AS renders,
    (SELECT r.id FROM render r WHERE r.project_id = p.id ORDER BY r.created_at DESC LIMIT 1) AS cover
  FROM project p ORDER BY p.created_at`;

interface ProjectPatch {
  readonly name?: string | undefined;
  readonly nameTemplate?: string | undefined;
  readonly variantTemplate?: string | undefined;
  readonly staysUnmet?: boolean | undefined;
}
function labelOf({ name, nameTemplate, staysUnmet }: ProjectPatch): string {
  if (name !== undefined) return `Rename the project to ${name}`;
  if (staysUnmet !== undefined)
    return `Pictures of which only what they never met has changed are ${staysUnmet ? 'up to date' : 'outdated'}`;
  return `Change the template of ${nameTemplate === undefined ? 'variants' : 'file'} names`;
}

export class ProjectService {
  constructor(
    private readonly c: Context,
    private readonly edits: Edits,
  ) {}

  async list(): Promise<ProjectSummary[]> {
    const rows = await this.c.db.query<SummaryRow[]>(SUMMARIES);
    const demo = await readFile(this.c.demoFile, 'utf8').catch(() => null);
    return rows.map((r) => ({
      id: r.id,
      name: r.name,
      createdAt: r.created_at.toISOString(),
      changedAt: (r.changed_at ?? r.created_at).toISOString(),
      cameras: Number(r.cameras),
      variants: Number(r.variants),
      renders: Number(r.renders),
      coverRenderId: r.cover,
      hasScene: r.has_scene,
      isDemo: r.id === demo,
    }));
  }

  async create(name: string): Promise<Project> {
    const id = randomUUID();
    await this.c.db.transaction(async (m) => {
      await m.insert(Projects, {
        id,
        name,
        nameTemplate: DEFAULT_TEMPLATE,
        variantTemplate: DEFAULT_VARIANT_TEMPLATE,
        base: [],
        revisionId: null,
        sets: [],
        profiles: [],
        exceptions: [],
        acceptedWarnings: [],
        staysUnmet: true,
        createdAt: this.c.now(),
      });
      await m.insert(Variants, {
        id: randomUUID(),
        projectId: id,
        name: 'Base',
        namedByHand: false,
        ordinal: 0,
        optionIds: [],
        excludedCameraIds: [],
        notes: '',
      });
    });
    this.c.events.emit({ type: 'projects' });
    return this.get(id);
  }

  async row(id: string): Promise<ProjectRow> {
    const row = await this.c.db.getRepository(Projects).findOneBy({ id });
    if (!row) throw new AppError('NOT_FOUND', 'There is no such project.');
    return row;
  }

  async get(id: string): Promise<Project> {
    const row = await this.row(id);
    const where = { projectId: id };
    const revisions = this.c.db.getRepository(Revisions);
    const revision = row.revisionId === null ? null : await revisions.findOneBy({ id: row.revisionId });
    const offered = await revisions.findOneBy({ projectId: id, state: 'offered' });
    const [cameras, options, variants, patches, pending] = await Promise.all([
      this.c.db.getRepository(Cameras).find({ where, order: { ordinal: 'ASC' } }),
      this.c.db.getRepository(Options).find({ where, order: { ordinal: 'ASC' } }),
      this.c.db.getRepository(Variants).find({ where, order: { ordinal: 'ASC' } }),
      this.c.db.getRepository(Patches).findBy(where),
      this.c.db.getRepository(Pendings).findBy(where),
    ]);
    return {
      id,
      name: row.name,
      nameTemplate: row.nameTemplate,
      variantTemplate: row.variantTemplate,
      base: row.base as Project['base'],
      cameras: cameras as unknown as Project['cameras'],
      options: options as Project['options'],
      variants,
      patches: patches as Project['patches'],
      pending: pending as Project['pending'],
      revision: revision && asRevision(revision),
      offered: offered && asRevision(offered),
      sets: row.sets,
      profiles: row.profiles as Project['profiles'],
      exceptions: row.exceptions as Project['exceptions'],
      acceptedWarnings: row.acceptedWarnings,
      staysUnmet: row.staysUnmet,
      history: await this.edits.history.next(id),
    };
  }

  async update(id: string, patch: ProjectPatch): Promise<Project> {
    const fault =
      (patch.nameTemplate === undefined ? undefined : faultOfTemplate(patch.nameTemplate)) ??
      (patch.variantTemplate === undefined ? undefined : faultOfVariantTemplate(patch.variantTemplate));
    if (fault) throw new AppError('INVALID', fault);
    const set = dropUndefined(patch);
    return this.write(id, labelOf(patch), async (m) => {
      if (Object.keys(set).length) await m.update(Projects, { id }, set as never);
      if (patch.variantTemplate !== undefined) await renameVariants(m, id);
    });
  }

  /** Answers with the file that the records of its renders were kept in, if any. */
  async remove(id: string, records: 'keep' | 'drop'): Promise<string | null> {
    const { name } = await this.row(id);
    await this.c.queue.actions.cancel({ projectId: id });
    const path = records === 'keep' ? await this.keepRecords(id, name) : null;
    await this.c.db.getRepository(Projects).delete({ id });
    this.c.events.emit({ type: 'projects' });
    this.c.events.emit({ type: 'queue' });
    return path;
  }
  /** What each of its pictures was made from, beside them. */
  private async keepRecords(projectId: string, name: string): Promise<string | null> {
    const renders = await this.c.db
      .getRepository(Renders)
      .find({ where: { projectId }, order: { createdAt: 'ASC', cameraId: 'ASC', variantId: 'ASC' } });
    if (!renders.length) return null;
    const { cameras, variants } = await this.get(projectId);
    const nameOf = (list: readonly { id: string; name: string }[], id: string) => list.find((x) => x.id === id)?.name;
    const records = renders.map((r) => ({
      camera: nameOf(cameras, r.cameraId) ?? null,
      variant: nameOf(variants, r.variantId) ?? null,
      ...r,
    }));
    return this.c.output.keep(`${slug(name)}/records`, '.json', JSON.stringify({ project: name, records }, null, 2));
  }

  /** @param warnings all that are accepted from now on, as plans say them */
  acceptWarnings(projectId: string, warnings: readonly string[]): Promise<Project> {
    return this.write(projectId, 'Accept warnings of plans', async (m) => {
      await m.update(Projects, { id: projectId }, { acceptedWarnings: [...new Set(warnings)] });
    });
  }

  putSets(projectId: string, sets: Project['sets']): Promise<Project> {
    const names = sets.map((x) => x.name.toLowerCase());
    if (new Set(names).size < names.length) throw new AppError('NAME_TAKEN', 'Two selections have the same name.');
    return this.write(projectId, 'Change the named selections', async (m) => {
      await m.update(Projects, { id: projectId }, { sets } as never);
    });
  }

  /** One edit, and the project as it is then. */
  async write(projectId: string, label: string, work: (m: EntityManager) => Promise<string | void>): Promise<Project> {
    await this.edits.write(projectId, label, work);
    return this.get(projectId);
  }
}
