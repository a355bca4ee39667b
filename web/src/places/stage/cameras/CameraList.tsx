// The project's cameras in their order: looked through, added, renamed, put in order, locked, deleted.
import { Menu } from '@mantine/core';
import { DndContext, type DragEndEvent, PointerSensor, closestCenter, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, arrayMove, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { IconLock, IconLockOpen, IconPlus } from '@tabler/icons-react';
import type { Camera, Project } from '@variscen/contract';
import { type CameraSettings, PLAIN_HANDLING, cameraForScene, type SceneDocument } from '@variscen/core/scene';
import { type KeyboardEvent, useState } from 'react';
import { call } from '../../../api/client.ts';
import { isOwnKey } from '../../../ui/ownKeys.ts';
import { SORTED_BY_KEYS } from '../../../ui/sorting.ts';
import { say } from '../../../ui/notify.ts';
import { type ProjectSession } from '../../../session/projectSession.ts';
import styles from './CameraList.module.css';

const cameraRowId = (id: string): string => `camera-${id}`;

interface Props {
  project: Project;
  document: SceneDocument | undefined;
  current: Camera | undefined;
  selected: readonly string[];
  session: ProjectSession;
  viewed: () => CameraSettings | undefined;
  onLook: (id: string) => void;
  onSelect: (ids: readonly string[]) => void;
}

export function CameraList({ project, document, current, selected, session, viewed, onLook, onSelect }: Props) {
  const cameras = project.cameras;
  const [naming, setNaming] = useState<string | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const free = (base: string) => {
    const taken = new Set(cameras.map((c) => c.name.toLowerCase()));
    let name = base;
    for (let k = 2; taken.has(name.toLowerCase()); k++) name = `${base} ${k}`;
    return name;
  };
  const add = async (settings: CameraSettings, name: string, after?: string, handling = PLAIN_HANDLING) => {
    const body = {
      name: free(name),
      settings: settings as never,
      handling: handling as never,
      ...(after !== undefined && { afterId: after }),
    };
    const made = await session.write(() => call('createCamera', { params: { projectId: project.id }, body }));
    if (!made) return;
    await session.readAgain();
    onLook(made.id);
    setNaming(made.id);
  };
  const fromView = () => {
    const v = viewed() ?? (document && cameraForScene(document));
    if (v)
      void add(
        { ...v, widthPx: current?.settings.widthPx ?? 1920, heightPx: current?.settings.heightPx ?? 1080 },
        'Camera',
      );
  };
  const duplicate = (c: Camera) =>
    add(c.settings as CameraSettings, `${c.name} copy`, c.id, {
      ...(c.handling as typeof PLAIN_HANDLING),
      locked: false,
    });
  const remove = async (ids: readonly string[]) => {
    const names = ids.map((id) => cameras.find((c) => c.id === id)?.name ?? '');
    const body = { cameraIds: [...ids] };
    const done = await session.writeProject(() => call('deleteCameras', { params: { projectId: project.id }, body }));
    if (!done) return;
    onSelect([]);
    say(
      names.length === 1 ? `Camera “${names[0]!}” is deleted` : `${names.length} cameras are deleted`,
      'Ctrl+Z brings them back. Their renders stay on disk.',
    );
  };
  const order = (ids: readonly string[]) => session.orderCameras(ids);
  const dropped = (e: DragEndEvent) => {
    const ids = cameras.map((c) => c.id);
    const from = ids.indexOf(String(e.active.id));
    const to = ids.indexOf(String(e.over?.id));
    if (from >= 0 && to >= 0 && from !== to) order(arrayMove(ids, from, to));
  };
  const rename = (c: Camera, name: string) => {
    setNaming(null);
    if (name.trim() && name.trim() !== c.name) session.setCamera(c.id, { name: name.trim() });
  };
  const lock = (ids: readonly string[], locked: boolean) => session.changeCameras(ids, { handling: { locked } });
  const click = (c: Camera, more: boolean) => {
    if (more) onSelect(selected.includes(c.id) ? selected.filter((x) => x !== c.id) : [...selected, c.id]);
    else {
      onLook(c.id);
      onSelect([c.id]);
    }
  };
  const standsAt = selected.at(-1) ?? current?.id;
  const onKey = (e: KeyboardEvent) => {
    if (naming !== null || !isOwnKey(e)) return;
    const i = cameras.findIndex((c) => c.id === standsAt);
    const c = cameras[i];
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      const to = Math.min(cameras.length - 1, Math.max(0, i + (e.key === 'ArrowDown' ? 1 : -1)));
      if (e.altKey && c && to !== i)
        order(
          arrayMove(
            cameras.map((x) => x.id),
            i,
            to,
          ),
        );
      else if (cameras[to]) {
        if (e.shiftKey) onSelect([...selected.filter((x) => x !== cameras[to]!.id), cameras[to].id]);
        else click(cameras[to], false);
      }
    } else if (e.key === 'F2' && c) setNaming(c.id);
    else if (e.key === 'Delete' && selected.length) void remove(selected);
    else if (e.key === 'a' && (e.ctrlKey || e.metaKey)) onSelect(cameras.map((x) => x.id));
    else return;
    e.preventDefault();
  };
  return (
    <section aria-label="Cameras" className={styles.cameras}>
      <button type="button" onClick={fromView} className={styles.addCameraFrom}>
        <IconPlus size={15} stroke={1.6} />
        Add camera from this view
      </button>
      <div
        role="listbox"
        aria-label="Cameras of the project"
        aria-multiselectable
        aria-activedescendant={standsAt === undefined ? undefined : cameraRowId(standsAt)}
        tabIndex={0}
        onKeyDown={onKey}
        className={styles.camerasOfTheProject}
      >
        <DndContext
          sensors={sensors}
          collisionDetection={closestCenter}
          onDragEnd={dropped}
          accessibility={SORTED_BY_KEYS}
        >
          <SortableContext items={cameras.map((c) => c.id)} strategy={verticalListSortingStrategy}>
            {cameras.map((c) => (
              <Row
                key={c.id}
                camera={c}
                looking={c.id === current?.id}
                selected={selected.includes(c.id)}
                naming={naming === c.id}
                onName={(name) => rename(c, name)}
                onCancel={() => setNaming(null)}
                onClick={(more) => click(c, more)}
                onLock={() => lock(selected.includes(c.id) ? selected : [c.id], !c.handling.locked)}
                menu={
                  <>
                    <Menu.Item onClick={() => setNaming(c.id)}>
                      Rename <kbd>F2</kbd>
                    </Menu.Item>
                    <Menu.Item onClick={() => void duplicate(c)}>Duplicate</Menu.Item>
                    <Menu.Item
                      onClick={() => void remove(selected.includes(c.id) && selected.length > 1 ? selected : [c.id])}
                    >
                      Delete{selected.includes(c.id) && selected.length > 1 ? ` ${selected.length} cameras` : ''}
                    </Menu.Item>
                  </>
                }
              />
            ))}
          </SortableContext>
        </DndContext>
        {cameras.length === 0 && (
          <p className={`dim ${styles.noCameraYet}`}>
            No camera yet. Move the view to where one should stand, then add it.
          </p>
        )}
      </div>
    </section>
  );
}

