// All cameras side by side in their true shapes, by the engine, in the look that the stage shows; made anew in the
// background where something of it changed.
import type { Project, Variant } from '@variscen/contract';
import { CellHashes, type SceneIndex, layersOf } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useDeferredValue, useMemo } from 'react';
import {
  type PictureJob,
  Print,
  earlierPictureOf,
  pictureJob,
  pictureOf,
  useSmallPictures,
} from '../../../engine/smallPictures.tsx';
import styles from './ContactStrip.module.css';

/** As ContactStrip.module.css has it. */
const HEIGHT_PX = 100;

export function ContactStrip({
  sceneHash,
  index,
  project,
  variant,
  current,
  onLook,
}: {
  sceneHash: string;
  index: SceneIndex | undefined;
  project: Project;
  variant: Variant;
  current: string | undefined;
  onLook: (id: string) => void;
}) {
  const { base, options, patches, cameras } = project;
  const pending = useDeferredValue(project.pending);
  const hashes = useMemo(() => index && new CellHashes(index, sceneHash), [index, sceneHash]);
  const jobs = useMemo(
    (): PictureJob[] =>
      index && hashes
        ? cameras.map((c) =>
            pictureJob(
              c.id,
              hashes,
              index,
              layersOf({ base, options, patches } as never, variant, c.id, pending as never),
              c.settings as CameraSettings,
              HEIGHT_PX,
            ),
          )
        : [],
    [index, hashes, cameras, base, options, patches, pending, variant],
  );
  const { doing, fault, waits } = useSmallPictures(sceneHash, jobs);
  return (
    <div role="group" aria-label="All cameras" className={styles.allCameras}>
      {jobs.map((j, i) => {
        const c = cameras[i]!;
        const aspect = c.settings.widthPx / c.settings.heightPx;
        const picture = pictureOf(j);
        return (
          <button
            type="button"
            key={j.id}
            onClick={() => onLook(j.id)}
            aria-label={`Look through ${c.name}`}
            aria-pressed={j.id === current}
            data-picture={picture ? 'yes' : 'no'}
            className={styles.button}
            style={{ width: HEIGHT_PX * aspect }}
          >
            <div className={styles.picture} data-on={j.id === current}>
              {(picture ?? earlierPictureOf(j)) && (
                <Print picture={(picture ?? earlierPictureOf(j))!} stale={!picture} />
              )}
            </div>
            <div className={`ellipsis ${styles.name}`} data-on={j.id === current}>
              {c.name}
              {doing === j.id && <span className="faint"> · rendering</span>}
              {waits && !picture && <span className="faint"> · waits for the queue</span>}
            </div>
          </button>
        );
      })}
      {fault && <p className={`dim ${styles.fault}`}>{fault}</p>}
    </div>
  );
}
