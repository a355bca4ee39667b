// Projects and what belongs to them, as rows; rules of looks live in core.
import { randomUUID } from 'node:crypto';
import { AppError, type Project, type ProjectSummary } from '@variscen/contract';
import { type Change, FACETS, type Facet, mergeChanges, propertyOf } from '@variscen/core/looks';
import { DEFAULT_TEMPLATE, faultOfTemplate } from '@variscen/core/plan';
import { type CameraSettings, type SceneDocument, cameraForScene, fromSceneCamera, movingNodes, worldMatrices } from '@variscen/core/scene';
import { type EntityManager, type EntitySchema, type ObjectLiteral, QueryFailedError } from 'typeorm';
import { type CameraRow, Cameras, type OptionRow, Options, Patches, Pendings, type ProjectRow, Projects, type RevisionRow, Revisions, Variants } from '../db/entities.ts';
import { runTask } from '../work/run.ts';
import type { Context } from './context.ts';

export class ProjectService {
  private readonly importing = new Set<string>();
  constructor(private readonly c: Context) {}

  async list(): Promise<ProjectSummary[]> {
    const rows = await this.c.db.getRepository(Projects).find({ order: { createdAt: 'ASC' } });
    return Promise.all(rows.map(async (p) => ({
      id: p.id, name: p.name, createdAt: p.createdAt.toISOString(), cameras: await this.c.db.getRepository(Cameras).countBy({ projectId: p.id }), variants: await this.c.db.getRepository(Variants).countBy({ projectId: p.id }),
      hasScene: (await this.c.db.getRepository(Revisions).countBy({ projectId: p.id })) > 0,
    })));
  }

  async create(name: string): Promise<Project> {
    const id = randomUUID();
    await this.c.db.transaction(async (m) => {
      await m.insert(Projects, { id, name, nameTemplate: DEFAULT_TEMPLATE, base: [], createdAt: this.c.now() });
      await m.insert(Variants, { id: randomUUID(), projectId: id, name: 'Base', namedByHand: false, ordinal: 0, optionIds: [], excludedCameraIds: [] });
    });
    this.c.events.emit({ type: 'projects' });
    return this.get(id);
  }

  async row(id: string): Promise<ProjectRow> {
    const row = await this.c.db.getRepository(Projects).findOneBy({ id });
    if (!row) throw new AppError('NOT_FOUND', 'There is no such project.');
    return row;
  }
  latestRevision(projectId: string): Promise<RevisionRow | null> { return this.c.db.getRepository(Revisions).findOne({ where: { projectId }, order: { number: 'DESC' } }); }

  async get(id: string): Promise<Project> {
    const row = await this.row(id), revision = await this.latestRevision(id), where = { projectId: id };
    const [cameras, options, variants, patches, pending] = await Promise.all([
      this.c.db.getRepository(Cameras).find({ where, order: { ordinal: 'ASC' } }), this.c.db.getRepository(Options).find({ where, order: { ordinal: 'ASC' } }), this.c.db.getRepository(Variants).find({ where, order: { ordinal: 'ASC' } }),
      this.c.db.getRepository(Patches).findBy(where), this.c.db.getRepository(Pendings).findBy(where),
    ]);
    return {
      id, name: row.name, nameTemplate: row.nameTemplate, base: row.base as Project['base'], cameras: cameras as unknown as Project['cameras'], options: options as Project['options'], variants, patches: patches as Project['patches'], pending: pending as Project['pending'],
      revision: revision && { id: revision.id, number: revision.number, sceneHash: revision.sceneHash, createdAt: revision.createdAt.toISOString(), report: revision.report as NonNullable<Project['revision']>['report'] },
    };
  }

  async update(id: string, patch: { name?: string | undefined; nameTemplate?: string | undefined }): Promise<Project> {
    await this.row(id);
    const fault = patch.nameTemplate === undefined ? undefined : faultOfTemplate(patch.nameTemplate);
    if (fault) throw new AppError('INVALID', fault);
    const set = { ...(patch.name !== undefined && { name: patch.name }), ...(patch.nameTemplate !== undefined && { nameTemplate: patch.nameTemplate }) };
    if (Object.keys(set).length) await this.c.db.getRepository(Projects).update({ id }, set);
    return this.changed(id, true);
  }

