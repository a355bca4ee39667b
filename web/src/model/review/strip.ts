// Which pictures are gone through, in which order.
import type { Project, Rendered, Review } from '@variscen/contract';
import { cellKey, splitKey } from '../selectedCells.ts';

export const SHOWN = ['all', 'open', 'approved', 'rejected', 'noted'] as const;
export type ShownVerdicts = (typeof SHOWN)[number];
export type Scope =
  | { readonly kind: 'latest' }
  /** Of each cell the newest version that is approved. */
  | { readonly kind: 'approved' }
  | { readonly kind: 'camera' | 'variant' | 'batch'; readonly id: string }
  /** Every version of a cell. */
  | { readonly kind: 'versions'; readonly cell: string }
  /** The latest of some cells. */
  | { readonly kind: 'cells'; readonly cells: readonly string[] };

/** A picture among others. */
export interface Listed {
  readonly rendered: Rendered;
  readonly camera: Project['cameras'][number];
  readonly variant: Project['variants'][number];
  /** null: nobody has said anything. */
  readonly review: Review | null;
  /** Of its cell, or of its frame. */
  readonly isLatest: boolean;
  /** The newest of its cell, or of its frame, that is approved. */
  readonly isApproved: boolean;
}
export type PicturesOf = Pick<Project, 'cameras' | 'variants'>;

/** All pictures of cameras and variants that are there, newest first. */
export function listed(
  { cameras, variants }: PicturesOf,
  rendered: readonly Rendered[],
  reviews: ReadonlyMap<string, Review>,
): Listed[] {
  const camera = new Map(cameras.map((c) => [c.id, c]));
  const variant = new Map(variants.map((v) => [v.id, v]));
  const newest = new Map<string, number>();
  const approved = new Map<string, number>();
  const keyOf = (r: Rendered) => `${cellKey(r.cameraId, r.variantId)} ${r.frame ?? ''}`;
  const raise = (to: Map<string, number>, r: Rendered) => to.set(keyOf(r), Math.max(r.version, to.get(keyOf(r)) ?? 0));
  for (const r of rendered) {
    raise(newest, r);
    if (reviews.get(r.id)?.verdict === 'approved') raise(approved, r);
  }
  return rendered.flatMap((r) => {
    const [c, v] = [camera.get(r.cameraId), variant.get(r.variantId)];
    if (!c || !v) return [];
    return [
      {
        rendered: r,
        camera: c,
        variant: v,
        review: reviews.get(r.id) ?? null,
        isLatest: newest.get(keyOf(r)) === r.version,
        isApproved: approved.get(keyOf(r)) === r.version,
      },
    ];
  });
}

/** Pictures of a scope, as the board has them: camera after camera, variant after variant; versions newest first. */
export function inScope(all: readonly Listed[], scope: Scope, { cameras, variants }: PicturesOf): Listed[] {
  const place = (list: readonly { id: string }[]) => new Map(list.map((x, i) => [x.id, i]));
  const [row, column] = [place(cameras), place(variants)];
  const order = (l: Listed) => row.get(l.camera.id)! * variants.length + column.get(l.variant.id)!;
  const frame = (l: Listed) => l.rendered.frame ?? -1;
  return all
    .filter((l) => isIn(l, scope))
    .sort((a, b) => order(a) - order(b) || frame(a) - frame(b) || b.rendered.version - a.rendered.version);
}
function isIn({ rendered, camera, variant, isLatest, isApproved }: Listed, scope: Scope): boolean {
  const key = cellKey(camera.id, variant.id);
  switch (scope.kind) {
    case 'latest':
      return isLatest;
    case 'approved':
      return isApproved;
    case 'camera':
      return isLatest && camera.id === scope.id;
    case 'variant':
      return isLatest && variant.id === scope.id;
    case 'batch':
      return rendered.batchId === scope.id;
    case 'versions':
      return key === scope.cell;
    case 'cells':
      return isLatest && scope.cells.includes(key);
  }
}

export function isShown({ review }: Pick<Listed, 'review'>, shown: ShownVerdicts): boolean {
  switch (shown) {
    case 'all':
      return true;
    case 'open':
      return !review?.verdict;
    case 'noted':
      return review !== null && (review.note !== '' || review.marks.length > 0);
    default:
      return review?.verdict === shown;
  }
}

/** Other versions of a picture's cell and frame, newest first, itself among them. */
export const versionsOf = (all: readonly Listed[], { camera, variant, rendered }: Listed): Listed[] =>
  all
    .filter((l) => l.camera.id === camera.id && l.variant.id === variant.id && l.rendered.frame === rendered.frame)
    .sort((a, b) => b.rendered.version - a.rendered.version);

/** What was asked of versions before this one, the last first. */
export const askedBefore = (versions: readonly Listed[], { rendered }: Listed): Listed[] =>
  versions.filter((l) => l.rendered.version < rendered.version && isShown(l, 'noted'));

// ---- in an address

export function scopeInAddress(scope: Scope): string | null {
  switch (scope.kind) {
    case 'latest':
      return null;
    case 'approved':
      return 'approved';
    case 'versions':
      return `versions:${scope.cell.replace(' ', '.')}`;
    case 'cells':
      return `cells:${scope.cells.map((c) => c.replace(' ', '.')).join('_')}`;
    default:
      return `${scope.kind}:${scope.id}`;
  }
}
/** What is not understood is the latest of every cell. */
export function scopeFromAddress(text: string | null): Scope {
  const [kind = '', rest = ''] = (text ?? '').split(':');
  const cell = (s: string) => s.replace('.', ' ');
  if (kind === 'approved') return { kind };
  if (kind === 'camera' || kind === 'variant' || kind === 'batch') return { kind, id: rest };
  if (kind === 'versions' && isCell(cell(rest))) return { kind, cell: cell(rest) };
  const cells = rest.split('_').map(cell).filter(isCell);
  return kind === 'cells' && cells.length ? { kind, cells } : { kind: 'latest' };
}
const isCell = (key: string): boolean => {
  const { cameraId, variantId } = splitKey(key);
  return Boolean(cameraId && variantId);
};
export const shownFromAddress = (text: string | null): ShownVerdicts => SHOWN.find((s) => s === text) ?? 'all';
