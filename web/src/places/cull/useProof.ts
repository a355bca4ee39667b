// Asks for a proof, which takes a while, and holds it while it is looked at.
import type { Camera, Project, Variant } from '@variscen/contract';
import { type Proof, unpackProof } from '@variscen/core/cull';
import { useState } from 'react';
import { download } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { useOneRun } from './useOneRun.ts';

export interface Proving {
  readonly proof: Proof | null;
  /** 0…1 while it is made; null: it is not. */
  readonly fraction: number | null;
  readonly prove: () => void;
  readonly stop: () => void;
  readonly close: () => void;
}
export function useProof(project: Project, camera: Camera, variant: Variant): Proving {
  const { isRunning, run, stop } = useOneRun(camera.id, variant.id);
  const [proof, setProof] = useState<Proof | null>(null);
  const began = useProgress((s) => s.take);
  const fraction = useProgress((s) => s.looks[`${camera.id} ${variant.id}`] ?? 0);
  const prove = async (signal: AbortSignal) => {
    const body = { cameraId: camera.id, variantId: variant.id };
    began({ type: 'evidence', projectId: project.id, ...body, fraction: 0 });
    setProof(unpackProof(await download('proveCull', { params: { projectId: project.id }, body, signal })));
  };
  return { proof, fraction: isRunning ? fraction : null, prove: () => run(prove), stop, close: () => setProof(null) };
}
