// Projects and what belongs to them, as rows; rules of looks live in core.
import { randomUUID } from 'node:crypto';
import { AppError, type Project, type ProjectSummary } from '@variscen/contract';
import { type Change, FACETS, type Facet, changeText, keyOf, mergeChanges, propertyOf, sameValue } from '@variscen/core/looks';
import { DEFAULT_TEMPLATE, faultOfTemplate } from '@variscen/core/plan';
import type { EntityManager } from 'typeorm';
import { Cameras, type OptionRow, Options, Patches, Pendings, type ProjectRow, Projects, Revisions, Variants } from '../db/entities.ts';
import type { Context } from './context.ts';
import { type Edits, changeOne, nextOrdinal, removeOne, dropUndefined } from './edits.ts';
import { asRevision } from './revisions.ts';

export class ProjectService {
  constructor(private readonly c: Context, private readonly edits: Edits) {}

  async list(): Promise<ProjectSummary[]> {
    const rows = await this.c.db.getRepository(Projects).find({ order: { createdAt: 'ASC' } });
    return Promise.all(rows.map(async (p) => ({
      id: p.id, name: p.name, createdAt: p.createdAt.toISOString(), cameras: await this.c.db.getRepository(Cameras).countBy({ projectId: p.id }), variants: await this.c.db.getRepository(Variants).countBy({ projectId: p.id }),
      hasScene: p.revisionId !== null,
    })));
  }

