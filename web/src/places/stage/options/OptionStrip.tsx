// The options of one facet, each with a small picture of the frame in it: to choose as destination, make, name, order,
// note, tag, compare, copy and delete.
import { DndContext, type DragEndEvent, PointerSensor, closestCenter, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, arrayMove, horizontalListSortingStrategy, useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { Menu, Modal, TextInput, Textarea } from '@mantine/core';
import { type Option, type Project, TAGS, type Tag, type Variant } from '@variscen/contract';
import {
  type Change,
  FACET_NAMES,
  type Facet,
  propertyOf,
  CellHashes,
  type SceneIndex,
  layersOf,
} from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { IconCircleHalf2, IconNote, IconPhoto } from '@tabler/icons-react';
import { useDeferredValue, type KeyboardEvent, type ReactNode, useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { call } from '../../../api/client.ts';
import { plural } from '../../../ui/format.ts';
import { FACETS, FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import { withOption } from '../../../model/withOption.ts';
import { isOwnKey } from '../../../ui/ownKeys.ts';
import { say } from '../../../ui/notify.ts';
import { Buttons } from '../../../ui/Buttons.tsx';
import { CompareOptions } from './CompareOptions.tsx';
import { SaveOptions } from './SaveOptions.tsx';
import { type Destination, pendingOf } from '../../../model/destinations.ts';
import { type ProjectSession } from '../../../session/projectSession.ts';
import {
  type Picture,
  type PictureJob,
  Print,
  earlierPictureOf,
  pictureJob,
  pictureOf,
  useSmallPictures,
} from '../../../engine/smallPictures.tsx';
import styles from './OptionStrip.module.css';

const WIDTH_PX = 136;
const PICTURE_PX = 76;
const baseId = (facet: Facet): string => `base ${facet}`;
type Dialog =
  | { readonly kind: 'make' }
  | { readonly kind: 'rename' | 'delete' | 'notes' | 'compare' | 'save'; readonly option: Option }
  | null;

interface Props {
  project: Project;
  variant: Variant;
  index: SceneIndex | undefined;
  sceneHash: string;
  camera: { readonly id: string; readonly settings: CameraSettings } | undefined;
  destination: Destination;
  session: ProjectSession;
  onDestination: (id: string) => void;
  onCopied: (changes: readonly Change[], from: string) => void;
  /** Shown instead of options. */
  cameras: ReactNode;
  materials: ReactNode;
}

const STEPS: Readonly<Record<string, number>> = { ArrowRight: 1, ArrowLeft: -1 };

export function OptionStrip({
  project,
  variant,
  index,
  sceneHash,
  camera,
  destination,
  session,
  onDestination,
  onCopied,
  cameras,
  materials,
}: Props) {
  const [facet, setFacet] = useState<Facet>(destination.facet ?? 'lighting');
  const [strip, setStrip] = useState<'cameras' | 'materials' | null>(null);
  const [dialog, setDialog] = useState<Dialog>(null);
  const [name, setName] = useState('');
  const options = project.options.filter((o) => o.facet === facet);
  const params = { projectId: project.id };
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  useEffect(() => {
    if (destination.facet) setFacet(destination.facet);
  }, [destination.facet]);
  // small pictures are not waited for: what is seen at once comes before them
  const { base, options: allOptions, patches } = project;
  const pending = useDeferredValue(project.pending);
  const hashes = useMemo(() => index && new CellHashes(index, sceneHash), [index, sceneHash]);
  const jobs = useMemo((): PictureJob[] => {
    if (!index || !hashes || !camera || strip) return [];
    const heightPx = Math.round(Math.min(PICTURE_PX, (WIDTH_PX * camera.settings.heightPx) / camera.settings.widthPx));
    return [null, ...allOptions.filter((o) => o.facet === facet).map((o) => o.id)].map((id) =>
      pictureJob(
        id ?? baseId(facet),
        hashes,
        index,
        layersOf(
          { base, options: allOptions, patches } as never,
          { ...variant, optionIds: withOption({ options: allOptions }, variant.optionIds, facet, id) },
          camera.id,
          pending as never,
        ),
        camera.settings,
        heightPx,
      ),
    );
  }, [index, hashes, camera, strip, allOptions, facet, base, patches, pending, variant]);
  useSmallPictures(sceneHash, jobs);
  /** Writes, closes the dialog, and shows what came of it. */
  const run = async <T,>(work: () => Promise<T>, then?: (made: T) => void) => {
    const made = await session.write(work);
    if (made === undefined) return;
    await session.readAgain();
    then?.(made);
    setDialog(null);
  };
  const make = () =>
    run(
      () => call('createOption', { params, body: { facet, name } }),
      (made) => onDestination(`option:${made.id}`),
    );
  const update = (o: Option, body: { name?: string; notes?: string; tag?: Tag | null }) =>
    run(() => call('updateOption', { params: { ...params, optionId: o.id }, body }));
  const duplicate = (o: Option) =>
    run(
      () => call('duplicateOption', { params: { ...params, optionId: o.id }, body: {} }),
      (made) => onDestination(`option:${made.id}`),
    );
  const remove = (o: Option, used: boolean) => {
    if (destination.id === `option:${o.id}`) onDestination('base');
    const query = used ? { query: { fromVariants: 'yes' } } : {};
    return run(
      () => call('deleteOption', { params: { ...params, optionId: o.id }, ...query }),
      () => say(`Option “${o.name}” is deleted`, 'Ctrl+Z brings it back.'),
    );
  };
  const order = (ids: readonly string[]) => session.orderOptions(ids);
  const dropped = (e: DragEndEvent) => {
    const ids = options.map((o) => o.id);
    const from = ids.indexOf(String(e.active.id));
    const to = ids.indexOf(String(e.over?.id));
    if (from >= 0 && to >= 0 && from !== to) order(arrayMove(ids, from, to));
  };
  const onKey = (e: KeyboardEvent) => {
    if (strip || dialog || !isOwnKey(e)) return;
    const i = options.findIndex((o) => destination.id === `option:${o.id}`);
    const o = options[i];
    const step = STEPS[e.key] ?? 0;
    if (step && e.altKey && o) {
      const to = Math.min(options.length - 1, Math.max(0, i + step));
      if (to !== i)
        order(
          arrayMove(
            options.map((x) => x.id),
            i,
            to,
          ),
        );
    } else if (step) {
      const to = options[i + step];
      const otherwise = i + step < 0 ? 'base' : destination.id;
      onDestination(to ? `option:${to.id}` : otherwise);
    } else if (e.key === 'F2' && o) {
      setName(o.name);
      setDialog({ kind: 'rename', option: o });
    } else if (e.key === 'Delete' && o) setDialog({ kind: 'delete', option: o });
    else return;
    e.preventDefault();
  };
  const users = (o: Option) => project.variants.filter((v) => v.optionIds.includes(o.id));
  const usersOfDialog = dialog && dialog.kind !== 'make' ? users(dialog.option) : [];
  const picture = (id: string) => {
    const j = jobs.find((x) => x.id === (id === 'base' ? baseId(facet) : id));
    const now = j && pictureOf(j);
    const shown = now ?? (j && earlierPictureOf(j));
    return shown && { picture: shown, stale: !now };
  };
  return (
    <section aria-label="Options" className={styles.options}>
      <div role="tablist" aria-label="Facets" className={styles.facets}>
        {FACETS.map((f) => (
          <button
            type="button"
            role="tab"
            aria-selected={f === facet && !strip}
            key={f}
            onClick={() => {
              setFacet(f);
              setStrip(null);
            }}
            className={styles.tab}
            data-facet={facetOr(f)}
            data-on={f === facet && !strip}
          >
            <FacetGlyph facet={f} />
            {FACET_NAMES[f]}
          </button>
        ))}
        <button
          type="button"
          role="tab"
          aria-selected={strip === 'cameras'}
          onClick={() => setStrip('cameras')}
          className={styles.tab}
          data-on={strip === 'cameras'}
        >
          <IconPhoto size={12} stroke={1.6} />
          All cameras
        </button>
        <button
          type="button"
          role="tab"
          aria-selected={strip === 'materials'}
          onClick={() => setStrip('materials')}
          className={styles.tab}
          data-on={strip === 'materials'}
        >
          <IconCircleHalf2 size={12} stroke={1.6} />
          All materials
        </button>
      </div>
      {strip === 'cameras' && cameras}
      {strip === 'materials' && materials}
      {!strip && (
        <div onKeyDown={onKey} className={styles.cardFrame} data-facet={facetOr(facet)}>
          <Card
            id="base"
            title="Base"
            picture={picture('base')}
            note={plural(project.base.filter((c) => propertyOf(c.property)?.facet === facet).length, 'value')}
            on={destination.id === 'base'}
            used
            onClick={() => onDestination('base')}
          />
          <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
            <SortableContext items={options.map((o) => o.id)} strategy={horizontalListSortingStrategy}>
              {options.map((o) => (
                <Sorted
                  key={o.id}
                  id={o.id}
                  title={o.name}
                  notes={o.notes}
                  tag={o.tag}
                  picture={picture(o.id)}
                  note={plural(o.changes.length, 'value')}
                  pending={pendingOf(project, `option:${o.id}`).length}
                  on={destination.id === `option:${o.id}`}
                  used={variant.optionIds.includes(o.id)}
                  onClick={() => onDestination(`option:${o.id}`)}
                  menu={
                    <>
                      <Menu.Item
                        onClick={() => {
                          setName(o.name);
                          setDialog({ kind: 'rename', option: o });
                        }}
                      >
                        Rename… <kbd>F2</kbd>
                      </Menu.Item>
                      <Menu.Item onClick={() => void duplicate(o)}>Duplicate</Menu.Item>
                      <Menu.Item
                        onClick={() => {
                          setName(o.notes);
                          setDialog({ kind: 'notes', option: o });
                        }}
                      >
                        Notes…
                      </Menu.Item>
                      <Menu.Item
                        disabled={options.length < 2}
                        onClick={() => setDialog({ kind: 'compare', option: o })}
                      >
                        Compare with…
                      </Menu.Item>
                      <Menu.Item
                        disabled={!o.changes.length}
                        onClick={() => {
                          onCopied(o.changes as Change[], o.name);
                        }}
                      >
                        Copy its {plural(o.changes.length, 'value')}
                      </Menu.Item>
                      <Menu.Item onClick={() => setDialog({ kind: 'save', option: o })}>
                        Save for other projects…
                      </Menu.Item>
                      <Menu.Label>Tag</Menu.Label>
                      <div className={styles.row}>
                        {TAGS.map((t) => (
                          <button
                            type="button"
                            key={t}
                            aria-label={`Tag ${t}`}
                            aria-pressed={o.tag === t}
                            title={t}
                            onClick={() => void update(o, { tag: o.tag === t ? null : t })}
                            className={styles.button}
                            data-tag={t}
                          />
                        ))}
                      </div>
                      <Menu.Divider />
                      <Menu.Item onClick={() => setDialog({ kind: 'delete', option: o })}>Delete…</Menu.Item>
                    </>
                  }
                />
              ))}
            </SortableContext>
          </DndContext>
          <div className={styles.linkFrame}>
            <button
              type="button"
              onClick={() => {
                setName('');
                setDialog({ kind: 'make' });
              }}
              className={styles.newOption}
            >
              New option…
            </button>
            <Link to={`/library?into=${project.id}`} className={styles.fromTheLibrary}>
              From the library…
            </Link>
          </div>
        </div>
      )}
      <Modal
        opened={dialog?.kind === 'make'}
        onClose={() => setDialog(null)}
        title={`New option of ${FACET_NAMES[facet]}`}
      >
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void make();
          }}
        >
          <TextInput
            data-autofocus
            label="Name"
            value={name}
            onChange={(e) => setName(e.currentTarget.value)}
            maxLength={120}
          />
          <Buttons label="Make option" disabled={!name.trim()} onCancel={() => setDialog(null)} />
        </form>
      </Modal>
      <Modal opened={dialog?.kind === 'rename'} onClose={() => setDialog(null)} title="Rename option">
        {dialog?.kind === 'rename' && (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              void update(dialog.option, { name });
            }}
          >
            <TextInput
              data-autofocus
              label="Name"
              value={name}
              onChange={(e) => setName(e.currentTarget.value)}
              maxLength={120}
            />
            <p className="dim">Variants that are named from it are renamed too.</p>
            <Buttons label="Rename option" disabled={!name.trim()} onCancel={() => setDialog(null)} />
          </form>
        )}
      </Modal>
      <Modal
        opened={dialog?.kind === 'notes'}
        onClose={() => setDialog(null)}
        title={dialog?.kind === 'notes' ? `Notes on “${dialog.option.name}”` : ''}
      >
        {dialog?.kind === 'notes' && (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              void update(dialog.option, { notes: name });
            }}
          >
            <Textarea
              data-autofocus
              aria-label="Notes"
              autosize
              minRows={4}
              maxRows={14}
              value={name}
              onChange={(e) => setName(e.currentTarget.value)}
              maxLength={4000}
            />
            <Buttons label="Keep notes" onCancel={() => setDialog(null)} />
          </form>
        )}
      </Modal>
      <Modal
        opened={dialog?.kind === 'delete'}
        onClose={() => setDialog(null)}
        title={dialog?.kind === 'delete' ? `Delete option “${dialog.option.name}”?` : ''}
      >
        {dialog?.kind === 'delete' && (
          <>
            {usersOfDialog.length ? (
              <p>
                It is taken out of {plural(usersOfDialog.length, 'variant')}:{' '}
                {usersOfDialog.map((v) => v.name).join(', ')}.
              </p>
            ) : (
              <p>No variant uses it.</p>
            )}
            <p>
              Its {plural(dialog.option.changes.length, 'recorded value')} go with it
              {pendingOf(project, `option:${dialog.option.id}`).length > 0 &&
                `, and ${plural(pendingOf(project, `option:${dialog.option.id}`).length, 'pending edit')}`}
              . Ctrl+Z brings all of it back.
            </p>
            <Buttons
              label="Delete option"
              onCancel={() => setDialog(null)}
              onGo={() => void remove(dialog.option, usersOfDialog.length > 0)}
            />
          </>
        )}
      </Modal>
      {dialog?.kind === 'save' && (
        <SaveOptions project={project} first={dialog.option.id} onClose={() => setDialog(null)} />
      )}
      {dialog?.kind === 'compare' && (
        <CompareOptions
          project={project}
          index={index}
          facet={facet}
          first={dialog.option.id}
          session={session}
          onClose={() => setDialog(null)}
        />
      )}
    </section>
  );
}

