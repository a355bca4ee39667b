// How the lights of the look that is shown are mixed, while nothing of it is kept: what the view and the live render
// show then. It is not of the Stage's own state, which would be drawn anew at every move of a slider.
import type { MixBy } from '@variscen/core/image';
import { type Change, type ResolvedState, mixChanges, mixMembers, withChanges } from '@variscen/core/looks';
import { useMemo } from 'react';
import { create } from 'zustand';
import { AS_RENDERED, type GroupSetting, sharesOf } from '../../../model/groupMixer.ts';
import { useAddress } from '../../../ui/address.ts';

/** By what is mixed; those that are not there are as in the look. */
type Settings = Readonly<Record<string, GroupSetting>>;
interface Store {
  readonly projectId: string;
  /** What is shown; the other waits. */
  readonly by: MixBy;
  readonly settings: Readonly<Record<MixBy, Settings>>;
}
const NOTHING: Store = { projectId: '', by: 'target', settings: { target: {}, group: {} } };
const useStore = create<Store>(() => NOTHING);

export interface MixRow {
  readonly key: string;
  readonly members: readonly string[];
  readonly setting: GroupSetting;
}
export interface Mix {
  readonly by: MixBy;
  readonly rows: readonly MixRow[];
  /** Of the look, and how it looks with them. */
  readonly changes: readonly Change[];
  readonly state: ResolvedState | undefined;
  mixBy(by: MixBy): void;
  set(key: string, change: Partial<GroupSetting>): void;
  clear(): void;
  /** What these come to is of the look now; whether they are looked at alone stays. */
  settle(keys: readonly string[]): void;
}

const OPEN = 'mixer';
/** Whether the mixer is open: only then the mix is shown. */
export function useMixer(): readonly [isOpen: boolean, toggle: () => void] {
  const [search, put] = useAddress();
  const isOpen = search.get(OPEN) === 'open';
  return [isOpen, () => put({ [OPEN]: isOpen ? null : 'open' })];
}

export function useMix(projectId: string, look: ResolvedState | undefined): Mix {
  const store = useStore();
  const { by, settings: all } = store.projectId === projectId ? store : NOTHING;
  const settings = all[by];
  const members = useMemo(() => (look ? mixMembers(look, by) : new Map<string, readonly string[]>()), [look, by]);
  const rows = useMemo(
    () => [...members].map(([key, of]): MixRow => ({ key, members: of, setting: settings[key] ?? AS_RENDERED })),
    [members, settings],
  );
  const changes = useMemo(() => {
    const shares = sharesOf(rows.map((row) => row.setting));
    return look ? mixChanges(look, new Map(rows.map(({ key }, i) => [key, shares[i]!])), by) : [];
  }, [look, rows, by]);
  const state = useMemo(() => (look && changes.length ? withChanges(look, changes) : look), [look, changes]);
  const put = (own: Settings) => useStore.setState({ projectId, by, settings: { ...all, [by]: own } });
  return {
    by,
    rows,
    changes,
    state,
    mixBy: (other) => useStore.setState({ projectId, by: other, settings: all }),
    set: (key, change) => put({ ...settings, [key]: { ...(settings[key] ?? AS_RENDERED), ...change } }),
    clear: () => put({}),
    settle: (keys) =>
      useStore.setState(({ settings: latest }) => {
        const own = { ...latest[by] };
        for (const key of keys) own[key] = { ...AS_RENDERED, isAlone: own[key]?.isAlone ?? false };
        return { settings: { ...latest, [by]: own } };
      }),
  };
}
