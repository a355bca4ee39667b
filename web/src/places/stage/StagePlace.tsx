// The scene: tree, view, inspector; options below. What hands change here goes to the destination that the sentence names.
import { Menu } from '@mantine/core';
import type { Project } from '@variscen/contract';
import {
  type Change,
  FACETS,
  FACET_NAMES,
  type Facet,
  PLACEMENT_PROPERTIES,
  type Placement,
  SceneIndex,
  type Value,
  layersOf,
  objectTarget,
  optionTitle,
  placeDocument,
  propertyOf,
  resolve,
  sameValue,
  targetLabel,
} from '@variscen/core/looks';
import { type CameraSettings, FRAMES_PER_SECOND } from '@variscen/core/scene';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import { call } from '../../api/client.ts';
import { useScene } from '../../api/queries.ts';
import { Pick } from '../../shell/Pick.tsx';
import { useAddress } from '../../ui/address.ts';
import { facetOr } from '../../ui/glyphs.tsx';
import { metres, plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import { typing } from '../../ui/typing.ts';
import { CameraList } from './cameras/CameraList.tsx';
import { CameraPanel } from './cameras/CameraPanel.tsx';
import { ContactStrip } from './cameras/ContactStrip.tsx';
import { Inspector } from './inspector/Inspector.tsx';
import { OptionStrip, withOption } from './options/OptionStrip.tsx';
import { MaterialStrip } from './options/MaterialStrip.tsx';
import { PendingTray, type TrayHandle } from './pending/PendingTray.tsx';
import { PlanView } from './plan/PlanView.tsx';
import { RightPlace, alwaysFor } from './pending/RightPlace.tsx';
import { TimeBar } from './TimeBar.tsx';
import { Tree } from './tree/Tree.tsx';
import { Vanished, vanishedOf } from './tree/Vanished.tsx';
import { View, type ViewHandle } from './View.tsx';
import { useSession } from '../../session/projectSession.ts';
import { pasted, useClipboard, valuesOf } from '../../model/clipboard.ts';
import { heightsBelow } from '../../engine/dropOnto.ts';
import { type Destination, destinationOf, destinationsOf, fits, pendingOf } from '../../model/destinations.ts';
import { nodeOf, targetOf } from '../../model/selection.ts';
import { useSeen } from '../../engine/seen.ts';
import type { Pick as Pick3D } from '../../view3d/viewport.ts';
import styles from './StagePlace.module.css';

export function StagePlace({ project }: { project: Project }) {
  const [search, put] = useAddress();
  const scene = useScene(project.revision?.sceneHash);
  const session = useSession(project.id);
  const tray = useRef<TrayHandle>(null);
  const view = useRef<ViewHandle>(null);
  const [misplaced, setMisplaced] = useState<readonly Change[] | null>(null);
  const [free, setFree] = useState(false);
  const [picking, setPicking] = useState(false);
  const [shownFrame, setShownFrame] = useState<number | null>(null);
  const [chosenCameras, setChosenCameras] = useState<readonly string[]>([]);
  const camera = project.cameras.find((c) => c.id === search.get('camera')) ?? project.cameras[0];
  const variant = project.variants.find((v) => v.id === search.get('variant')) ?? project.variants[0];
  const selected = search.get('selected');
  const side = search.get('side') === 'cameras' ? 'cameras' : 'scene';
  const plan = search.get('plan') === 'open';
  const destinations = useMemo(
    () => (variant ? destinationsOf(project, camera?.id ?? '', variant) : []),
    [project, camera?.id, variant],
  );
  const to = search.get('to');
  const destination = useMemo(() => destinationOf(project, destinations, to), [project, destinations, to]);
  // an option that is being edited is shown even where the variant does not use it, instead of those of its facet
  const lone =
    destination?.isHere &&
    destination.id.startsWith('option:') &&
    variant &&
    !variant.optionIds.includes(destination.id.slice(7))
      ? destination.id.slice(7)
      : null;
  const { base, options, patches, pending: edits } = project;
  const cameraId = camera?.id ?? '';
  const state = useMemo(
    () =>
      scene.data && variant
        ? resolve(
            scene.data,
            layersOf(
              { base, options, patches } as never,
              lone
                ? { ...variant, optionIds: withOption({ options }, variant.optionIds, destination!.facet!, lone) }
                : variant,
              cameraId,
              edits as never,
            ),
          )
        : undefined,
    [scene.data, base, options, patches, edits, variant, cameraId, lone, destination],
  );

  const placedIndex = useMemo(() => {
    if (!plan || !scene.data || !state) return undefined;
    const d = placeDocument(scene.data.document, state);
    return d === scene.data.document ? scene.data : new SceneIndex(d);
  }, [plan, scene.data, state]);

  // what is selected: many things at once stay on the page, the last of them is in the address
  const [nodes, setNodes] = useState<readonly number[]>([]);
  const addressed = scene.data ? nodeOf(scene.data, selected) : undefined;
  useEffect(() => {
    setNodes((old) => {
      if (addressed === undefined) return old.length ? [] : old;
      return old.includes(addressed) ? old : [addressed];
    });
  }, [addressed, scene.data]);
  const selectNodes = useCallback(
    (next: readonly number[]) => {
      setNodes(next);
      setChosenCameras([]);
      const last = next.at(-1);
      put({ selected: last === undefined || !scene.data ? null : targetOf(scene.data.document, last) });
    },
    [put, scene.data],
  );
  const select = useCallback(
    (target: string | null) => {
      setNodes([]);
      setChosenCameras([]);
      put({ selected: target });
    },
    [put],
  );
  const look = useCallback(
    (id: string) => {
      session.flushCameras();
      setShownFrame(null);
      setPicking(false);
      setFree(false);
      put({ camera: id });
    },
    [session, put],
  );

  /** Changes go to the destination; those of a facet that it does not hold go where the person said they always go, or ask where they belong. */
  const record = useCallback(
    (changes: readonly Change[]) => {
      if (!destination) return;
      const isOwn = (c: Change) => destination.isHere && fits(c, destination);
      const own = changes.filter(isOwn);
      const others = changes.filter((c) => !isOwn(c));
      if (own.length) session.edit(destination.id, own);
      const ask: Change[] = [];
      const elsewhere = new Map<Destination, Change[]>();
      for (const c of others) {
        const facet = propertyOf(c.property)?.facet;
        const always = facet && destinations.find((d) => d.id === alwaysFor(project.id, facet));
        if (always && fits(c, always)) {
          const list = elsewhere.get(always);
          if (list) list.push(c);
          else elsewhere.set(always, [c]);
        } else ask.push(c);
      }
      for (const [d, list] of elsewhere) {
        session.edit(d.id, list);
        say(`Pending in ${d.label}`, 'As you chose for this kind of edit.');
      }
      if (ask.length) setMisplaced(ask);
    },
    [destination, destinations, project.id, session],
  );
  const edit = useCallback(
    (targets: readonly string[], property: string, value: Value) =>
      record(targets.map((target) => ({ target, property, value }))),
    [record],
  );
  const placed = (moved: readonly number[], placements: readonly Placement[]) => {
    if (!scene.data || !state) return;
    record(
      moved.flatMap((n, i) => {
        const target = targetOf(scene.data!.document, n);
        const kind = target.startsWith('light:') ? 'light' : 'object';
        return (Object.keys(PLACEMENT_PROPERTIES) as (keyof Placement)[]).flatMap((k): Change[] => {
          const property = `${kind}.${k}`;
          const value = placements[i]![k];
          return state.get(target, property) === undefined || sameValue(state.get(target, property), value)
            ? []
            : [{ target, property, value }];
        });
      }),
    );
  };
  /** Puts a material on things: where one of several selected ones is meant, on all of them. */
  const wear = (material: string, onto: readonly number[], target?: string) => {
    if (!scene.data || !state) return;
    const d = scene.data.document;
    const chosen =
      target !== undefined
        ? [target]
        : (onto.length === 1 && nodes.includes(onto[0]!) ? nodes : onto).map((n) => objectTarget(d.nodes[n]!.path));
    const able = chosen.filter((t) => state.get(t, 'object.material') !== undefined);
    const changes = able
      .filter((t) => state.get(t, 'object.material') !== material)
      .map((t) => ({ target: t, property: 'object.material', value: material }));
    if (!able.length) {
      say(
        'No single material can be assigned to it',
        'A group, a light, or an object with several materials: drop it onto an object with one, or edit the material itself.',
      );
      return;
    }
    record(changes);
  };
  const dropped = async () => {
    if (!scene.data || !state || !camera || !project.revision) return;
    const d = scene.data.document;
    const chosen = new Set(nodes);
    const tops = nodes.filter((n) => {
      if (targetOf(d, n).startsWith('light:')) return false;
      for (let p = d.nodes[n]!.parent; p >= 0; p = d.nodes[p]!.parent) if (chosen.has(p)) return false;
      return true;
    });
    try {
      const heights = await heightsBelow({
        sceneHash: project.revision.sceneHash,
        changes: [...state.values.values()].map((v) => ({ target: v.target, property: v.property.id, value: v.value })),
        camera: camera.settings as CameraSettings,
        nodes: tops,
      });
      const changes = tops.flatMap((n, i): Change[] => {
        const h = heights[i];
        const target = objectTarget(d.nodes[n]!.path);
        const at = state.get(target, 'object.offset') as readonly [number, number, number];
        return h ? [{ target, property: 'object.offset', value: [at[0], Number((at[1] - h).toFixed(6)), at[2]] }] : [];
      });
      record(changes);
      const none = heights.filter((h) => h === null).length;
      const there = heights.filter((h) => h === 0).length;
      say(
        droppedText(changes.length, heights, none),
        [
          there && changes.length ? `${plural(there, 'object')} stood already.` : '',
          none && changes.length ? `Nothing lies below ${none} of them.` : '',
        ]
          .filter(Boolean)
          .join(' '),
      );
    } catch (e) {
      sayError(e);
    }
  };
  const flip = useCallback(
    (step: number) => {
      const i = project.variants.findIndex((v) => v.id === variant?.id);
      const next = project.variants[(i + step + project.variants.length) % project.variants.length];
      if (next) put({ variant: next.id });
    },
    [project.variants, variant?.id, put],
  );
  /** Through the options of the destination's facet, the base first; from the base on with those that it came from. */
  const flipped = useRef<Facet | undefined>(undefined);
  const flipOption = useCallback(
    (step: number) => {
      const facet = (flipped.current =
        destination?.facet ?? flipped.current ?? FACETS.find((f) => project.options.some((o) => o.facet === f)));
      const ring = ['base', ...project.options.filter((o) => o.facet === facet).map((o) => `option:${o.id}`)];
      const i = ring.indexOf(destination?.id ?? 'base');
      put({ to: ring[(i + step + ring.length) % ring.length]! });
    },
    [destination, project.options, put],
  );
  const { copied, copy } = useClipboard();
  const selectedTargets = useMemo(() => {
    if (!scene.data) return [];
    if (nodes.length) return nodes.map((n) => targetOf(scene.data!.document, n));
    return selected ? [selected] : [];
  }, [scene.data, nodes, selected]);
  useEffect(() => {
    const onKey = (e: globalThis.KeyboardEvent) => {
      if (document.querySelector('[role=dialog][aria-modal=true]')) return;
      const command = e.ctrlKey || e.metaKey;
      // from a field too: what was typed there is taken first
      if (command && e.key === 'Enter') {
        e.preventDefault();
        setTimeout(() => tray.current?.quickKeep());
        return;
      }
      if (typing(e.target)) return;
      if (
        command &&
        e.key === 'c' &&
        selectedTargets.length &&
        scene.data &&
        state &&
        !window.getSelection()?.toString()
      ) {
        copy({
          from: selectedTargets.length === 1 ? targetLabel(selectedTargets[0]!) : `${selectedTargets.length} objects`,
          changes: valuesOf(scene.data, state, selectedTargets),
        });
        say('The values are copied', 'Select other objects and press Ctrl+V.');
      } else if (command && e.key === 'v' && copied && scene.data && state)
        record(pasted(copied, scene.data, state, selectedTargets));
      else if (command || e.altKey) return;
      else if (e.code === 'Comma' || e.code === 'Period') {
        const step = e.code === 'Period' ? 1 : -1;
        if (e.shiftKey) flipOption(step);
        else flip(step);
      } else if (e.key === 'Escape') {
        setPicking(false);
        return;
      } else return;
      e.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [flip, flipOption, copied, copy, selectedTargets, scene.data, state, record]);
  const picked = (hit: Pick3D | null, more: boolean) => {
    if (hit?.kind === 'camera') {
      look(hit.id);
      setChosenCameras([hit.id]);
      put({ side: 'cameras' });
      return;
    }
    if (picking && camera && hit) {
      const m = camera.settings.matrix;
      const back = Math.hypot(m[8]!, m[9]!, m[10]!) || 1;
      const focusDistanceM =
        -((hit.point[0] - m[12]!) * m[8]! + (hit.point[1] - m[13]!) * m[9]! + (hit.point[2] - m[14]!) * m[10]!) / back;
      setPicking(false);
      if (focusDistanceM > 0.001)
        session.changeCameras([camera.id], { settings: { focusDistanceM: Number(focusDistanceM.toFixed(4)) } });
      return;
    }
    if (!hit) {
      if (!more) select(null);
      return;
    }
    if (hit.copy !== undefined && !more) {
      select(objectTarget(hit.copy));
      return;
    }
    const toggled = nodes.includes(hit.node) ? nodes.filter((n) => n !== hit.node) : [...nodes, hit.node];
    selectNodes(more ? toggled : [hit.node]);
  };
  const seen = useSeen({
    sceneHash: project.revision?.sceneHash,
    index: scene.data,
    state,
    camera: camera?.settings as CameraSettings | undefined,
    onSeen: selectNodes,
  });
  const depthOf = useCallback((c: CameraSettings, w: number, h: number) => view.current?.depth(c, w, h), []);
  const vanished = useMemo(
    () =>
      scene.data ? vanishedOf({ base, options, patches, pending: edits, cameras: project.cameras }, scene.data) : [],
    [scene.data, base, options, patches, edits, project.cameras],
  );
  const putSets = (sets: Project['sets']) =>
    void session.writeProject(() => call('putSets', { params: { projectId: project.id }, body: { sets } }));

  if (!project.revision)
    return (
      <>
        <header className="sentence">“{project.name}” has no scene yet.</header>
        <main className="place empty">
          <h1>Import a scene first</h1>
          <p>The stage shows it, its lights and cameras.</p>
          <Link className={`go ${styles.go}`} to="/projects">
            Go to the projects
          </Link>
        </main>
      </>
    );
  if (!variant || !destination)
    return (
      <>
        <header className="sentence">“{project.name}” has no variant.</header>
        <main className="place empty">
          <h1>Make a variant first</h1>
          <p>On the board, from any options or none.</p>
          <Link className={`go ${styles.go}`} to={`/projects/${project.id}/board`}>
            Go to the board
          </Link>
        </main>
      </>
    );
  const keptAs = ({ optionIds, variantId }: { optionIds: readonly string[]; variantId: string | null }) =>
    put({ to: `option:${optionIds.at(-1)!}`, ...(variantId !== null && { variant: variantId }) });
  // facet by facet: what waits for an answer next
  const facetAsked = misplaced?.[0] && propertyOf(misplaced[0].property)?.facet;
  const asked = misplaced && misplaced.filter((c) => propertyOf(c.property)?.facet === facetAsked);
  const answered = () => {
    const rest = (misplaced ?? []).filter((c) => propertyOf(c.property)?.facet !== facetAsked);
    setMisplaced(rest.length ? rest : null);
  };
  const intoNew = async (facet: Facet, name: string) => {
    const made = await session.write(() =>
      call('createOption', { params: { projectId: project.id }, body: { facet, name } }),
    );
    if (!made) return;
    await session.readAgain();
    if (asked) session.edit(`option:${made.id}`, asked);
    put({ to: `option:${made.id}` });
    answered();
    say(
      `${optionTitle({ facet, name })} is made`,
      'The edit is pending in it. Variants use it when you add it to them.',
    );
  };
  const pending = pendingOf(project, destination.id);
  const elsewhere = project.pending
    .filter((x) => x.destination !== destination.id)
    .reduce((n, x) => n + x.changes.length, 0);
  const animation = scene.data?.document.animation;
  const lastFrame = animation ? Math.ceil(animation.durationS * FRAMES_PER_SECOND) : 0;
  // beside the list of cameras stand the settings of those chosen in it, or of the one that is looked through
  const chosen =
    chosenCameras.length || side !== 'cameras' || selected !== null || !camera ? chosenCameras : [camera.id];
  const inspected = project.cameras.filter((c) => chosen.includes(c.id));
  const through = free ? undefined : camera;
  return (
    <>
      <header className="sentence" data-facet={facetOr(destination.facet ?? null)}>
        {free || !camera ? 'Looking around in ' : 'Looking through '}
        {camera && !free && (
          <>
            <Pick
              label="Camera"
              value={camera.name}
              choices={project.cameras.map((c) => ({ id: c.id, label: c.name }))}
              onPick={look}
              footer={
                <>
                  <Menu.Divider />
                  <Menu.Item onClick={() => setFree(true)}>Look around freely</Menu.Item>
                  <Menu.Item
                    onClick={() => {
                      setChosenCameras([camera.id]);
                      put({ side: 'cameras', selected: null });
                    }}
                  >
                    Settings of this camera
                  </Menu.Item>
                </>
              }
            />
            {' in '}
          </>
        )}
        <Pick
          label="Variant"
          value={variant.name}
          choices={project.variants.map((v) => ({ id: v.id, label: v.name }))}
          onPick={(id) => put({ variant: id })}
        />
        {'. Edits go to '}
        <Pick
          label="Edits go to"
          value={destination.label}
          facet={destination.facet}
          choices={destinations.map((d) => ({
            id: d.id,
            label: d.label,
            facet: d.facet,
            section: sectionOf(d),
          }))}
          onPick={(id) => put({ to: id })}
        />
        {destination.isHere ? '.' : ', which is not shown here.'}
        {pending.length > 0 && (
          <span className="pending" role="status">
            {pending.length} pending
          </span>
        )}
        <span className="right">
          {free && camera && (
            <button type="button" className={`quiet ${styles.quiet}`} onClick={() => setFree(false)}>
              Back to {camera.name}
            </button>
          )}
          <span title="Through the variants; with Shift through the options of a facet">
            Flip <kbd>,</kbd> <kbd>.</kbd>
          </span>
        </span>
      </header>
      <main className={`place ${styles.place}`}>
        <div
          className={styles.vanished}
          style={{ gridTemplateRows: `auto ${vanished.length ? 'auto ' : ''}minmax(0, 1fr)` }}
        >
          <div className="tabs" role="tablist" aria-label="Scene or cameras">
            <button type="button" role="tab" aria-selected={side === 'scene'} onClick={() => put({ side: null })}>
              Scene
            </button>
            <button
              type="button"
              role="tab"
              aria-selected={side === 'cameras'}
              onClick={() => {
                setNodes([]);
                put({ side: 'cameras', selected: null });
              }}
            >
              Cameras <span className="mono faint">{project.cameras.length}</span>
            </button>
          </div>
          {vanished.length > 0 && scene.data && <Vanished project={project} index={scene.data} vanished={vanished} />}
          {side === 'scene' ? (
            <Tree
              project={project}
              index={scene.data}
              state={state}
              camera={camera?.settings as CameraSettings | undefined}
              selected={selected}
              nodes={nodes}
              onSelect={select}
              onNodes={selectNodes}
              onSets={putSets}
              onSeen={seen}
              onMaterial={(m, n) => wear(m, [n])}
              onIntoView={() => view.current?.bringIntoView()}
            />
          ) : (
            <CameraList
              project={project}
              document={scene.data?.document}
              current={camera}
              chosen={chosen}
              session={session}
              viewed={() => view.current?.viewed()}
              onLook={look}
              onChoose={setChosenCameras}
            />
          )}
        </div>
        <div className={styles.animation} style={{ gridTemplateRows: `minmax(0, 1fr)${animation ? ' auto' : ''}` }}>
          <div
            className={styles.plan}
            style={{ gridTemplateColumns: plan ? 'minmax(0, 1fr) minmax(0, 1fr)' : 'minmax(0, 1fr)' }}
          >
            <View
              handle={view}
              sceneHash={project.revision.sceneHash}
              index={scene.data}
              state={state}
              cameras={project.cameras}
              camera={through}
              frame={shownFrame}
              nodes={nodes}
              picking={picking}
              onPick={picked}
              onBox={(found, more) => selectNodes(more ? [...new Set([...nodes, ...found])] : found)}
              onCameraMoved={(m) => {
                if (camera) session.moveCamera(camera.id, m);
              }}
              onCameraRested={() => session.cameraRested()}
              onPlaced={placed}
              onUnlock={() => {
                if (camera) session.changeCameras([camera.id], { handling: { locked: false } });
              }}
              onLookAround={() => setFree(true)}
              onDrop={() => void dropped()}
              onMaterial={(m, hit) => wear(m, [hit.node], hit.copy === undefined ? undefined : objectTarget(hit.copy))}
              tools={
                <button
                  type="button"
                  className={`quiet ${styles.quiet}`}
                  aria-pressed={plan}
                  onClick={() => put({ plan: plan ? null : 'open' })}
                >
                  Plan view
                </button>
              }
            />
            {plan && placedIndex && state && (
              <PlanView
                index={placedIndex}
                state={state}
                cameras={project.cameras}
                camera={camera}
                nodes={nodes}
                session={session}
                depthOf={depthOf}
                onLook={look}
              />
            )}
          </div>
          {animation && (
            <TimeBar
              first={camera?.handling.frames?.first ?? 0}
              last={camera?.handling.frames?.last ?? lastFrame}
              step={camera?.handling.frames?.step ?? 1}
              own={camera?.settings.frame ?? 0}
              shown={shownFrame}
              onShow={setShownFrame}
              onUse={
                camera &&
                ((f) => {
                  session.changeCameras([camera.id], { settings: { frame: f === 0 ? undefined : f } });
                  setShownFrame(null);
                })
              }
            />
          )}
        </div>
        <aside aria-label="Inspector" className={styles.inspector}>
          {inspected.length ? (
            <CameraPanel
              cameras={inspected}
              session={session}
              animatedFrames={lastFrame}
              picking={picking}
              onPickFocus={setPicking}
            />
          ) : (
            <Inspector
              project={project}
              index={scene.data}
              state={state}
              selected={selected}
              nodes={nodes}
              destination={destination}
              edit={edit}
              record={record}
              onDiscard={(target, property) => session.discard(destination.id, [{ target, property }])}
              onClear={(layer, target, property) => void session.recorded(layer, [], [{ target, property }])}
              onDestination={(id) => put({ to: id })}
              onSelect={select}
              onNodes={selectNodes}
            />
          )}
        </aside>
        <OptionStrip
          project={project}
          variant={variant}
          index={scene.data}
          sceneHash={project.revision.sceneHash}
          camera={camera && { id: camera.id, settings: camera.settings as CameraSettings }}
          destination={destination}
          session={session}
          onDestination={(id) => put({ to: id })}
          onCopied={(changes, from) => {
            copy({ from, changes });
            say(
              `${plural(changes.length, 'value')} of “${from}” are copied`,
              'Paste them with Ctrl+V: into the destination, or onto what is selected.',
            );
          }}
          cameras={
            <ContactStrip
              sceneHash={project.revision.sceneHash}
              index={scene.data}
              project={project}
              variant={variant}
              current={camera?.id}
              onLook={look}
            />
          }
          materials={
            scene.data &&
            state && (
              <MaterialStrip
                project={project}
                index={scene.data}
                state={state}
                sceneHash={project.revision.sceneHash}
                selected={selected}
                onSelect={select}
              />
            )
          }
        />
        <PendingTray
          project={project}
          index={scene.data}
          destination={destination}
          variant={variant}
          pending={pending}
          elsewhere={elsewhere}
          session={session}
          handle={tray}
          onKept={keptAs}
        />
      </main>
      <RightPlace
        projectId={project.id}
        changes={asked}
        from={destination}
        destinations={destinations}
        inVariant={variant.optionIds}
        onClose={() => setMisplaced(null)}
        onPick={(d, stay) => {
          if (asked) session.edit(d.id, asked);
          if (!stay) put({ to: d.id });
          answered();
        }}
        onNewOption={(facet, name) => void intoNew(facet, name)}
      />
    </>
  );
}

function sectionOf(d: Destination): string {
  if (d.facet) return FACET_NAMES[d.facet];
  return d.id === 'base' ? 'Everything' : 'Patches';
}

/** @param none objects below which nothing lies */
function droppedText(dropped: number, heights: readonly (number | null)[], none: number): string {
  if (!dropped) return none ? 'Nothing lies below' : 'It stands on something already';
  const by = dropped === 1 ? ` by ${metres(Math.max(...heights.map((h) => h ?? 0)))}` : '';
  return `${plural(dropped, 'object')} dropped${by}`;
}
