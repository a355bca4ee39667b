// What the review place shows: which pictures, which of them is looked at, which are held beside it. All of it is part
// of the address, so that a link and the next morning open the same.
import type { Region, Project, Reference, ReviewChange } from '@variscen/contract';
import { useCallback, useEffect, useMemo } from 'react';
import { useRegions, useReferences, useRendered } from '../../api/queries.ts';
import {
  type Listed,
  type Scope,
  type ShownVerdicts,
  inScope,
  isShown,
  listed,
  scopeFromAddress,
  scopeInAddress,
  shownFromAddress,
  versionsOf,
} from '../../model/review/strip.ts';
import { type Subject, subjectOf, subjectOfReference } from '../../model/review/subject.ts';
import { useSession } from '../../session/projectSession.ts';
import { useReviews } from '../../session/useReviews.ts';
import { useAddress } from '../../ui/address.ts';

export const MODES = ['one', 'beside', 'flip', 'wipe', 'difference'] as const;
export type Mode = (typeof MODES)[number];
/** Beside the one that is looked at. */
export const MOST_HELD = 3;
const NO_REFERENCES: readonly Reference[] = [];
const NO_REGIONS: readonly Region[] = [];

export interface ReviewState {
  readonly isReady: boolean;
  readonly scope: Scope;
  readonly shown: ShownVerdicts;
  /** Of the whole project, newest first. */
  readonly all: readonly Listed[];
  /** Those that are gone through. */
  readonly entries: readonly Listed[];
  readonly current: Listed | undefined;
  /** Of the current one, newest first. */
  readonly versions: readonly Listed[];
  /** Without the current one. */
  readonly held: readonly Subject[];
  /** Pictures of others that are open. */
  readonly references: readonly Reference[];
  /** Of the current one's camera, in the order in which they were kept. */
  readonly regions: readonly Region[];
  /** The current one may be among them. */
  readonly heldIds: readonly string[];
  readonly mode: Mode;
  readonly layer: string;
  put(set: Readonly<Record<string, string | null>>): void;
  setScope(scope: Scope): void;
  look(renderId: string): void;
  step(by: number): void;
  /** 1: a newer version. */
  stepVersion(by: number): void;
  /** @param how it is compared from now on; undefined: as before */
  hold(id: string, isHeld: boolean, how?: Mode): void;
  say(renderIds: readonly string[], change: ReviewChange): void;
  keepRegion(region: Region): void;
  dropRegion(regionId: string): void;
}

export function useReview(project: Project): ReviewState {
  const [search, put] = useKeptAddress(project.id);
  const session = useSession(project.id);
  const { data: rendered } = useRendered(project.id);
  const reviews = useReviews(project.id);
  const all = useMemo(() => listed(project, rendered ?? [], reviews), [project, rendered, reviews]);
  const scopeText = search.get('of');
  const scope = useMemo(() => scopeFromAddress(scopeText), [scopeText]);
  const shown = shownFromAddress(search.get('show'));
  const at = search.get('at');
  const entries = useMemo(
    // what is looked at stays until somebody goes on, though a verdict may have put it elsewhere
    () => inScope(all, scope, project).filter((l) => isShown(l, shown) || l.rendered.id === at),
    [all, scope, project, shown, at],
  );
  const current = entries.find((l) => l.rendered.id === at) ?? all.find((l) => l.rendered.id === at) ?? entries[0];
  const versions = useMemo(() => (current ? versionsOf(all, current) : []), [all, current]);
  const { data: references = NO_REFERENCES } = useReferences(project.id);
  const { data: kept = NO_REGIONS } = useRegions(project.id);
  const cameraId = current?.camera.id;
  const regions = useMemo(() => kept.filter((p) => p.cameraId === cameraId), [kept, cameraId]);
  const byId = useCallback(
    (id: string): Subject | undefined => {
      const entry = all.find((l) => l.rendered.id === id);
      if (entry) return subjectOf(entry);
      const reference = references.find((r) => r.id === id);
      return reference && subjectOfReference(reference);
    },
    [all, references],
  );
  const heldText = search.get('with') ?? '';
  const held = useMemo(
    () =>
      heldText
        .split(',')
        .flatMap((id) => byId(id) ?? [])
        .filter((s) => s.id !== current?.rendered.id)
        .slice(0, MOST_HELD),
    [heldText, byId, current],
  );
  const look = (renderId: string) => put({ at: renderId });
  return {
    isReady: rendered !== undefined,
    scope,
    shown,
    all,
    entries,
    current,
    versions,
    held,
    references,
    regions,
    heldIds: heldText.split(',').filter(Boolean),
    mode: MODES.find((m) => m === search.get('how')) ?? 'one',
    layer: search.get('layer') ?? 'picture',
    put,
    setScope: (next) => put({ of: scopeInAddress(next), at: null }),
    look,
    step: (by) => {
      const next = entries[stepped(entries, current, by)];
      if (next) look(next.rendered.id);
    },
    stepVersion: (by) => {
      const next = versions[stepped(versions, current, -by)];
      if (next) look(next.rendered.id);
    },
    hold: (renderId, isHeld, how) => {
      const others = heldText.split(',').filter((id) => id !== renderId && byId(id));
      const next = isHeld ? [...others, renderId].slice(-MOST_HELD) : others;
      put({ with: next.join(',') || null, ...(how && { how }) });
    },
    say: (renderIds, change) => session.review(renderIds, change),
    keepRegion: (region) => session.keepRegion(region),
    dropRegion: (regionId) => session.dropRegion(regionId),
  };
}

const stepped = (list: readonly Listed[], current: Listed | undefined, by: number): number =>
  Math.min(list.length - 1, Math.max(0, list.findIndex((l) => l === current) + by));

const keyOf = (projectId: string): string => `variscen.review.${projectId}`;
/** An address that says nothing is as it was when one stopped. */
function useKeptAddress(projectId: string): ReturnType<typeof useAddress> {
  const [search, put] = useAddress();
  const text = search.toString();
  const kept = text ? null : localStorage.getItem(keyOf(projectId));
  useEffect(() => {
    if (text) localStorage.setItem(keyOf(projectId), text);
    else if (kept) put(Object.fromEntries(new URLSearchParams(kept)));
  }, [text, kept, projectId, put]);
  const shown = useMemo(() => (kept ? new URLSearchParams(kept) : search), [kept, search]);
  return [
    shown,
    useCallback((set) => put(kept ? { ...Object.fromEntries(new URLSearchParams(kept)), ...set } : set), [put, kept]),
  ];
}
