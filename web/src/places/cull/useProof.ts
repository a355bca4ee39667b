// Asks for a proof, which takes a while, and holds it while it is looked at.
import type { Camera, Project, Variant } from '@variscen/contract';
import { type Proof, unpackProof } from '@variscen/core/cull';
import { useEffect, useRef, useState } from 'react';
import { download } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { sayError } from '../../ui/notify.ts';

export interface Proving {
  readonly proof: Proof | null;
  /** 0…1 while it is made; null: it is not. */
  readonly fraction: number | null;
  readonly prove: () => void;
  readonly stop: () => void;
  readonly close: () => void;
}
export function useProof(project: Project, camera: Camera, variant: Variant): Proving {
  const running = useRef<AbortController | null>(null);
  const [isRunning, setIsRunning] = useState(false);
  const [proof, setProof] = useState<Proof | null>(null);
  const began = useProgress((s) => s.take);
  const fraction = useProgress((s) => s.looks[`${camera.id} ${variant.id}`] ?? 0);
  useEffect(() => () => running.current?.abort(), [camera.id, variant.id]);
  const prove = async () => {
    const stop = new AbortController();
    running.current?.abort();
    running.current = stop;
    setIsRunning(true);
    try {
      const body = { cameraId: camera.id, variantId: variant.id };
      began({ type: 'evidence', projectId: project.id, ...body, fraction: 0 });
      const bytes = await download('proveCull', { params: { projectId: project.id }, body, signal: stop.signal });
      setProof(unpackProof(bytes));
    } catch (e) {
      if (!stop.signal.aborted) sayError(e);
    } finally {
      if (running.current === stop) setIsRunning(false);
    }
  };
  return {
    proof,
    fraction: isRunning ? fraction : null,
    prove: () => void prove(),
    stop: () => running.current?.abort(),
    close: () => setProof(null),
  };
}
