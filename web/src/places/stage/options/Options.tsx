// The options of one facet, each with a small picture of the frame in it: to choose as destination, make, name, order,
// note, tag, compare, copy and delete.
import { DndContext, type DragEndEvent, PointerSensor, closestCenter, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, arrayMove, horizontalListSortingStrategy } from '@dnd-kit/sortable';
import type { Option, Project, Variant } from '@variscen/contract';
import { type Change, type Facet, type SceneIndex, addedPaths, propertyOf } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { type Destination, pendingOf } from '../../../model/destinations.ts';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { facetOr } from '../../../ui/glyphs.tsx';
import { isOwnKey } from '../../../ui/ownKeys.ts';
import { SORTED_BY_KEYS } from '../../../ui/sorting.ts';
import { OptionCard, SortedCard } from './OptionCard.tsx';
import { type AskedOfOption, OptionDialogs } from './OptionDialogs.tsx';
import { OptionMenu } from './OptionMenu.tsx';
import styles from './Options.module.css';
import { useOptionActions } from './useOptionActions.ts';
import { useOptionPictures } from './useOptionPictures.ts';

const STEPS: Readonly<Record<string, number>> = { ArrowRight: 1, ArrowLeft: -1 };

interface Props {
  project: Project;
  variant: Variant;
  index: SceneIndex | undefined;
  sceneHash: string;
  camera: { readonly id: string; readonly settings: CameraSettings } | undefined;
  facet: Facet;
  destination: Destination;
  session: ProjectSession;
  onDestination: (id: string) => void;
  onCopied: (changes: readonly Change[], from: string) => void;
  /** Where rigs have something of the facet. */
  onRig?: (() => void) | undefined;
  onBeside?: (() => void) | undefined;
  /** Lights are to be selected, by their paths. */
  onLights: (paths: readonly string[]) => void;
}

/** Selects the lights that an option adds; undefined: it adds none. */
function lightsOfOption(option: Option, select: Props['onLights']): (() => void) | undefined {
  const paths = addedPaths(option.changes as Change[]);
  return paths.length ? () => select(paths) : undefined;
}

export function Options(props: Props) {
  const {
    project,
    variant,
    index,
    sceneHash,
    camera,
    facet,
    destination,
    session,
    onDestination,
    onCopied,
    onRig,
    onBeside,
    onLights,
  } = props;
  const [asked, setAsked] = useState<AskedOfOption | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const options = project.options.filter((o) => o.facet === facet);
  const ids = options.map((o) => o.id);
  const picture = useOptionPictures({ project, variant, index, sceneHash, camera, facet });
  const actions = useOptionActions(project, session, destination.id, onDestination);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const dropped = (e: DragEndEvent) => {
    const from = ids.indexOf(String(e.active.id));
    const to = ids.indexOf(String(e.over?.id));
    if (from >= 0 && to >= 0 && from !== to) session.orderOptions(arrayMove(ids, from, to));
  };
  const isOn = (o: Option) => destination.id === `option:${o.id}`;
  const at = options.findIndex(isOn);
  const put = (step: number) => {
    const to = Math.min(ids.length - 1, Math.max(0, at + step));
    if (to !== at) session.orderOptions(arrayMove(ids, at, to));
  };
  const go = (step: number) => {
    const to = options[at + step];
    if (to) onDestination(`option:${to.id}`);
    else if (at + step < 0) onDestination('base');
  };
  const onKey = (e: KeyboardEvent) => {
    if (asked || !isOwnKey(e)) return;
    const option = options[at];
    const step = STEPS[e.key];
    if (step !== undefined && e.altKey && option) put(step);
    else if (step !== undefined) go(step);
    else if (e.key === 'F2' && option) setAsked({ kind: 'rename', option });
    else if (e.key === 'Delete' && option) setAsked({ kind: 'delete', option });
    else return;
    e.preventDefault();
  };
  // the keyboard stands on the card that its arrows have gone to
  useEffect(() => {
    if (!box.current?.contains(document.activeElement)) return;
    box.current.querySelector<HTMLElement>('button[aria-pressed=true]')?.focus();
  }, [destination.id]);
  return (
    <>
      <div ref={box} onKeyDown={onKey} className={styles.cardFrame} data-facet={facetOr(facet)}>
        <OptionCard
          id="base"
          title="Base"
          picture={picture(null)}
          note={plural(project.base.filter((c) => propertyOf(c.property)?.facet === facet).length, 'value')}
          on={destination.id === 'base'}
          used
          onClick={() => onDestination('base')}
        />
        <DndContext
          sensors={sensors}
          collisionDetection={closestCenter}
          onDragEnd={dropped}
          accessibility={SORTED_BY_KEYS}
        >
          <SortableContext items={ids} strategy={horizontalListSortingStrategy}>
            {options.map((o) => (
              <SortedCard
                key={o.id}
                id={o.id}
                title={o.name}
                notes={o.notes}
                tag={o.tag}
                picture={picture(o.id)}
                note={plural(o.changes.length, 'value')}
                pending={pendingOf(project, `option:${o.id}`).length}
                on={isOn(o)}
                used={variant.optionIds.includes(o.id)}
                onClick={() => onDestination(`option:${o.id}`)}
                menu={
                  <OptionMenu
                    option={o}
                    hasOthers={options.length > 1}
                    onAsk={(kind) => setAsked({ kind, option: o })}
                    onDuplicate={() => void actions.duplicate(o)}
                    onCopy={() => onCopied(o.changes as Change[], o.name)}
                    onTag={(tag) => void actions.update(o, { tag })}
                    onLights={lightsOfOption(o, (paths) => {
                      onDestination(`option:${o.id}`);
                      onLights(paths);
                    })}
                  />
                }
              />
            ))}
          </SortableContext>
        </DndContext>
        <div className={styles.linkFrame}>
          <button type="button" onClick={() => setAsked({ kind: 'make' })} className={styles.newOption}>
            New option…
          </button>
          {onRig && (
            <button type="button" onClick={onRig} className={styles.fromTheLibrary}>
              Rigs…
            </button>
          )}
          {onBeside && (
            <button type="button" onClick={onBeside} className={styles.fromTheLibrary}>
              Side by side…
            </button>
          )}
          <Link to={`/library?into=${project.id}`} className={styles.fromTheLibrary}>
            From the library…
          </Link>
        </div>
      </div>
      {asked && (
        <OptionDialogs
          asked={asked}
          project={project}
          index={index}
          facet={facet}
          session={session}
          actions={actions}
          onClose={() => setAsked(null)}
        />
      )}
    </>
  );
}
