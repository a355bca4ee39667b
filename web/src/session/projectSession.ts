// Everything that this window does to a project. An edit is on the page at once; it is sent in its turn, and what the
// server refuses is said and taken back. One class, since every act takes its place in one ordered queue.
import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import type { NotesFile, Project, Region, ReviewChange } from '@variscen/contract';
import { type Change, type Facet, mergeChanges, withoutChanges } from '@variscen/core/looks';
import { useSyncExternalStore } from 'react';
import { call } from '../api/client.ts';
import { keys, setProject } from '../api/queries.ts';
import { pendingOf } from '../model/destinations.ts';
import type { Gesture } from '../ui/gesture.ts';
import { sayError } from '../ui/notify.ts';
import { CameraMoves } from './cameraMoves.ts';
import { HeldEdits } from './heldEdits.ts';
import { OnPage } from './onPage.ts';
import { PendingBatch, type ValueKey } from './pendingBatch.ts';
import {
  type CameraChange,
  type OneCameraChange,
  inOrder,
  nullsForUndefined,
  withCamera,
  withCameras,
  withPending,
} from './shown.ts';
import { SaidOfPictures } from './saidOfPictures.ts';
import { type QueueState, WriteQueue } from './writeQueue.ts';

/** A camera that was moved is sent when the hand has let go of it for so long. */
const REST_MS = 300;

export interface KeepHow {
  readonly only?: readonly Change[] | undefined;
  readonly as?: readonly { readonly facet: Facet; readonly name: string }[] | undefined;
  readonly variant?: { readonly fromVariantId: string; readonly name?: string } | undefined;
}
export interface Kept {
  readonly optionIds: readonly string[];
  readonly variantId: string | null;
}
type Work<T> = (answered: (p: Project) => void) => Promise<T>;
const keysOf = (changes: readonly ValueKey[]) => changes.map(({ target, property }) => ({ target, property }));

