// Cameras on the page and on the server: a change shows at once; what navigating gives is sent when it rests.
import type { QueryClient } from '@tanstack/react-query';
import type { Camera, Project } from '@variscen/contract';
import type { CameraHandling, CameraSettings } from '@variscen/core/scene';
import { call } from '../api/client.ts';
import { keys, setProject } from '../api/queries.ts';
import { beginWrite } from './writes.ts';
import { sayError } from '../ui/notify.ts';

const REST_MS = 300;
export interface CameraChange {
  readonly settings?: Partial<CameraSettings>;
  readonly handling?: Partial<CameraHandling>;
}

export class CameraWriter {
  private readonly moved = new Set<string>();
  private resting: ReturnType<typeof setTimeout> | undefined;
  private sending: Promise<void> = Promise.resolve();
  constructor(
    private readonly client: QueryClient,
    private readonly projectId: string,
  ) {}

  private get project(): Project | undefined {
    return this.client.getQueryData<Project>(keys.project(this.projectId));
  }

  /** One edit of one or many cameras. An undefined setting clears it. */
  change(ids: readonly string[], { settings, handling }: CameraChange): void {
    if (!this.show(ids, { ...(settings && { settings }), ...(handling && { handling }) })) return;
    const body = { cameraIds: [...ids], ...(settings && { settings: nulls(settings) }), ...(handling && { handling }) };
    this.send(() => call('updateCameras', { params: { projectId: this.projectId }, body: body as never }));
  }
  /** A camera that goes along with the view; written when the hand has let go of it and it has rested. */
  move(id: string, matrix: readonly number[]): void {
    clearTimeout(this.resting);
    if (this.show([id], { settings: { matrix } })) this.moved.add(id);
  }
  rested(): void {
    clearTimeout(this.resting);
    this.resting = setTimeout(() => this.flush(), REST_MS);
  }
  /** Sets what only one camera can have: its place, its name. */
  set(id: string, change: { readonly name?: string; readonly settings?: CameraSettings }): void {
    const p = this.project;
    const camera = p?.cameras.find((c) => c.id === id);
    if (!p || !camera) return;
    setProject(this.client, {
      ...p,
      cameras: p.cameras.map((c) =>
        c.id === id
          ? {
              ...c,
              ...(change.name !== undefined && { name: change.name }),
              ...(change.settings && { settings: change.settings as Camera['settings'] }),
            }
          : c,
      ),
    });
    this.send(() =>
      call('updateCamera', { params: { projectId: this.projectId, cameraId: id }, body: change as never }),
    );
  }
  /** Sends at once what is still waiting for its rest. */
  flush(): void {
    clearTimeout(this.resting);
    for (const id of this.moved) {
      const camera = this.project?.cameras.find((c) => c.id === id);
      if (camera)
        this.send(() =>
          call('updateCamera', {
            params: { projectId: this.projectId, cameraId: id },
            body: { settings: camera.settings },
          }),
        );
    }
    this.moved.clear();
  }
  private show(ids: readonly string[], set: CameraChange): boolean {
    const p = this.project;
    if (!p) return false;
    void this.client.cancelQueries({ queryKey: keys.project(this.projectId) });
    setProject(this.client, {
      ...p,
      cameras: p.cameras.map((c) =>
        ids.includes(c.id)
          ? {
              ...c,
              settings: clean({ ...c.settings, ...set.settings }) as Camera['settings'],
              handling: { ...c.handling, ...set.handling } as Camera['handling'],
            }
          : c,
      ),
    });
    return true;
  }
  private send(work: () => Promise<unknown>): void {
    const written = beginWrite(this.projectId);
    this.sending = this.sending
      .then(work)
      .finally(written)
      .then(
        () => undefined,
        (e: unknown) => {
          sayError(e);
          void this.client.invalidateQueries({ queryKey: keys.project(this.projectId) });
        },
      );
    void this.sending.then(() => this.client.invalidateQueries({ queryKey: keys.board(this.projectId) }));
  }
}
const clean = (s: object): object => Object.fromEntries(Object.entries(s).filter(([, v]) => v !== undefined));
const nulls = (s: object): object =>
  Object.fromEntries(Object.entries(s).map(([k, v]) => [k, v === undefined ? null : (v as unknown)]));
