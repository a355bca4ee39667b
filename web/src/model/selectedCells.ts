// Which cells are selected on the board, and where the keyboard stands. Pure, so that the rules of selecting are tested
// alone.
export interface Grid {
  readonly rows: readonly string[];
  readonly columns: readonly string[];
  readonly selectable: (key: string) => boolean;
}
export interface SelectedCells {
  readonly keys: ReadonlySet<string>;
  readonly cursor: string | null;
  readonly anchor: string | null;
}
export const NOTHING: SelectedCells = { keys: new Set(), cursor: null, anchor: null };

export const cellKey = (cameraId: string, variantId: string): string => `${cameraId} ${variantId}`;
export const splitKey = (key: string): { cameraId: string; variantId: string } => {
  const [cameraId = '', variantId = ''] = key.split(' ');
  return { cameraId, variantId };
};

export type Act =
  | { readonly type: 'only' | 'toggle' | 'range'; readonly key: string }
  | { readonly type: 'row' | 'column'; readonly id: string; readonly add: boolean }
  | { readonly type: 'these'; readonly keys: readonly string[] }
  | { readonly type: 'move'; readonly dx: number; readonly dy: number; readonly extend: boolean }
  | { readonly type: 'none' };

export function select(s: SelectedCells, act: Act, g: Grid): SelectedCells {
  const fit = (keys: Iterable<string>) => new Set([...keys].filter(g.selectable));
  switch (act.type) {
    case 'none':
      return { ...s, keys: new Set() };
    case 'these':
      return { ...s, keys: fit(act.keys) };
    case 'only':
      return { keys: fit([act.key]), cursor: act.key, anchor: act.key };
    case 'toggle': {
      const keys = new Set(s.keys);
      if (!keys.delete(act.key) && g.selectable(act.key)) keys.add(act.key);
      return { keys, cursor: act.key, anchor: act.key };
    }
    case 'range':
      return {
        keys: fit([...s.keys, ...between(s.anchor ?? act.key, act.key, g)]),
        cursor: act.key,
        anchor: s.anchor ?? act.key,
      };
    case 'row':
    case 'column': {
      const all = fit(
        act.type === 'row' ? g.columns.map((v) => cellKey(act.id, v)) : g.rows.map((c) => cellKey(c, act.id)),
      );
      const whole = [...all].every((k) => s.keys.has(k));
      const keys = new Set(act.add ? s.keys : []);
      for (const k of all)
        if (act.add && whole) keys.delete(k);
        else keys.add(k);
      return { ...s, keys };
    }
    case 'move': {
      const at = s.cursor ? splitKey(s.cursor) : null;
      const x = at ? g.columns.indexOf(at.variantId) : 0;
      const y = at ? g.rows.indexOf(at.cameraId) : 0;
      const nx = Math.min(g.columns.length - 1, Math.max(0, x + (at ? act.dx : 0)));
      const ny = Math.min(g.rows.length - 1, Math.max(0, y + (at ? act.dy : 0)));
      const row = g.rows[ny];
      const column = g.columns[nx];
      if (row === undefined || column === undefined) return s;
      const key = cellKey(row, column);
      return act.extend
        ? select({ ...s, anchor: s.anchor ?? s.cursor ?? key }, { type: 'range', key }, g)
        : { ...s, cursor: key, anchor: key };
    }
  }
}

function between(a: string, b: string, g: Grid): string[] {
  const p = splitKey(a);
  const q = splitKey(b);
  const span = (list: readonly string[], from: string, to: string) => {
    const i = list.indexOf(from);
    const j = list.indexOf(to);
    return list.slice(Math.min(i, j), Math.max(i, j) + 1);
  };
  return span(g.rows, p.cameraId, q.cameraId).flatMap((c) =>
    span(g.columns, p.variantId, q.variantId).map((v) => cellKey(c, v)),
  );
}
