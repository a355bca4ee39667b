// Where edits go and how they get there. Every edit is pending in its destination at once, on the page and then on the server; nothing waits in a form.
import type { QueryClient } from '@tanstack/react-query';
import type { Project, Variant } from '@variscen/contract';
import {
  type Change,
  type Facet,
  FACETS,
  keyOf,
  mergeChanges,
  optionTitle,
  propertyOf,
  withoutChanges,
} from '@variscen/core/looks';
import { call } from '../api/client.ts';
import { keys, setProject } from '../api/queries.ts';
import { beginWrite } from './writes.ts';
import { sayError } from '../ui/notify.ts';

export interface Destination {
  readonly id: string;
  readonly label: string;
  readonly facet: Facet | undefined;
}

export function destinationsOf(p: Project, cameraId: string, variant: Variant): Destination[] {
  return [
    { id: 'base', label: 'the base', facet: undefined },
    ...FACETS.flatMap((f) =>
      p.options.filter((o) => o.facet === f).map((o) => ({ id: `option:${o.id}`, label: optionTitle(o), facet: f })),
    ),
    ...(cameraId
      ? [
          { id: `camera:${cameraId}`, label: 'this camera only', facet: undefined },
          { id: `cell:${cameraId}:${variant.id}`, label: 'this camera in this variant only', facet: undefined },
        ]
      : []),
  ];
}
/** Whether a change may be recorded in a destination: an option takes its own facet only. */
export const fits = (change: Change, d: Destination): boolean =>
  d.facet === undefined || propertyOf(change.property)?.facet === d.facet;
export const pendingOf = (p: Project, destination: string): Change[] =>
  (p.pending.find((x) => x.destination === destination)?.changes ?? []) as Change[];
export const isPending = (p: Project, destination: string, target: string, property: string): boolean =>
  pendingOf(p, destination).some((c) => keyOf(c.target, c.property) === keyOf(target, property));

/** Where something is recorded or pending, in words that hold in any camera and variant. */
export function destinationLabel(p: Project, id: string): string {
  const [kind, a, b] = id.split(':');
  const camera = () => p.cameras.find((c) => c.id === a)?.name ?? 'a camera that is gone';
  if (kind === 'base') return 'the base';
  if (kind === 'option') {
    const o = p.options.find((x) => x.id === a);
    return o ? optionTitle(o) : 'an option that is gone';
  }
  return kind === 'camera'
    ? `${camera()} only`
    : `${camera()} in ${p.variants.find((v) => v.id === b)?.name ?? 'a variant that is gone'} only`;
}
export function recordedIn(p: Project, destination: string): readonly Change[] {
  const [kind, a, b] = destination.split(':');
  if (kind === 'base') return p.base as Change[];
  if (kind === 'option') return (p.options.find((o) => o.id === a)?.changes ?? []) as Change[];
  return (p.patches.find((x) => x.cameraId === a && x.variantId === (kind === 'cell' ? b : null))?.changes ??
    []) as Change[];
}

type Key = Pick<Change, 'target' | 'property'>;
interface Waiting {
  clear: Map<string, Key> | 'all';
  set: Map<string, Change>;
}

/** Writes pending edits to the server one after another, only what changed; what comes while one is under way goes together. */
export class PendingWriter {
  private readonly waiting = new Map<string, Waiting>();
  private running: Promise<void> | undefined;
  constructor(
    private readonly client: QueryClient,
    private readonly projectId: string,
  ) {}

  private get project(): Project | undefined {
    return this.client.getQueryData<Project>(keys.project(this.projectId));
  }

  record(destination: string, changes: readonly Change[]): void {
    this.change(destination, changes, []);
  }
  discard(destination: string, what: readonly Key[] | 'all'): void {
    this.change(destination, [], what);
  }

  private change(destination: string, set: readonly Change[], clear: readonly Key[] | 'all'): void {
    const p = this.project;
    if (!p) return;
    setProject(
      this.client,
      withPending(
        p,
        destination,
        mergeChanges(clear === 'all' ? [] : withoutChanges(pendingOf(p, destination), clear), set),
      ),
    );
    const w = this.waiting.get(destination) ?? { clear: new Map<string, Key>(), set: new Map<string, Change>() };
    if (clear === 'all') {
      w.clear = 'all';
      w.set.clear();
    } else
      for (const { target, property } of clear) {
        const key = keyOf(target, property);
        w.set.delete(key);
        if (w.clear !== 'all') w.clear.set(key, { target, property });
      }
    for (const c of set) w.set.set(keyOf(c.target, c.property), c);
    this.waiting.set(destination, w);
    this.running ??= this.run().finally(() => {
      this.running = undefined;
    });
  }
  /** Everything that was changed so far is with the server when this resolves. */
  async settled(): Promise<void> {
    await this.running;
  }

  private async run(): Promise<void> {
    const written = beginWrite(this.projectId);
    let refused = false;
    for (let next = this.waiting.entries().next(); !next.done; next = this.waiting.entries().next()) {
      const [destination, { clear, set }] = next.value;
      this.waiting.delete(destination);
      try {
        const head = await call('editPending', {
          params: { projectId: this.projectId },
          body: {
            destination,
            set: [...set.values()] as never,
            clear: clear === 'all' ? clear : [...clear.values()],
          },
        });
        const p = this.project;
        if (p) setProject(this.client, { ...p, history: head });
      } catch (e) {
        // what was refused is said; what waits behind it goes on
        sayError(e);
        refused = true;
      }
    }
    written();
    // not waited for: what is changed meanwhile starts a run of its own
    if (refused) void this.client.invalidateQueries({ queryKey: keys.project(this.projectId) });
  }
}
const withPending = (p: Project, destination: string, changes: Change[]): Project => ({
  ...p,
  pending: [
    ...p.pending.filter((x) => x.destination !== destination),
    ...(changes.length ? [{ destination, changes: changes as Project['base'] }] : []),
  ],
});