  async remove(id: string): Promise<void> {
    await this.row(id);
    await this.c.queue.cancelProject(id);
    await this.c.db.getRepository(Projects).delete({ id });
    this.c.events.emit({ type: 'projects' });
    this.c.events.emit({ type: 'queue' });
  }

  private async changed(id: string, listed = false): Promise<Project> {
    this.c.events.emit({ type: 'project', projectId: id });
    if (listed) this.c.events.emit({ type: 'projects' });
    return this.get(id);
  }

  /** Reads an uploaded file in a worker; stores everything or nothing. */
  async importScene(id: string, file: string, fileName: string, signal: AbortSignal): Promise<NonNullable<Project['revision']>> {
    await this.row(id);
    if (this.importing.has(id)) throw new AppError('IMPORT_BUSY', 'Another scene is being brought into this project.');
    this.importing.add(id);
    try {
      const { sceneHash, report } = await runTask({ kind: 'import', assets: this.c.assetsFolder, file, fileName }, (fraction) => this.c.events.emit({ type: 'import', projectId: id, fraction }), signal);
      const scene = (await this.c.scenes.get(sceneHash)).document;
      await this.c.db.transaction(async (m) => {
        const before = await m.count(Revisions, { where: { projectId: id } });
        await m.insert(Revisions, { id: randomUUID(), projectId: id, number: before + 1, sceneHash, report, createdAt: this.c.now() });
        if ((await m.count(Cameras, { where: { projectId: id } })) === 0) await m.insert(Cameras, camerasOf(scene).map((k, ordinal) => ({ ...k, id: randomUUID(), projectId: id, ordinal })));
      });
    } finally {
      this.importing.delete(id);
    }
    return (await this.changed(id, true)).revision!;
  }

  // ---- cameras
  createCamera(projectId: string, name: string, settings: CameraSettings): Promise<Project> {
    return this.write(projectId, async (m) => { await m.insert(Cameras, { id: randomUUID(), projectId, name, settings, ordinal: await nextOrdinal(m, Cameras, projectId) }); });
  }
  updateCamera(projectId: string, id: string, set: Partial<Pick<CameraRow, 'name' | 'settings'>>): Promise<Project> { return this.write(projectId, (m) => changeOne(m, Cameras, { id, projectId }, set, 'camera')); }
  removeCamera(projectId: string, id: string): Promise<Project> {
    return this.write(projectId, async (m) => {
      await removeOne(m, Cameras, { id, projectId }, 'camera');
      await m.query(`DELETE FROM pending WHERE project_id = $1 AND (destination = $2 OR destination LIKE $3)`, [projectId, `camera:${id}`, `cell:${id}:%`]);
    });
  }

  // ---- options
  createOption(projectId: string, facet: Facet, name: string, changes: readonly Change[]): Promise<Project> {
    checkFacet(facet, changes);
    return this.write(projectId, async (m) => { await m.insert(Options, { id: randomUUID(), projectId, facet, name, changes: [...changes], ordinal: await nextOrdinal(m, Options, projectId) }); });
  }
  updateOption(projectId: string, id: string, set: Partial<Pick<OptionRow, 'name' | 'changes'>>): Promise<Project> {
    return this.write(projectId, async (m) => {
      const option = await m.findOneBy(Options, { id, projectId });
      if (!option) throw new AppError('NOT_FOUND', 'There is no such option.');
      if (set.changes) checkFacet(option.facet, set.changes);
      await changeOne(m, Options, { id, projectId }, set, 'option');
      if (set.name !== undefined) await renameVariants(m, projectId);
    });
  }
  removeOption(projectId: string, id: string): Promise<Project> {
    return this.write(projectId, async (m) => {
      const users = (await m.find(Variants, { where: { projectId }, order: { ordinal: 'ASC' } })).filter((v) => v.optionIds.includes(id));
      if (users.length) throw new AppError('IN_USE', `The option is used by ${users.length === 1 ? 'the variant' : `${users.length} variants:`} ${users.map((v) => `“${v.name}”`).join(', ')}.`);
      await removeOne(m, Options, { id, projectId }, 'option');
      await m.delete(Pendings, { projectId, destination: `option:${id}` });
    });
  }

