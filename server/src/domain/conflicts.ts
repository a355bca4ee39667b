// Whether two edits touch the same: the same column of the same row or, in lists of changes, the same value of the same
// thing.
import { type Change, keyOf, sameValue } from '@variscen/core/looks';

export type Image = Readonly<Record<string, unknown>>;
/** A row as it was and as it is; null: not there. */
export interface RowEdit {
  readonly table: string;
  readonly key: string;
  readonly before: Image | null;
  readonly after: Image | null;
}

/** Columns that hold lists of changes. In a table of such lists a row that is not there is an empty list. */
const CHANGE_LISTS: ReadonlySet<string> = new Set(['changes', 'base']);
const ONLY_LISTS: ReadonlySet<string> = new Set(['pending', 'patch']);

export function clash(mine: RowEdit, theirs: RowEdit): boolean {
  if (mine.table !== theirs.table || mine.key !== theirs.key) return false;
  const a = parts(mine);
  const b = parts(theirs);
  if (a === 'whole' || b === 'whole') return true;
  return [...a].some(([part, is]) => b.has(part) && b.get(part) !== is);
}

/** What an edit changed in a row, each with what it became; the whole row where it came or went. */
function parts({ table, before, after }: RowEdit): 'whole' | Map<string, string> {
  if ((!before || !after) && !ONLY_LISTS.has(table)) return 'whole';
  const out = new Map<string, string>();
  for (const column of Object.keys(after ?? before ?? {})) {
    const was = before?.[column];
    const is = after?.[column];
    if (CHANGE_LISTS.has(column))
      for (const [key, value] of changedValues((was as Change[] | undefined) ?? [], (is as Change[] | undefined) ?? []))
        out.set(`${column} ${key}`, value);
    else if (before && after && JSON.stringify(was) !== JSON.stringify(is)) out.set(column, JSON.stringify(is));
  }
  return out;
}
function changedValues(was: readonly Change[], is: readonly Change[]): Map<string, string> {
  const old = new Map(was.map((c) => [keyOf(c.target, c.property), c.value]));
  const now = new Map(is.map((c) => [keyOf(c.target, c.property), c.value]));
  const out = new Map<string, string>();
  for (const key of new Set([...old.keys(), ...now.keys()]))
    if (!sameValue(old.get(key), now.get(key))) out.set(key, JSON.stringify(now.get(key) ?? null));
  return out;
}
