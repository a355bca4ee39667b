// Cameras that go along with the view at this moment, apart from the project: a step of the hand draws nothing anew but
// what asks for it here. When the hand has rested they are part of the project again.
import type { Camera } from '@variscen/contract';
import type { CameraSettings } from '@variscen/core/scene';
import { useMemo, useSyncExternalStore } from 'react';

export class CameraMoves {
  private readonly matrices = new Map<string, readonly number[]>();
  private readonly listeners = new Set<() => void>();

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  /** Camera to world, by columns; undefined: the camera stands where the project has it. */
  of(cameraId: string): readonly number[] | undefined {
    return this.matrices.get(cameraId);
  }
  put(cameraId: string, matrix: readonly number[]): void {
    this.matrices.set(cameraId, matrix);
    this.tell();
  }
  /** What has moved; from here on nothing has. */
  take(): [cameraId: string, matrix: readonly number[]][] {
    const taken = [...this.matrices];
    this.matrices.clear();
    if (taken.length) this.tell();
    return taken;
  }
  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}

/** The camera as it stands at this moment; draws anew with every step of the hand. */
export function useMovedCamera<C extends Camera | undefined>(moves: CameraMoves, camera: C): C {
  const matrix = useSyncExternalStore(moves.subscribe, () => (camera ? moves.of(camera.id) : undefined));
  return useMemo(() => (camera && matrix ? moved(camera, matrix) : camera), [camera, matrix]);
}

function moved<C extends Camera>(camera: C, matrix: readonly number[]): C {
  const settings: CameraSettings = { ...(camera.settings as CameraSettings), matrix };
  return { ...camera, settings: settings as C['settings'] };
}