export class ProjectSession {
  readonly queue: WriteQueue;
  private batch: PendingBatch | undefined;
  /** Cameras that a hand is moving. */
  readonly moves = new CameraMoves();
  readonly said = new SaidOfPictures();
  private readonly page = new OnPage();
  /** Somebody else's change was being read when a hand did something: it is read when that has been sent. */
  private isReadPutOff = false;
  /** What a hand does in one go. */
  private held: { readonly edits: HeldEdits; readonly release: () => void } | undefined;
  private release: (() => void) | undefined;
  private resting: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly client: QueryClient,
    private readonly projectId: string,
  ) {
    this.queue = new WriteQueue(projectId);
    this.queue.subscribe(() => {
      if (this.queue.current().kind === 'saved') this.allSent();
    });
  }
  private allSent(): void {
    this.page.settled();
    if (this.isReadPutOff) void this.readAgain();
    this.isReadPutOff = false;
  }

  private get params() {
    return { projectId: this.projectId };
  }
  private get project(): Project | undefined {
    return this.client.getQueryData<Project>(keys.project(this.projectId));
  }
  /** Puts a change on the page, after what hands have moved so far. */
  private show(change: (p: Project) => Project): boolean {
    this.flushCameras();
    return this.put(change, this.held);
  }
  private put(change: (p: Project) => Project, by?: object): boolean {
    const p = this.project;
    if (!p) return false;
    this.putOffReading();
    setProject(this.client, this.page.put(p, change, by));
    return true;
  }
  private putOffReading(): void {
    const queryKey = keys.project(this.projectId);
    if (this.client.isFetching({ queryKey, exact: true }) === 0) return;
    this.isReadPutOff = true;
    void this.client.cancelQueries({ queryKey, exact: true });
  }

  /** Everything that was done so far was sent or refused when this resolves. */
  settled(): Promise<void> {
    this.flush();
    return this.queue.settled();
  }

  // ---- pending edits

  edit(destination: string, changes: readonly Change[]): void {
    this.change(destination, changes, []);
  }
  discard(destination: string, what: readonly ValueKey[] | 'all'): void {
    this.change(destination, [], what);
  }
  private change(destination: string, set: readonly Change[], clear: readonly ValueKey[] | 'all'): void {
    const shown = this.show((p) => {
      const kept = clear === 'all' ? [] : withoutChanges(pendingOf(p, destination), clear);
      return withPending(p, destination, mergeChanges(kept, set));
    });
    if (!shown) return;
    if (this.held) {
      this.held.edits.pending(destination, set, clear);
      return;
    }
    this.addPending((batch) => batch.add(destination, set, clear));
  }
  private addPending(add: (batch: PendingBatch) => void): void {
    if (this.batch) {
      add(this.batch);
      return;
    }
    const batch = (this.batch = new PendingBatch());
    add(batch);
    void this.queue.push(() => this.sendPending(batch), true);
  }
  /** Destination after destination. One that is refused does not hold up the others. */
  private async sendPending(batch: PendingBatch): Promise<void> {
    if (this.batch === batch) this.batch = undefined; // what comes from here on goes into another
    for (let next = batch.next(); next; next = batch.next()) {
      const { destination, set, clear } = next;
      try {
        const history = await call('editPending', {
          params: this.params,
          body: { destination, set: set as never, clear: clear as never },
        });
        const p = this.project;
        if (p)
          setProject(
            this.client,
            this.page.learnt(p, (x) => ({ ...x, history })),
          );
      } catch (e) {
        if (isWorthAnotherTry(e)) throw e;
        sayError(e);
        void this.readAgain();
      }
      batch.takeOff(destination);
    }
  }

  // ---- gestures

  /**
   * A hand takes hold of something: what it changes until it ends is on the page at once, and is sent as one edit when
   * it ends, or when anything else is done. One that is cancelled has changed nothing.
   */
  beginGesture = (): Gesture => {
    this.flush();
    if (!this.project) return { end: () => undefined, cancel: () => undefined };
    const held = (this.held = { edits: new HeldEdits(), release: this.queue.hold() });
    return {
      end: () => {
        if (this.held === held) this.endGesture();
      },
      cancel: () => {
        if (this.held !== held) return;
        this.held = undefined;
        const p = this.project;
        if (p) setProject(this.client, this.page.without(p, held));
        held.release();
      },
    };
  };
  private endGesture(): void {
    const { held } = this;
    this.held = undefined;
    if (!held) return;
    for (const { destination, set, clear } of held.edits.pendingRequests())
      this.addPending((batch) => batch.add(destination, set, clear));
    for (const { ids, change } of held.edits.cameraChanges()) this.sendCameras(ids, change);
    for (const { id, change } of held.edits.oneCameraChanges()) this.sendCamera(id, change);
    held.release();
  }
  /** Hands the queue everything that hands have done so far. */
  flush(): void {
    this.flushCameras();
    this.endGesture();
  }

  // ---- what is kept and recorded

  /** undefined: it was not kept, and the person was told why. What follows is shown together with what was kept. */
  keep(destination: string, { only, as, variant }: KeepHow, follows?: (kept: Kept) => void): Promise<Kept | undefined> {
    const body = {
      destination,
      ...(only && { only: keysOf(only) }),
      ...(as && { as: [...as] }),
      ...(variant && { variant }),
    };
    return this.write(async (answered) => {
      const { project, optionIds, variantId } = await call('keepPending', { params: this.params, body });
      answered(project);
      follows?.({ optionIds, variantId });
      return { optionIds, variantId };
    });
  }
  move(from: string, to: string, only: readonly Change[] | undefined): Promise<Project | undefined> {
    const body = { from, to, ...(only && { only: keysOf(only) }) };
    return this.writeProject(() => call('movePending', { params: this.params, body }));
  }
  /** Sets and clears what is recorded. */
  recorded(destination: string, set: readonly Change[], clear: readonly ValueKey[]): Promise<Project | undefined> {
    const body = { destination, set: set as never, clear: keysOf(clear) };
    return this.writeProject(() => call('editRecorded', { params: this.params, body }));
  }

  /** Options of several facets, and on wish a variant with them in place of those of another. */
  makeOptions(
    options: readonly { readonly facet: Facet; readonly name: string; readonly changes: readonly Change[] }[],
    variant: { readonly fromVariantId: string; readonly name?: string } | undefined,
  ): Promise<Kept | undefined> {
    const body = { options: options as never, ...(variant && { variant }) };
    return this.write(async (answered) => {
      const { project, ...made } = await call('createOptions', { params: this.params, body });
      answered(project);
      return made;
    });
  }

  // ---- lights that looks add

  /** @param destination undefined: out of everything */
  removeLights(paths: readonly string[], destination: string | undefined): Promise<Project | undefined> {
    const body = { paths: [...paths], ...(destination !== undefined && { destination }) };
    return this.writeProject(() => call('removeLights', { params: this.params, body }));
  }
  /** Answers with the path that it has then. */
  renameLight(path: string, name: string): Promise<string | undefined> {
    return this.write(async (answered) => {
      const { project, path: now } = await call('renameLight', { params: this.params, body: { path, name } });
      answered(project);
      return now;
    });
  }

  // ---- cameras

  /** One edit of one or many cameras. */
  changeCameras(ids: readonly string[], change: CameraChange): void {
    if (!this.show((p) => withCameras(p, ids, change))) return;
    if (this.held) this.held.edits.cameras(ids, change);
    else this.sendCameras(ids, change);
  }
  private sendCameras(ids: readonly string[], { settings, handling, guides, own }: CameraChange): void {
    const body = {
      cameraIds: [...ids],
      ...(settings && { settings: nullsForUndefined(settings) }),
      ...(handling && { handling }),
      ...(guides && { guides }),
      ...(own && { own: own.map((x) => ({ ...x, settings: nullsForUndefined(x.settings) })) }),
    };
    void this.write(() => call('updateCameras', { params: this.params, body: body as never }), { again: true });
  }
  /**
   * A camera that goes along with the view; part of the project and sent when the hand has let go of it and it has
   * rested, or before anything else is.
   */
  moveCamera(id: string, matrix: readonly number[]): void {
    clearTimeout(this.resting);
    if (!this.project) return;
    this.moves.put(id, matrix);
    this.release ??= this.queue.hold();
  }
  cameraRested(): void {
    clearTimeout(this.resting);
    this.resting = setTimeout(() => this.flushCameras(), REST_MS);
  }
  /** Sets what only one camera can have: its place, its name. */
  setCamera(id: string, set: OneCameraChange): void {
    if (!this.show((p) => withCamera(p, id, set))) return;
    if (this.held) this.held.edits.oneCamera(id, set);
    else this.sendCamera(id, set);
  }
  private sendCamera(id: string, set: OneCameraChange): void {
    const params = { ...this.params, cameraId: id };
    void this.write(() => call('updateCamera', { params, body: set as never }), { again: true });
  }
  /** Sends at once what is still waiting for its rest. */
  flushCameras(): void {
    clearTimeout(this.resting);
    for (const [id, matrix] of this.moves.take()) {
      this.put((p) => withCameras(p, [id], { settings: { matrix } }));
      const settings = this.project?.cameras.find((c) => c.id === id)?.settings;
      const params = { ...this.params, cameraId: id };
      if (settings) void this.push(() => call('updateCamera', { params, body: { settings } }), true);
    }
    this.release?.();
    this.release = undefined;
  }

  // ---- what is said of pictures

  /** One edit, of one picture or of many; shown at once. */
  review(renderIds: readonly string[], change: ReviewChange): void {
    const confirmed = this.said.add(renderIds, change);
    const body = { renderIds: [...renderIds], change: change as never };
    const sent = this.write(() => call('review', { params: this.params, body }), { again: true });
    const queryKey = keys.reviews(this.projectId);
    void sent.then(() => this.client.refetchQueries({ queryKey, exact: true })).finally(confirmed);
  }

  /** Keeps a part of a camera's frame to be measured, or changes it. */
  keepRegion({ id: regionId, ...body }: Region): void {
    void this.write(() => call('keepRegion', { params: { ...this.params, regionId }, body }), { again: true });
  }
  dropRegion(regionId: string): void {
    void this.write(() => call('dropRegion', { params: { ...this.params, regionId } }));
  }

  /** Values of the grade for some cells alone, as one edit. */
  gradeCells(
    cells: readonly { readonly cameraId: string; readonly variantId: string }[],
    set: readonly Change[],
  ): Promise<Project | undefined> {
    const body = { cells: [...cells], set: set as never, clear: [] };
    return this.writeProject(() => call('gradeCells', { params: this.params, body }));
  }
  /** A Grade option that a variant has after those that it has. */
  gradeVariant(
    variantId: string,
    optionIds: readonly string[],
    name: string,
    changes: readonly Change[],
  ): Promise<Project | undefined> {
    return this.write(async (answered) => {
      const options = [{ facet: 'grade' as const, name, changes: changes as never }];
      const made = await call('createOptions', { params: this.params, body: { options } });
      const params = { ...this.params, variantId };
      await call('updateVariant', { params, body: { optionIds: [...optionIds, ...made.optionIds] } });
      const project = await call('getProject', { params: this.params });
      answered(project);
      return project;
    });
  }
  /** undefined: it was refused, and the person was told why. */
  bringNotes(notes: NotesFile): Promise<{ readonly brought: number; readonly unknown: number } | undefined> {
    return this.write(() => call('bringNotes', { params: this.params, body: notes }));
  }

  // ---- order

  orderCameras(ids: readonly string[]): void {
    this.show((p) => ({ ...p, cameras: inOrder(p.cameras, ids) }));
    void this.write(() => call('orderCameras', { params: this.params, body: { cameraIds: [...ids] } }), {
      again: true,
    });
  }
  orderOptions(ids: readonly string[]): void {
    this.show((p) => {
      const named = inOrder(
        p.options.filter((o) => ids.includes(o.id)),
        ids,
      );
      return { ...p, options: p.options.map((o) => (ids.includes(o.id) ? named.shift()! : o)) };
    });
    void this.write(() => call('orderOptions', { params: this.params, body: { optionIds: [...ids] } }), {
      again: true,
    });
  }
  orderVariants(ids: readonly string[]): void {
    this.show((p) => ({ ...p, variants: inOrder(p.variants, ids) }));
    void this.write(() => call('orderVariants', { params: this.params, body: { variantIds: [...ids] } }), {
      again: true,
    });
  }

  // ---- history

  /** What was undone or redone, in words; undefined: nothing was, and the person was told why. */
  async turn(way: 'undo' | 'redo'): Promise<string | undefined> {
    return this.write(async (answered) => {
      const { label, project } = await call(way, { params: this.params });
      answered(project);
      return label;
    });
  }
  goToStep(stepId: string): Promise<Project | undefined> {
    return this.writeProject(() => call('goToStep', { params: { ...this.params, stepId } }));
  }

  // ---- anything else

  /**
   * Writes in turn; afterwards the board is read again. undefined: it was refused, and the person was told why.
   * @param work is given what takes the project that the server answers with: it may hold nothing of what was done
   *   since the work was begun, which stays on the page
   * @param again whether sending it twice is as good as once: then it waits for a server that does not answer
   */
  async write<T>(work: Work<T>, { again = false } = {}): Promise<T | undefined> {
    this.flush();
    return this.push(work, again);
  }
  /** Writes in turn what answers with the project. */
  writeProject(work: () => Promise<Project>): Promise<Project | undefined> {
    return this.write(async (answered) => {
      const project = await work();
      answered(project);
      return project;
    });
  }

  private async push<T>(work: Work<T>, again: boolean): Promise<T | undefined> {
    this.batch = undefined; // edits made from here on come after this
    const asked = this.page.now();
    const answered = (p: Project) => setProject(this.client, this.page.answered(p, asked));
    try {
      const answer = await this.queue.push(() => work(answered), again);
      void this.client.invalidateQueries({ queryKey: keys.board(this.projectId) });
      return answer;
    } catch (e) {
      sayError(e);
      void this.readAgain(); // what was shown meanwhile may not be so
      return undefined;
    }
  }
  /** The project as the server has it now, on the page when this resolves. */
  readAgain(): Promise<void> {
    return this.client.invalidateQueries({ queryKey: keys.project(this.projectId) });
  }
}

const isWorthAnotherTry = (e: unknown): boolean => (e as { code?: unknown }).code === 'UNREACHABLE';

const sessions = new WeakMap<QueryClient, Map<string, ProjectSession>>();
/** The one session of a project in this window. */
export function sessionOf(client: QueryClient, projectId: string): ProjectSession {
  const known = sessions.get(client) ?? new Map<string, ProjectSession>();
  sessions.set(client, known);
  const session = known.get(projectId) ?? new ProjectSession(client, projectId);
  known.set(projectId, session);
  return session;
}

export const useSession = (projectId: string): ProjectSession => sessionOf(useQueryClient(), projectId);
export function useQueueState(session: ProjectSession): QueueState {
  return useSyncExternalStore(session.queue.subscribe, session.queue.current);
}