function Row({
  camera: c,
  looking,
  selected,
  naming,
  menu,
  onName,
  onCancel,
  onClick,
  onLock,
}: {
  camera: Camera;
  looking: boolean;
  selected: boolean;
  naming: boolean;
  menu: React.ReactNode;
  onName: (name: string) => void;
  onCancel: () => void;
  onClick: (more: boolean) => void;
  onLock: () => void;
}) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: c.id });
  const s = c.settings;
  return (
    <div
      ref={setNodeRef}
      {...attributes}
      {...(naming ? {} : listeners)}
      role="option"
      id={cameraRowId(c.id)}
      tabIndex={-1}
      aria-selected={selected}
      aria-label={c.name}
      onClick={(e) => onClick(e.ctrlKey || e.metaKey || e.shiftKey)}
      className={styles.option}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <i aria-hidden className={styles.lookingMark} data-on={looking} />
      <div className={styles.naming}>
        {naming ? (
          <input
            autoFocus
            defaultValue={c.name}
            aria-label="Name of the camera"
            maxLength={120}
            onFocus={(e) => e.currentTarget.select()}
            onClick={(e) => e.stopPropagation()}
            onBlur={(e) => onName(e.currentTarget.value)}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === 'Enter') onName(e.currentTarget.value);
              if (e.key === 'Escape') onCancel();
            }}
            className={styles.nameOfTheCamera}
          />
        ) : (
          <div className={`ellipsis ${styles.cameraName}`} data-on={looking} title={c.handling.notes || undefined}>
            {c.name}
          </div>
        )}
        <div className={`mono dim ${styles.projection}`}>
          {s.projection === 'perspective' ? `${Number(s.focalLengthMm.toPrecision(3))} mm` : 'orthographic'} ·{' '}
          {s.widthPx} × {s.heightPx}
        </div>
      </div>
      <button
        type="button"
        className="tool"
        aria-pressed={c.handling.locked}
        aria-label={c.handling.locked ? `Unlock ${c.name}` : `Lock ${c.name}`}
        title={c.handling.locked ? 'Locked: it cannot be moved' : 'Lock: it can be moved'}
        onClick={(e) => {
          e.stopPropagation();
          onLock();
        }}
      >
        {c.handling.locked ? (
          <IconLock size={14} stroke={1.7} />
        ) : (
          <IconLockOpen size={14} stroke={1.5} color="var(--dim)" />
        )}
      </button>
      <Menu position="right-start">
        <Menu.Target>
          <button type="button" className="tool" aria-label={`More for ${c.name}`} onClick={(e) => e.stopPropagation()}>
            ⋯
          </button>
        </Menu.Target>
        <Menu.Dropdown onClick={(e) => e.stopPropagation()}>{menu}</Menu.Dropdown>
      </Menu>
    </div>
  );
}