  // ---- variants
  createVariant(projectId: string, optionIds: string[], name: string | undefined): Promise<Project> {
    return this.write(projectId, async (m) => {
      const options = await ownOptions(m, projectId, optionIds);
      await m.insert(Variants, { id: randomUUID(), projectId, name: name ?? variantName(options), namedByHand: name !== undefined, optionIds, excludedCameraIds: [], ordinal: await nextOrdinal(m, Variants, projectId) });
    });
  }
  updateVariant(projectId: string, id: string, set: { name?: string | undefined; optionIds?: string[] | undefined; excludedCameraIds?: string[] | undefined }): Promise<Project> {
    return this.write(projectId, async (m) => {
      if (set.optionIds) await ownOptions(m, projectId, set.optionIds);
      const { name, ...rest } = set;
      await changeOne(m, Variants, { id, projectId }, { ...dropUndefined(rest), ...(name !== undefined && { name, namedByHand: true }) }, 'variant');
      if (set.optionIds) await renameVariants(m, projectId);
    });
  }
  removeVariant(projectId: string, id: string): Promise<Project> {
    return this.write(projectId, async (m) => {
      await removeOne(m, Variants, { id, projectId }, 'variant');
      await m.query(`DELETE FROM pending WHERE project_id = $1 AND destination LIKE $2`, [projectId, `cell:%:${id}`]);
    });
  }

  // ---- pending edits
  putPending(projectId: string, destination: string, changes: readonly Change[]): Promise<Project> {
    return this.write(projectId, async (m) => {
      await checkDestination(m, projectId, destination, changes);
      if (changes.length) await m.upsert(Pendings, { projectId, destination, changes: [...changes] }, ['projectId', 'destination']);
      else await m.delete(Pendings, { projectId, destination });
    });
  }
  keepPending(projectId: string, destination: string, as: { facet: Facet; name: string } | undefined): Promise<Project> {
    return this.write(projectId, async (m) => {
      const pending = await m.findOneBy(Pendings, { projectId, destination });
      if (!pending?.changes.length) throw new AppError('WRONG_STATE', 'There are no pending edits to keep.');
      let { changes } = pending, rest: Change[] = [];
      if (as) {
        rest = changes.filter((x) => propertyOf(x.property)?.facet !== as.facet);
        changes = changes.filter((x) => propertyOf(x.property)?.facet === as.facet);
        if (!changes.length) throw new AppError('INVALID', `None of the pending edits belongs to ${as.facet}.`);
        await m.insert(Options, { id: randomUUID(), projectId, facet: as.facet, name: as.name, changes, ordinal: await nextOrdinal(m, Options, projectId) });
      } else await writeInto(m, projectId, destination, changes);
      if (rest.length) await m.update(Pendings, { projectId, destination }, { changes: rest });
      else await m.delete(Pendings, { projectId, destination });
    });
  }

  /** One transaction on a project; a taken name becomes a clear message. */
  private async write(projectId: string, work: (m: EntityManager) => Promise<void>): Promise<Project> {
    await this.row(projectId);
    try {
      await this.c.db.transaction(work);
    } catch (e) {
      if (isTaken(e)) throw new AppError('NAME_TAKEN', 'That name is taken in this project.');
      throw e;
    }
    return this.changed(projectId);
  }
}

/** Whether a uniqueness constraint refused it. */
export const isTaken = (e: unknown): boolean => e instanceof QueryFailedError && (e.driverError as { code?: string }).code === '23505';

const variantName = (options: readonly { readonly facet: Facet; readonly name: string }[]): string => [...options].sort((a, b) => FACETS.indexOf(a.facet) - FACETS.indexOf(b.facet)).map((o) => o.name).join(' · ').slice(0, 120) || 'Base';

