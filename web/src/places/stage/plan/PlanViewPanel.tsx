// The plan among the panels of the Stage.
import { SceneIndex, placeDocument } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useCallback, useMemo } from 'react';
import type { StagePanelProps } from '../stage.ts';
import { PlanView } from './PlanView.tsx';

export function PlanViewPanel({ stage }: StagePanelProps) {
  const { project, sceneHash, shown, selection, looking, session, lights, view } = stage;
  const { index, state, camera } = shown;
  const placed = useMemo(() => {
    if (!index || !state) return undefined;
    const document = placeDocument(index.document, state);
    return document === index.document ? index : new SceneIndex(document);
  }, [index, state]);
  const depthOf = useCallback((c: CameraSettings, w: number, h: number) => view.current?.depth(c, w, h), [view]);
  if (!placed || !state) return null;
  return (
    <PlanView
      sceneHash={sceneHash}
      index={placed}
      state={state}
      cameras={project.cameras}
      camera={camera}
      nodes={selection.nodes}
      session={session}
      depthOf={depthOf}
      onLook={looking.look}
      onLight={(node) => selection.selectNodes([node])}
      onLightMoved={lights.move}
    />
  );
}
