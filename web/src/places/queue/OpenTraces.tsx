// What renders and what waits, in the order in which it is handed out: dragged, or moved by Alt and the arrow keys.
import { DndContext, type DragEndEvent, PointerSensor, closestCenter, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { Menu } from '@mantine/core';
import type { QueueTrace } from '@variscen/contract';
import { type KeyboardEvent, useState } from 'react';
import { plural } from '../../ui/format.ts';
import { LateMenu } from '../../ui/LateMenu.tsx';
import { isOwnKey } from '../../ui/ownKeys.ts';
import { SORTED_BY_KEYS } from '../../ui/sorting.ts';
import { TraceCells, TraceHead, nameOf } from './TraceCells.tsx';
import { PriorityItems } from './PriorityItems.tsx';
import type { QueueDoing } from './useQueueActions.ts';
import styles from './QueuePlace.module.css';

const rowId = (id: string): string => `trace-${id}`;

interface Props {
  readonly traces: readonly QueueTrace[];
  /** How many there are, of which these are the first. */
  readonly total: number;
  readonly onMore: () => void;
  readonly actions: QueueDoing;
}

export function OpenTraces({ traces, total, onMore, actions }: Props) {
  const [selected, setSelected] = useState<readonly string[]>([]);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const here = selected.filter((id) => traces.some((t) => t.id === id));
  const at = here.at(-1);
  const movable = traces.filter((t) => t.state !== 'rendering');
  const selectedRows = traces.filter((t) => here.includes(t.id));
  const further = total - traces.reduce((n, t) => n + (t.framesAlike?.length ?? 1), 0);

  /** Moves what is selected, or one, to before the n-th of those that wait and stay. */
  const place = (ids: readonly string[], n: number) => {
    const moving = movable.filter((t) => ids.includes(t.id));
    const rest = movable.filter((t) => !ids.includes(t.id));
    if (!moving.length) return;
    const before = rest[Math.max(0, n)]?.id ?? null;
    // beyond what is loaded there may be more
    if (before === null && further > 0) onMore();
    else void actions.move(moving, before);
  };
  const dropped = (e: DragEndEvent) => {
    const id = String(e.active.id);
    const from = movable.findIndex((t) => t.id === id);
    const to = movable.findIndex((t) => t.id === String(e.over?.id));
    if (from < 0 || to < 0 || from === to) return;
    const ids = here.includes(id) ? here : [id];
    const over = movable[to]!.id;
    const rest = movable.filter((t) => !ids.includes(t.id));
    place(ids, rest.findIndex((t) => t.id === over) + (to > from ? 1 : 0));
  };
  const shift = (by: 1 | -1) => {
    const rest = movable.filter((t) => !here.includes(t.id));
    const first = movable.findIndex((t) => here.includes(t.id));
    const ahead = movable.slice(0, first).length;
    if (first >= 0) place(here, Math.min(rest.length, Math.max(0, ahead + by)));
  };
  const onKey = (e: KeyboardEvent) => {
    if (!isOwnKey(e)) return;
    const i = traces.findIndex((t) => t.id === at);
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      const by = e.key === 'ArrowDown' ? 1 : -1;
      const to = traces[Math.min(traces.length - 1, Math.max(0, i + by))];
      if (e.altKey) shift(by);
      else if (to) setSelected(e.shiftKey ? [...here.filter((id) => id !== to.id), to.id] : [to.id]);
    } else if (e.key === 'Delete' && here.length) void actions.cancelTraces(selectedRows, true);
    else if (e.key === 'a' && (e.ctrlKey || e.metaKey)) setSelected(traces.map((t) => t.id));
    else return;
    e.preventDefault();
  };
  const click = (id: string, more: boolean) => {
    if (!more) setSelected([id]);
    else setSelected(here.includes(id) ? here.filter((x) => x !== id) : [...here, id]);
  };
  return (
    <section aria-label="Active" className={styles.section}>
      <TraceHead title="Active">
        <span className="dim">{here.length > 1 ? `${here.length} selected` : ''}</span>
      </TraceHead>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={dropped}
        accessibility={SORTED_BY_KEYS}
      >
        <div
          role="grid"
          aria-label="Active traces"
          aria-multiselectable
          aria-activedescendant={at === undefined ? undefined : rowId(at)}
          tabIndex={0}
          onKeyDown={onKey}
          className={styles.list}
        >
          <SortableContext items={movable.map((t) => t.id)} strategy={verticalListSortingStrategy}>
            {traces.map((t) => (
              <OpenRow
                key={t.id}
                trace={t}
                selected={here.includes(t.id)}
                onClick={(more) => click(t.id, more)}
                menu={() => (
                  <OpenMenu
                    traces={here.includes(t.id) ? selectedRows : [t]}
                    onFirst={(ids) => place(ids, 0)}
                    actions={actions}
                  />
                )}
              />
            ))}
          </SortableContext>
        </div>
      </DndContext>
      {further > 0 && (
        <button type="button" className={`quiet ${styles.more}`} onClick={onMore}>
          Show more of {plural(further, 'further trace')}
        </button>
      )}
    </section>
  );
}

function OpenRow({
  trace: t,
  selected,
  onClick,
  menu,
}: {
  trace: QueueTrace;
  selected: boolean;
  onClick: (more: boolean) => void;
  menu: () => React.ReactNode;
}) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({
    id: t.id,
    disabled: t.state === 'rendering',
  });
  return (
    <div
      ref={setNodeRef}
      {...attributes}
      {...listeners}
      role="row"
      id={rowId(t.id)}
      tabIndex={-1}
      aria-selected={selected}
      aria-label={nameOf(t)}
      onClick={(e) => onClick(e.ctrlKey || e.metaKey || e.shiftKey)}
      className={styles.row}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <TraceCells trace={t} role="gridcell" />
      <div role="gridcell">
        <LateMenu label={`More for ${nameOf(t)}`} position="bottom-end">
          {menu}
        </LateMenu>
      </div>
    </div>
  );
}

function OpenMenu({
  traces,
  onFirst,
  actions,
}: {
  traces: readonly QueueTrace[];
  onFirst: (ids: readonly string[]) => void;
  actions: QueueDoing;
}) {
  const running = traces.filter((t) => t.state === 'waiting' || t.state === 'rendering');
  const paused = traces.filter((t) => t.state === 'paused');
  const waiting = traces.filter((t) => t.state !== 'rendering').map((t) => t.id);
  const several = traces.reduce((n, t) => n + (t.framesAlike?.length ?? 1), 0);
  const many = several > 1 ? ` ${several} traces` : '';
  const begun = traces.some((t) => t.slices.some((s) => s.state === 'done'));
  return (
    <>
      {running.length > 0 && <Menu.Item onClick={() => void actions.pause(running)}>Pause{many}</Menu.Item>}
      {paused.length > 0 && <Menu.Item onClick={() => void actions.resume(paused)}>Resume{many}</Menu.Item>}
      {waiting.length > 0 && <Menu.Item onClick={() => onFirst(waiting)}>Render{many} next</Menu.Item>}
      <PriorityItems
        now={traces.length === 1 ? traces[0]!.priority : undefined}
        onSelect={(p) => void actions.prioritize(traces, p)}
      />
      <Menu.Divider />
      <Menu.Item onClick={() => void actions.cancelTraces(traces, true)}>
        Cancel{many} <kbd>Delete</kbd>
      </Menu.Item>
      {begun && (
        <Menu.Item onClick={() => void actions.cancelTraces(traces, false)}>
          Cancel{many} and drop what is done
        </Menu.Item>
      )}
    </>
  );
}
