// Selected cells in a link: by the beginnings of ids, so that reordering rows or columns does not select others.
//   1a2b3c4d.5e6f7a8b-9c0d1e2f_…   camera . variants _ camera …;  1a2b3c4d.all: the whole row
import { type Grid, cellKey, splitKey } from './selectedCells.ts';

const LENGTH = 8;
const ALL = 'all';
const short = (id: string): string => id.slice(0, LENGTH);

export function cellsToAddress(keys: Iterable<string>, { rows, columns }: Pick<Grid, 'rows' | 'columns'>): string {
  const byRow = new Map<string, Set<string>>();
  for (const { cameraId, variantId } of [...keys].map(splitKey)) {
    if (!rows.includes(cameraId) || !columns.includes(variantId)) continue;
    byRow.set(cameraId, (byRow.get(cameraId) ?? new Set()).add(variantId));
  }
  return rows
    .filter((id) => byRow.has(id))
    .map((id) => {
      const selected = columns.filter((v) => byRow.get(id)!.has(v));
      return `${short(id)}.${selected.length === columns.length ? ALL : selected.map(short).join('-')}`;
    })
    .join('_');
}

/** Cells that are no longer there are left out. */
export function cellsFromAddress(text: string, { rows, columns }: Pick<Grid, 'rows' | 'columns'>): string[] {
  return text.split('_').flatMap((row) => {
    const [camera = '', variants = ''] = row.split('.');
    const cameraId = rows.find((id) => camera && short(id) === camera);
    if (cameraId === undefined) return [];
    const named = variants.split('-');
    const selected = variants === ALL ? columns : columns.filter((id) => named.includes(short(id)));
    return selected.map((variantId) => cellKey(cameraId, variantId));
  });
}
