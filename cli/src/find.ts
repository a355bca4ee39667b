// Projects, cameras and variants by what people call them.
import type { BoardCell, CellFrame, CellStatus, PlanRequest, Project, ProjectSummary } from '@variscen/contract';
import type { Api } from './api.ts';
import { CommandError, EXIT } from './exit.ts';

/** By its name, whatever the case of its letters, or its id. @throws CommandError where it is none or several */
export async function findProject(api: Api, called: string): Promise<Project> {
  const { id } = oneOf(await api.call('listProjects', {}), called, 'project');
  return api.call('getProject', { params: { projectId: id } });
}

export function oneOf<T extends { readonly id: string; readonly name: string }>(
  things: readonly T[],
  called: string,
  what: string,
): T {
  const exact = things.filter((x) => x.id === called || x.name === called);
  const found = exact.length ? exact : things.filter((x) => x.name.toLowerCase() === called.toLowerCase());
  if (found.length === 1) return found[0]!;
  if (found.length > 1)
    throw new CommandError(EXIT.USAGE, `There are ${found.length} ${what}s called “${called}”. Give the id of one.`);
  const known = things.map((x) => `“${x.name}”`).join(', ');
  throw new CommandError(
    EXIT.USAGE,
    `There is no ${what} called “${called}”. ${known ? `There are ${known}.` : 'There is none.'}`,
  );
}

export interface CellWish {
  readonly camera: readonly string[];
  readonly variant: readonly string[];
  readonly status: readonly CellStatus[];
  /** Of sequences; absent: all. */
  readonly frames?: readonly number[];
}
export interface FoundCell {
  readonly cell: BoardCell;
  readonly camera: string;
  readonly variant: string;
}
/**
 * Cells of a project that are wished for, camera by camera.
 * @param profileId by which a cell is up to date; null: any
 */
export async function findCells(api: Api, p: Project, wish: CellWish, profileId: string | null): Promise<FoundCell[]> {
  const cameras = namesOf(p.cameras, wish.camera, 'camera');
  const variants = namesOf(p.variants, wish.variant, 'variant');
  const board = await api.call('board', {
    params: { projectId: p.id },
    ...(profileId !== null && { query: { profileId } }),
  });
  return board.cells.flatMap((cell): FoundCell[] => {
    const camera = cameras.get(cell.cameraId);
    const variant = variants.get(cell.variantId);
    const isWished = camera !== undefined && variant !== undefined && isIn(cell, wish.status);
    return isWished ? [{ cell, camera, variant }] : [];
  });
}
/** Whether it is in one of these states; a sequence, whether one of its frames is. */
function isIn({ status, frames }: BoardCell, states: readonly CellStatus[]): boolean {
  if (!frames || status === 'excluded') return states.includes(status);
  return states.some((s) => s !== 'excluded' && frames[s] > 0);
}
/**
 * What is to be rendered of cells: of sequences the frames in the states that are wished for, and among those that are
 * named.
 */
export async function wantedOf(
  api: Api,
  projectId: string,
  cells: readonly FoundCell[],
  { status, frames: named }: Pick<CellWish, 'status' | 'frames'>,
  profileId: string,
): Promise<PlanRequest['cells']> {
  const wanted: PlanRequest['cells'] = [];
  for (const { cell } of cells) {
    const { cameraId, variantId } = cell;
    if (!cell.frames) {
      wanted.push({ cameraId, variantId });
      continue;
    }
    const all = await api.call('cellFrames', { params: { projectId, cameraId, variantId }, query: { profileId } });
    const isWished = (f: CellFrame) => status.includes(f.status) && (!named || named.includes(f.frame));
    const frames = all.filter(isWished).map((f) => f.frame);
    if (frames.length) wanted.push({ cameraId, variantId, frames });
  }
  return wanted;
}

/** Names by id: of those that were named, or of all. */
function namesOf(
  things: readonly { readonly id: string; readonly name: string }[],
  named: readonly string[],
  what: string,
): Map<string, string> {
  const wished = named.length ? named.map((n) => oneOf(things, n, what)) : things;
  return new Map(wished.map((x) => [x.id, x.name]));
}

export const projectRow = (p: ProjectSummary): (string | number)[] => [
  p.name,
  p.cameras,
  p.variants,
  p.renders,
  p.hasScene ? 'scene' : 'no scene',
  p.id,
];
