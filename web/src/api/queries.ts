// What the interface asks for, kept fresh by the server's events.
import { type Board, type Project, type ServerEvent, eventSchema } from '@variscen/contract';
import { SceneIndex } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import { type QueryClient, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { asset } from './assets.ts';
import { TAB, call, pathOf } from './client.ts';
import { sayError } from '../ui/notify.ts';
import { tell } from '../ui/desktopNote.ts';
import { useProgress } from './progress.ts';
import { readSettled } from '../session/writes.ts';

export const keys = {
  projects: ['projects'],
  library: ['library'],
  project: (id: string) => ['project', id],
  board: (id: string) => ['board', id],
  cellCounts: (id: string) => ['board', id, 'counts'],
  rendered: (id: string) => ['board', id, 'rendered'],
  reviews: (id: string) => ['board', id, 'reviews'],
  references: (id: string) => ['board', id, 'references'],
  regions: (id: string) => ['board', id, 'regions'],
  queue: ['queue'],
  profiles: ['profiles'],
  scene: (hash: string) => ['scene', hash],
} as const;

export const useProjects = () => useQuery({ queryKey: keys.projects, queryFn: () => call('listProjects', {}) });
export const useProject = (id: string) =>
  useQuery({
    queryKey: keys.project(id),
    enabled: id !== '',
    queryFn: ({ signal }) => readSettled(id, () => call('getProject', { params: { projectId: id }, signal }), signal),
  });
/** @param profileId null: cells by their latest render, whatever its profile */
export const useBoard = (id: string, profileId: string | null = null) =>
  useQuery({
    queryKey: profileId === null ? keys.board(id) : [...keys.board(id), profileId],
    // of the same project: what is shown stays until the other profile's has come
    placeholderData: (before: Board | undefined, query) => (query?.queryKey[1] === id ? before : undefined),
    queryFn: () => call('board', { params: { projectId: id }, ...(profileId !== null && { query: { profileId } }) }),
  });
/** How much of a project is up to date; asked for once it is in sight. */
export const useCellCounts = (id: string, isInSight: boolean) =>
  useQuery({
    queryKey: keys.cellCounts(id),
    enabled: isInSight,
    queryFn: () => call('cellCounts', { params: { projectId: id } }),
  });
/** Every picture of a project, newest first. */
export const useRendered = (id: string) =>
  useQuery({ queryKey: keys.rendered(id), queryFn: () => call('rendered', { params: { projectId: id } }) });
export const useKnownReviews = (id: string) =>
  useQuery({ queryKey: keys.reviews(id), queryFn: () => call('reviews', { params: { projectId: id } }) });
/** Pictures of others that are open in a project. */
export const useReferences = (id: string) =>
  useQuery({ queryKey: keys.references(id), queryFn: () => call('references', { params: { projectId: id } }) });
/** Parts of cameras' frames that are measured in all of their pictures. */
export const useRegions = (id: string) =>
  useQuery({ queryKey: keys.regions(id), queryFn: () => call('regions', { params: { projectId: id } }) });
/** What is known of a picture; only cleaning up changes it. */
export const useRenderAbout = (renderId: string | undefined) =>
  useQuery({
    queryKey: ['render', renderId],
    enabled: renderId !== undefined,
    staleTime: Infinity,
    queryFn: () => call('render', { params: { renderId: renderId! } }),
  });
export const useLibrary = () => useQuery({ queryKey: keys.library, queryFn: () => call('listLibrary', {}) });
/** Memory and speed change by the second. */
const NODES_EVERY_MS = 2000;
const nodesQuery = {
  queryKey: [...keys.queue, 'nodes'],
  queryFn: () => call('nodes', {}),
  refetchInterval: NODES_EVERY_MS,
};
export const useNodes = () => useQuery(nodesQuery);
/** Whether the node of this machine renders for the queue. Who asks is drawn anew when that changes alone. */
export const useOwnNodeRenders = (): boolean =>
  useQuery({ ...nodesQuery, select: (nodes) => nodes.some((n) => n.isOwn && n.state === 'rendering') }).data ?? false;
export const useQueue = () => useQuery({ queryKey: keys.queue, queryFn: () => call('queue', {}) });
const OPEN_PAGE = 100;
/** What renders and what waits, in its order. */
export const useOpenTraces = () =>
  useInfiniteQuery({
    queryKey: [...keys.queue, 'open'],
    initialPageParam: 0,
    queryFn: ({ pageParam, signal }) =>
      call('openTraces', { query: { offset: String(pageParam), limit: String(OPEN_PAGE) }, signal }),
    getNextPageParam: (last, all) => (last.length === OPEN_PAGE ? all.length * OPEN_PAGE : null),
  });
export const useProfiles = () =>
  useQuery({ queryKey: keys.profiles, queryFn: () => call('profiles', {}), staleTime: Infinity });
export const useEnvironments = () =>
  useQuery({ queryKey: ['environments'], queryFn: () => call('listEnvironments', {}) });
export const useScene = (hash: string | undefined) =>
  useQuery({
    queryKey: keys.scene(hash ?? ''),
    enabled: hash !== undefined,
    staleTime: Infinity,
    structuralSharing: false,
    queryFn: async () => new SceneIndex(JSON.parse(new TextDecoder().decode(await asset(hash!))) as SceneDocument),
  });

/** Listens to the server until it is closed; on a reconnect everything is asked for again. */
export function listen(client: QueryClient, onConnected: () => void = () => undefined): () => void {
  const source = new EventSource(pathOf('events'));
  let opened = false;
  source.onopen = () => {
    if (opened) void client.invalidateQueries();
    onConnected();
    opened = true;
  };
  source.onmessage = (m: MessageEvent<string>) => {
    const e: ServerEvent = eventSchema.parse(JSON.parse(m.data));
    if (e.type === 'projects') void client.invalidateQueries({ queryKey: keys.projects });
    else if (e.type === 'library') {
      void client.invalidateQueries({ queryKey: keys.library });
      void client.invalidateQueries({ queryKey: keys.profiles });
    } else if (e.type === 'queue') void client.invalidateQueries({ queryKey: keys.queue });
    // what this window has pending it knows already
    else if (e.type === 'pending') {
      if (e.tab !== TAB) void client.invalidateQueries({ queryKey: keys.project(e.projectId) });
    } else if (e.type === 'project') {
      void client.invalidateQueries({ queryKey: keys.project(e.projectId) });
      void client.invalidateQueries({ queryKey: keys.board(e.projectId) });
    } else if (e.type === 'develop-failed') sayError(new Error(e.message));
    else if (e.type === 'batch-ended') tell('A batch has ended', e.text, e.batchId);
    else useProgress.getState().take(e);
  };
  return () => source.close();
}
export const setProject = (client: QueryClient, p: Project): void => {
  client.setQueryData(keys.project(p.id), p);
};
