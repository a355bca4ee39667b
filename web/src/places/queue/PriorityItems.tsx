// The priorities, in a menu.
import { Menu } from '@mantine/core';
import type { TracePriority } from '@variscen/contract';

const WORDS: Readonly<Record<TracePriority, string>> = {
  high: 'High priority',
  normal: 'Normal priority',
  low: 'Low priority',
};

export function PriorityItems({
  now,
  onSelect,
}: {
  now?: TracePriority | undefined;
  onSelect: (priority: TracePriority) => void;
}) {
  return (
    <>
      <Menu.Divider />
      {(Object.keys(WORDS) as TracePriority[]).map((p) => (
        <Menu.Item key={p} disabled={p === now} onClick={() => onSelect(p)}>
          {WORDS[p]}
        </Menu.Item>
      ))}
    </>
  );
}
