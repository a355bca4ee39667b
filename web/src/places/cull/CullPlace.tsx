// What a camera needs of the scene, and what it leaves out: the picture and the plan at left, every object with its
// verdict at right, what it comes to on top.
import type { Camera, Project, Variant } from '@variscen/contract';
import { type ResolvedState, type SceneIndex, layersOf, resolve } from '@variscen/core/looks';
import { useCallback, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { useScene } from '../../api/queries.ts';
import { decidedAfter } from '../../model/cullTable.ts';
import { objectGroups } from '../../model/objectGroups.ts';
import { Pick } from '../../shell/Pick.tsx';
import { useAddress } from '../../ui/address.ts';
import { count } from '../../ui/format.ts';
import { CullBar } from './CullBar.tsx';
import { CullMap } from './CullMap.tsx';
import { CullPicture } from './CullPicture.tsx';
import styles from './CullPlace.module.css';
import { CullTable } from './CullTable.tsx';
import { MeasuredNote } from './MeasuredNote.tsx';
import { useCull } from './useCull.ts';

export function CullPlace({ project }: { project: Project }) {
  const [search] = useAddress();
  const { data: index } = useScene(project.revision?.sceneHash);
  const camera = project.cameras.find((c) => c.id === search.get('camera')) ?? project.cameras[0];
  const variant = project.variants.find((v) => v.id === search.get('variant')) ?? project.variants[0];
  if (!project.revision || !camera || !variant) return <NothingToCull project={project} />;
  return <Cull key={camera.id} project={project} index={index} camera={camera} variant={variant} />;
}

function NothingToCull({ project }: { project: Project }) {
  return (
    <>
      <header className="sentence">“{project.name}” has nothing to look at yet.</header>
      <main className="place empty">
        <h1>{project.revision ? 'Add a camera first' : 'Import a scene first'}</h1>
        <p>Here is shown what each camera needs of it.</p>
        <Link className="go" to={project.revision ? `/projects/${project.id}/stage` : '/projects'}>
          {project.revision ? 'Go to the Stage' : 'Go to the projects'}
        </Link>
      </main>
    </>
  );
}

interface Shown {
  readonly project: Project;
  readonly index: SceneIndex | undefined;
  readonly camera: Camera;
  readonly variant: Variant;
}

function Cull({ project, index, camera, variant }: Shown) {
  const [, put] = useAddress();
  const state = useKeptState(project, index, camera.id, variant);
  const cull = useCull({ project, index, state, camera, variant });
  const [selected, setSelected] = useState<readonly number[]>([]);
  const onSelect = useCallback((nodes: readonly number[]) => setSelected(nodes), []);
  const keep = (path: string) => cull.keepAsked({ ...cull.asked, ...decidedAfter(cull.asked, [path], 'pin') });
  const { measured, rows, looking } = cull;
  const groups = useMemo(
    () => (index && state ? objectGroups(index.document, state, project.sets) : []),
    [index, state, project.sets],
  );
  const rays = measured?.known?.evidence.rays;
  return (
    <>
      <header className="sentence">
        What{' '}
        <Pick
          label="Camera"
          value={camera.name}
          choices={project.cameras.map((c) => ({ id: c.id, label: c.name }))}
          onPick={(id) => put({ camera: id })}
        />
        {' needs in '}
        <Pick
          label="Variant"
          value={variant.name}
          choices={project.variants.map((v) => ({ id: v.id, label: v.name }))}
          onPick={(id) => put({ variant: id })}
        />
        {rays === undefined ? '.' : `, by ${count(rays)} rays.`}
        <span className="right">
          <Link
            to={`/projects/${project.id}/stage?camera=${camera.id}&variant=${variant.id}`}
            className={`quiet ${styles.link}`}
          >
            Look on the Stage
          </Link>
        </span>
      </header>
      <main className={`place ${styles.place}`} aria-label="Cull">
        <div className={styles.top}>
          <CullBar project={project} index={index} camera={camera} cull={cull} />
        </div>
        <div className={styles.left}>
          <CullPicture
            project={project}
            camera={camera}
            variant={variant}
            onFind={onSelect}
            index={index}
            onKeep={keep}
          />
          <CullMap index={index} state={state} camera={camera} rows={rows} selected={selected} onSelect={onSelect} />
        </div>
        <div className={styles.right}>
          <MeasuredNote project={project} variant={variant} cull={cull} />
          <CullTable
            rows={rows}
            groups={groups}
            isWaiting={looking !== null || !index || !cull.culled}
            selected={selected}
            onSelect={onSelect}
            asked={cull.asked}
            onDecide={(decided) => cull.keepAsked({ ...cull.asked, ...decided })}
          />
        </div>
      </main>
    </>
  );
}

/** The look as it is kept: what is pending is in no picture yet, and was not measured. */
function useKeptState(
  project: Project,
  index: SceneIndex | undefined,
  cameraId: string,
  variant: Variant,
): ResolvedState | undefined {
  const { base, options, patches } = project;
  return useMemo(
    () => (index ? resolve(index, layersOf({ base, options, patches } as never, variant, cameraId)) : undefined),
    [index, base, options, patches, variant, cameraId],
  );
}
