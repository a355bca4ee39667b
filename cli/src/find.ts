// Projects, cameras and variants by what people call them.
import type { BoardCell, CellStatus, Project, ProjectSummary } from '@variscen/contract';
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
}
export interface FoundCell {
  readonly cell: BoardCell;
  readonly camera: string;
  readonly variant: string;
}
/** Cells of a project that are wished for, camera by camera. @param profileId by which a cell is up to date; null: any */
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
    const isWished = camera !== undefined && variant !== undefined && wish.status.includes(cell.status);
    return isWished ? [{ cell, camera, variant }] : [];
  });
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
