// Saves what a camera needs as a file, which takes a while where meshes are divided.
import type { Camera, Project, Variant } from '@variscen/contract';
import { downloaded } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { bytes, count } from '../../ui/format.ts';
import { say } from '../../ui/notify.ts';
import { saveFile } from '../../ui/saveBytes.ts';
import { useOneRun } from './useOneRun.ts';

export interface Splitting {
  /** 0…1 while it is made; null: it is not. */
  readonly fraction: number | null;
  readonly save: () => void;
  readonly stop: () => void;
}
export function useSplit(project: Project, camera: Camera, variant: Variant): Splitting {
  const { isRunning, run, stop } = useOneRun(camera.id, variant.id);
  const began = useProgress((s) => s.take);
  const fraction = useProgress((s) => s.splits[`${camera.id} ${variant.id}`] ?? 0);
  const save = async (signal: AbortSignal) => {
    const query = { cameraId: camera.id, variantId: variant.id };
    began({ type: 'split', projectId: project.id, ...query, fraction: 0 });
    const response = await downloaded('splitScene', { params: { projectId: project.id }, query, signal });
    const file = await response.blob();
    saveFile(file, `${project.name} ${camera.name}.glb`);
    say(`${camera.name}: ${bytes(file.size)} saved`, whatIsIn(response.headers));
  };
  return { fraction: isRunning ? fraction : null, save: () => run(save), stop };
}

function whatIsIn(headers: Headers): string {
  const ofAll = (name: string) => headers.get(name)?.split('/').map(Number).map(count).join(' of ');
  return `${ofAll('X-Variscen-Objects')} objects, ${ofAll('X-Variscen-Triangles')} triangles.`;
}