  async create(name: string): Promise<Project> {
    const id = randomUUID();
    await this.c.db.transaction(async (m) => {
      await m.insert(Projects, { id, name, nameTemplate: DEFAULT_TEMPLATE, base: [], revisionId: null, sets: [], createdAt: this.c.now() });
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

  async get(id: string): Promise<Project> {
    const row = await this.row(id), where = { projectId: id }, revisions = this.c.db.getRepository(Revisions);
    const revision = row.revisionId === null ? null : await revisions.findOneBy({ id: row.revisionId }), offered = await revisions.findOneBy({ projectId: id, state: 'offered' });
    const [cameras, options, variants, patches, pending] = await Promise.all([
      this.c.db.getRepository(Cameras).find({ where, order: { ordinal: 'ASC' } }), this.c.db.getRepository(Options).find({ where, order: { ordinal: 'ASC' } }), this.c.db.getRepository(Variants).find({ where, order: { ordinal: 'ASC' } }),
      this.c.db.getRepository(Patches).findBy(where), this.c.db.getRepository(Pendings).findBy(where),
    ]);
    return {
      id, name: row.name, nameTemplate: row.nameTemplate, base: row.base as Project['base'], cameras: cameras as unknown as Project['cameras'], options: options as Project['options'], variants, patches: patches as Project['patches'], pending: pending as Project['pending'],
      revision: revision && asRevision(revision), offered: offered && asRevision(offered), sets: row.sets, history: await this.edits.history.next(id),
    };
  }

  async update(id: string, patch: { name?: string | undefined; nameTemplate?: string | undefined }): Promise<Project> {
    const fault = patch.nameTemplate === undefined ? undefined : faultOfTemplate(patch.nameTemplate);
    if (fault) throw new AppError('INVALID', fault);
    const set = { ...(patch.name !== undefined && { name: patch.name }), ...(patch.nameTemplate !== undefined && { nameTemplate: patch.nameTemplate }) };
    await this.edits.write(id, patch.name === undefined ? 'Change the template of file names' : `Rename the project to ${patch.name}`, async (m) => { if (Object.keys(set).length) await m.update(Projects, { id }, set); });
    return this.get(id);
  }

  async remove(id: string): Promise<void> {
    await this.row(id);
    await this.c.queue.cancelProject(id);
    await this.c.db.getRepository(Projects).delete({ id });
    this.c.events.emit({ type: 'projects' });
    this.c.events.emit({ type: 'queue' });
  }

  // ---- options
  createOption(projectId: string, facet: Facet, name: string, changes: readonly Change[]): Promise<Project> {
    checkFacet(facet, changes);
    return this.write(projectId, `Make option ${name}`, async (m) => { await m.insert(Options, { id: randomUUID(), projectId, facet, name, changes: [...changes], ordinal: await nextOrdinal(m, Options, projectId) }); });
  }
  updateOption(projectId: string, id: string, set: Partial<Pick<OptionRow, 'name' | 'changes'>>): Promise<Project> {
    return this.write(projectId, set.name !== undefined ? `Rename an option to ${set.name}` : 'Change an option', async (m) => {
      const option = await m.findOneBy(Options, { id, projectId });
      if (!option) throw new AppError('NOT_FOUND', 'There is no such option.');
      if (set.changes) checkFacet(option.facet, set.changes);
      await changeOne(m, Options, { id, projectId }, set, 'option');
      if (set.name !== undefined) await renameVariants(m, projectId);
    });
  }
  removeOption(projectId: string, id: string): Promise<Project> {
    return this.write(projectId, 'Delete an option', async (m) => {
      const users = (await m.find(Variants, { where: { projectId }, order: { ordinal: 'ASC' } })).filter((v) => v.optionIds.includes(id));
      if (users.length) throw new AppError('IN_USE', `The option is used by ${users.length === 1 ? 'the variant' : `${users.length} variants:`} ${users.map((v) => `“${v.name}”`).join(', ')}.`);
      await removeOne(m, Options, { id, projectId }, 'option');
      await m.delete(Pendings, { projectId, destination: `option:${id}` });
    });
  }

  // ---- variants
  createVariant(projectId: string, optionIds: string[], name: string | undefined): Promise<Project> {
    return this.write(projectId, 'Make a variant', async (m) => {
      const options = await ownOptions(m, projectId, optionIds);
      await m.insert(Variants, { id: randomUUID(), projectId, name: name ?? variantName(options), namedByHand: name !== undefined, optionIds, excludedCameraIds: [], ordinal: await nextOrdinal(m, Variants, projectId) });
    });
  }
  updateVariant(projectId: string, id: string, set: { name?: string | undefined; optionIds?: string[] | undefined; excludedCameraIds?: string[] | undefined }): Promise<Project> {
    return this.write(projectId, set.name !== undefined ? `Rename a variant to ${set.name}` : 'Change a variant', async (m) => {
      if (set.optionIds) await ownOptions(m, projectId, set.optionIds);
      const { name, ...rest } = set;
      await changeOne(m, Variants, { id, projectId }, { ...dropUndefined(rest), ...(name !== undefined && { name, namedByHand: true }) }, 'variant');
      if (set.optionIds) await renameVariants(m, projectId);
    });
  }
  removeVariant(projectId: string, id: string): Promise<Project> {
    return this.write(projectId, 'Delete a variant', async (m) => {
      await removeOne(m, Variants, { id, projectId }, 'variant');
      await m.query(`DELETE FROM pending WHERE project_id = $1 AND destination LIKE $2`, [projectId, `cell:%:${id}`]);
    });
  }

  // ---- pending edits
  async putPending(projectId: string, destination: string, changes: readonly Change[]): Promise<Project> {
    const before = (await this.c.db.getRepository(Pendings).findOneBy({ projectId, destination }))?.changes ?? [];
    return this.write(projectId, labelOf(before, changes), async (m) => {
      await checkDestination(m, projectId, destination, changes);
      if (changes.length) await m.upsert(Pendings, { projectId, destination, changes: [...changes] }, ['projectId', 'destination']);
      else await m.delete(Pendings, { projectId, destination });
    });
  }
  putSets(projectId: string, sets: Project['sets']): Promise<Project> {
    const names = sets.map((x) => x.name.toLowerCase());
    if (new Set(names).size < names.length) throw new AppError('NAME_TAKEN', 'Two selections have the same name.');
    return this.write(projectId, 'Change the named selections', async (m) => { await m.update(Projects, { id: projectId }, { sets } as never); });
  }
  keepPending(projectId: string, destination: string, as: { facet: Facet; name: string } | undefined): Promise<Project> {
    return this.write(projectId, as ? `Keep edits as option ${as.name}` : 'Keep edits', async (m) => {
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

  private async write(projectId: string, label: string, work: (m: EntityManager) => Promise<void>): Promise<Project> {
    await this.edits.write(projectId, label, work);
    return this.get(projectId);
  }
}

/** What an edit is called in the history: the one value that it sets, or how many. */
function labelOf(before: readonly Change[], after: readonly Change[]): string {
  const old = new Map(before.map((c) => [keyOf(c.target, c.property), c])), set = after.filter((c) => !sameValue(old.get(keyOf(c.target, c.property))?.value, c.value)), gone = before.length - (after.length - after.filter((c) => !old.has(keyOf(c.target, c.property))).length);
  const [one] = set;
  return set.length === 1 && one ? `Edit ${changeText(one)}` : set.length ? `Edit ${set.length} values` : `Discard ${gone === 1 ? 'an edit' : `${gone} edits`}`;
}

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
