// What came in, by the engine: a revision as the file has it, without any look, through the first of its cameras.
import type { Revision } from '@variscen/contract';
import { CellHashes } from '@variscen/core/looks';
import { type CameraSettings, type SceneDocument, cameraForScene, sceneCameras } from '@variscen/core/scene';
import { useMemo } from 'react';
import { useScene } from '../../api/queries.ts';
import { type PictureJob, Print, pictureJob, pictureOf, useSmallPictures } from '../../engine/smallPictures.tsx';
import styles from './RevisionPicture.module.css';

const HEIGHT_PX = 216;
const WHOLE = { widthPx: 1920, heightPx: 1080 } as const;

export function RevisionPicture({ revision: { sceneHash, number } }: { revision: Revision }) {
  const { data: index } = useScene(sceneHash);
  const camera = useMemo(() => index && firstCamera(index.document), [index]);
  const jobs = useMemo((): PictureJob[] => {
    if (!index || !camera) return [];
    const hashes = new CellHashes(index, sceneHash);
    return [pictureJob(`revision ${sceneHash}`, hashes, index, [], camera.settings, HEIGHT_PX)];
  }, [index, sceneHash, camera]);
  const { fault } = useSmallPictures(sceneHash, jobs);
  const picture = jobs[0] && pictureOf(jobs[0]);
  const { widthPx, heightPx } = camera?.settings ?? WHOLE;
  return (
    <figure className={styles.figure}>
      <div
        role="img"
        aria-label={`Revision ${number} as it came in`}
        data-picture={picture ? 'yes' : 'no'}
        className={styles.picture}
        style={{ width: (HEIGHT_PX * widthPx) / heightPx, height: HEIGHT_PX }}
      >
        {picture ? <Print picture={picture} /> : <span className="dim">{fault ?? 'Rendering …'}</span>}
      </div>
      <figcaption className="faint">
        {camera?.name ? `Through its camera “${camera.name}”` : 'The whole of it'}, without any look
      </figcaption>
    </figure>
  );
}

/** A scene without cameras is seen whole. */
function firstCamera(document: SceneDocument): { readonly name?: string; readonly settings: CameraSettings } {
  return sceneCameras(document)[0] ?? { settings: { ...cameraForScene(document), ...WHOLE } };
}