interface CardProps {
  id: string;
  title: string;
  note: string;
  on: boolean;
  used: boolean;
  picture: { readonly picture: Picture; readonly stale: boolean } | undefined;
  notes?: string;
  tag?: Tag | null;
  pending?: number;
  onClick: () => void;
  menu?: ReactNode;
}
function Sorted(p: CardProps) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: p.id });
  return (
    <div
      ref={setNodeRef}
      {...attributes}
      {...listeners}
      role="group"
      tabIndex={-1}
      aria-label={p.title}
      className={styles.group}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <Card {...p} />
    </div>
  );
}
function Card({ title, note, on, used, picture, notes, tag, pending = 0, onClick, menu }: CardProps) {
  return (
    <div className={styles.menu} data-on={on} style={{ width: WIDTH_PX }}>
      <button
        type="button"
        onClick={onClick}
        aria-pressed={on}
        title={`Edits go to ${title}${notes ? `\n${notes}` : ''}`}
        data-picture={picture && !picture.stale ? 'yes' : 'no'}
        className={styles.cardButton}
        data-on={used}
      >
        <span className={styles.picture} style={{ height: PICTURE_PX }}>
          {picture && <Print {...picture} />}
        </span>
        <span className={styles.text}>
          <span className={styles.tag}>
            <b className={`ellipsis ${styles.title}`}>{title}</b>
            {tag && <i title={`Tagged ${tag}`} className={styles.mark} data-tag={tag} />}
            {notes && <IconNote size={12} stroke={1.6} aria-label="has notes" className={styles.group} />}
          </span>
          <span className={`dim ellipsis ${styles.pending}`}>
            <span className="mono">{note}</span>
            {pending > 0 && <span className={`mono ${styles.cardPending}`}> +{pending}</span>}
            {used ? ' · in variant' : ''}
          </span>
        </span>
      </button>
      {menu && (
        <Menu position="top-end">
          <Menu.Target>
            <button
              type="button"
              aria-label={`More for ${title}`}
              onPointerDown={(e) => e.stopPropagation()}
              className={styles.cardMenu}
            >
              ⋯
            </button>
          </Menu.Target>
          <Menu.Dropdown onPointerDown={(e) => e.stopPropagation()}>{menu}</Menu.Dropdown>
        </Menu>
      )}
    </div>
  );
}
