// The left side of the Stage: the tree of the scene, or the cameras.
import type { Project } from '@variscen/contract';
import type { CameraSettings } from '@variscen/core/scene';
import { type RefObject, useMemo } from 'react';
import { call } from '../../api/client.ts';
import { useSeen } from '../../engine/seen.ts';
import type { ProjectSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';
import styles from './StagePlace.module.css';
import type { ViewHandle } from './view/View.tsx';
import { CameraList } from './cameras/CameraList.tsx';
import { Tree } from './tree/Tree.tsx';
import { Vanished, vanishedOf } from './tree/Vanished.tsx';
import type { Selection } from './useSelection.ts';
import type { Shown } from './useShown.ts';

interface Props {
  project: Project;
  shown: Shown;
  selection: Selection;
  session: ProjectSession;
  view: RefObject<ViewHandle | null>;
  side: 'scene' | 'cameras';
  /** Cameras whose settings are shown. */
  cameraIds: readonly string[];
  onLook: (cameraId: string) => void;
  onAssign: (material: string, node: number) => void;
}

export function StageSide({ project, shown, selection, session, view, side, cameraIds, onLook, onAssign }: Props) {
  const [, put] = useAddress();
  const { index, state, camera } = shown;
  const settings = camera?.settings as CameraSettings | undefined;
  const sceneHash = project.revision?.sceneHash;
  const seen = useSeen({ sceneHash, index, state, camera: settings, onSeen: selection.selectNodes });
  const { base, options, patches, pending, cameras } = project;
  const vanished = useMemo(
    () => (index ? vanishedOf({ base, options, patches, pending, cameras }, index) : []),
    [index, base, options, patches, pending, cameras],
  );
  const putSets = (sets: Project['sets']) =>
    void session.writeProject(() => call('putSets', { params: { projectId: project.id }, body: { sets } }));
  const showCameras = () => {
    selection.forgetNodes();
    put({ side: 'cameras', selected: null });
  };
  return (
    <div className={styles.side} data-vanished={vanished.length > 0}>
      <div className="tabs" role="tablist" aria-label="Scene or cameras">
        <button type="button" role="tab" aria-selected={side === 'scene'} onClick={() => put({ side: null })}>
          Scene
        </button>
        <button type="button" role="tab" aria-selected={side === 'cameras'} onClick={showCameras}>
          Cameras <span className="mono faint">{cameras.length}</span>
        </button>
      </div>
      {vanished.length > 0 && index && <Vanished project={project} index={index} vanished={vanished} />}
      {side === 'scene' ? (
        <Tree
          project={project}
          index={index}
          state={state}
          camera={settings}
          selected={selection.selected}
          nodes={selection.nodes}
          onSelect={selection.select}
          onNodes={selection.selectNodes}
          onSets={putSets}
          onSeen={seen}
          onMaterial={onAssign}
          onIntoView={() => view.current?.bringIntoView()}
        />
      ) : (
        <CameraList
          project={project}
          document={index?.document}
          current={camera}
          chosen={cameraIds}
          session={session}
          viewed={() => view.current?.viewed()}
          onLook={onLook}
          onChoose={selection.selectCameras}
        />
      )}
    </div>
  );
}