/** Variants that were not named by hand follow their options' names. */
async function renameVariants(m: EntityManager, projectId: string): Promise<void> {
  const options = new Map((await m.findBy(Options, { projectId })).map((o) => [o.id, o]));
  for (const v of await m.findBy(Variants, { projectId, namedByHand: false })) {
    const name = variantName(v.optionIds.map((id) => options.get(id)).filter((o) => o !== undefined));
    if (name !== v.name) await m.update(Variants, { id: v.id }, { name });
  }
}
async function ownOptions(m: EntityManager, projectId: string, ids: readonly string[]): Promise<OptionRow[]> {
  const all = new Map((await m.findBy(Options, { projectId })).map((o) => [o.id, o]));
  return ids.map((id) => { const o = all.get(id); if (!o) throw new AppError('NOT_FOUND', 'The variant names an option that is not in this project.'); return o; });
}
function checkFacet(facet: Facet, changes: readonly Change[]): void {
  const wrong = changes.find((x) => propertyOf(x.property)?.facet !== facet);
  if (wrong) throw new AppError('INVALID', `“${propertyOf(wrong.property)?.label ?? wrong.property}” does not belong to the facet ${facet}.`, 'Record it in an option of its own facet.');
}
async function checkDestination(m: EntityManager, projectId: string, destination: string, changes: readonly Change[]): Promise<void> {
  const [kind, a, b] = destination.split(':');
  const missing = () => new AppError('NOT_FOUND', 'The destination of these edits no longer exists.', 'Choose another destination in the sentence at the top.');
  if (kind === 'option') { const o = await m.findOneBy(Options, { id: a!, projectId }); if (!o) throw missing(); checkFacet(o.facet, changes); }
  if ((kind === 'camera' || kind === 'cell') && !(await m.existsBy(Cameras, { id: a!, projectId }))) throw missing();
  if (kind === 'cell' && !(await m.existsBy(Variants, { id: b!, projectId }))) throw missing();
}
async function writeInto(m: EntityManager, projectId: string, destination: string, changes: readonly Change[]): Promise<void> {
  const [kind, a, b] = destination.split(':');
  if (kind === 'base') {
    const p = await m.findOneByOrFail(Projects, { id: projectId });
    await m.update(Projects, { id: projectId }, { base: mergeChanges(p.base, changes) });
  } else if (kind === 'option') {
    const o = await m.findOneBy(Options, { id: a!, projectId });
    if (!o) throw new AppError('NOT_FOUND', 'The option of these edits no longer exists.');
    await m.update(Options, { id: o.id }, { changes: mergeChanges(o.changes, changes) });
  } else {
    const variantId = kind === 'cell' ? b! : null, all = await m.findBy(Patches, { projectId, cameraId: a! }), old = all.find((x) => x.variantId === variantId);
    if (old) await m.update(Patches, { id: old.id }, { changes: mergeChanges(old.changes, changes) });
    else await m.insert(Patches, { id: randomUUID(), projectId, cameraId: a!, variantId, changes: [...changes] });
  }
}
function camerasOf(scene: SceneDocument): { name: string; settings: CameraSettings }[] {
  const world = worldMatrices(scene.nodes), moving = movingNodes(scene), taken = new Set<string>();
  const found = scene.nodes.flatMap((n, i) => {
    if (n.camera === undefined) return [];
    let name = n.name.trim().slice(0, 100) || 'Camera';
    for (let k = 2; taken.has(name.toLowerCase()); k++) name = `${n.name} ${k}`;
    taken.add(name.toLowerCase());
    return [{ name, settings: { ...fromSceneCamera(scene.cameras[n.camera]!, world[i]!), ...(moving.has(i) && { follows: n.path }) } }];
  });
  return found.length ? found : [{ name: 'Whole scene', settings: cameraForScene(scene) }];
}
const nextOrdinal = async <T extends ObjectLiteral>(m: EntityManager, table: EntitySchema<T>, projectId: string): Promise<number> => Number((await m.createQueryBuilder(table, 't').select('max(t.ordinal)', 'last').where('t.project_id = :projectId', { projectId }).getRawOne<{ last: number | null }>())?.last ?? -1) + 1;
const dropUndefined = <T extends object>(o: T): Partial<T> => Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as Partial<T>;
async function changeOne<T extends ObjectLiteral>(m: EntityManager, table: EntitySchema<T>, where: object, set: object, what: string): Promise<void> {
  const clean = dropUndefined(set);
  if (Object.keys(clean).length === 0) { if (!(await m.existsBy(table, where as never))) throw new AppError('NOT_FOUND', `There is no such ${what}.`); return; }
  const done = await m.update(table, where as never, clean as never);
  if (!done.affected) throw new AppError('NOT_FOUND', `There is no such ${what}.`);
}
async function removeOne<T extends ObjectLiteral>(m: EntityManager, table: EntitySchema<T>, where: object, what: string): Promise<void> {
  if (!(await m.delete(table, where as never)).affected) throw new AppError('NOT_FOUND', `There is no such ${what}.`);
}
