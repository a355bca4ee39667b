// Where edits go and how they get there. Every edit is pending in its destination at once, on the page and then on the server; nothing waits in a form.
import type { QueryClient } from '@tanstack/react-query';
import type { Project, Variant } from '@variscen/contract';
import { type Change, type Facet, FACETS, FACET_NAMES, keyOf, mergeChanges, propertyOf } from '@variscen/core/looks';
import { call } from '../../api/client.ts';
import { keys, setProject } from '../../api/queries.ts';
import { sayError } from '../../shared/notify.ts';

export interface Destination { readonly id: string; readonly label: string; readonly facet: Facet | undefined }

export function destinationsOf(p: Project, cameraId: string, variant: Variant): Destination[] {
  return [
    { id: 'base', label: 'the base', facet: undefined },
    ...FACETS.flatMap((f) => p.options.filter((o) => o.facet === f).map((o) => ({ id: `option:${o.id}`, label: `${FACET_NAMES[f]}: ${o.name}`, facet: f }))),
    ...(cameraId ? [{ id: `camera:${cameraId}`, label: 'this camera only', facet: undefined }, { id: `cell:${cameraId}:${variant.id}`, label: 'this camera in this variant only', facet: undefined }] : []),
  ];
}
/** Whether a change may be recorded in a destination: an option takes its own facet only. */
export const fits = (change: Change, d: Destination): boolean => d.facet === undefined || propertyOf(change.property)?.facet === d.facet;
export const pendingOf = (p: Project, destination: string): Change[] => (p.pending.find((x) => x.destination === destination)?.changes ?? []) as Change[];
export const isPending = (p: Project, destination: string, target: string, property: string): boolean => pendingOf(p, destination).some((c) => keyOf(c.target, c.property) === keyOf(target, property));

/** Writes pending edits to the server one after another; of edits that come while one is under way only the last state is sent. */
export class PendingWriter {
  private readonly waiting = new Map<string, Change[]>();
  private running = false;
  constructor(private readonly client: QueryClient, private readonly projectId: string) {}

  private get project(): Project | undefined { return this.client.getQueryData<Project>(keys.project(this.projectId)); }

  record(destination: string, changes: readonly Change[]): void { this.replace(destination, (old) => mergeChanges(old, changes)); }
  replace(destination: string, next: (old: Change[]) => Change[]): void {
    const p = this.project;
    if (!p) return;
    const changes = next(pendingOf(p, destination));
    setProject(this.client, withPending(p, destination, changes));
    this.waiting.set(destination, changes);
    void this.run();
  }
  private async run(): Promise<void> {
    if (this.running) return;
    this.running = true;
    try {
      for (let next = this.waiting.entries().next(); !next.done; next = this.waiting.entries().next()) {
        const [destination, changes] = next.value;
        this.waiting.delete(destination);
        await this.client.cancelQueries({ queryKey: keys.project(this.projectId) });
        const p = await call('putPending', { params: { projectId: this.projectId }, body: { destination, changes: changes as never } });
        if (this.waiting.size === 0) setProject(this.client, p);
      }
    } catch (e) {
      sayError(e);
      this.waiting.clear();
      await this.client.invalidateQueries({ queryKey: keys.project(this.projectId) });
    } finally {
      this.running = false;
    }
  }
}
const withPending = (p: Project, destination: string, changes: Change[]): Project => ({ ...p, pending: [...p.pending.filter((x) => x.destination !== destination), ...(changes.length ? [{ destination, changes: changes as Project['base'] }] : [])] });
