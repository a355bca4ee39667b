// What came in, by the engine: the whole of a revision as the file has it, without any look.
import type { Revision } from '@variscen/contract';
import { CellHashes } from '@variscen/core/looks';
import { cameraForScene } from '@variscen/core/scene';
import { useMemo } from 'react';
import { useScene } from '../../api/queries.ts';
import { type PictureJob, Print, pictureJob, pictureOf, useSmallPictures } from '../../engine/smallPictures.tsx';
import styles from './RevisionPicture.module.css';

const HEIGHT_PX = 216;
const FRAME = { widthPx: 1920, heightPx: 1080 } as const;

export function RevisionPicture({ revision: { sceneHash, number } }: { revision: Revision }) {
  const { data: index } = useScene(sceneHash);
  const jobs = useMemo((): PictureJob[] => {
    if (!index) return [];
    const camera = { ...cameraForScene(index.document), ...FRAME };
    return [pictureJob(`revision ${sceneHash}`, new CellHashes(index, sceneHash), index, [], camera, HEIGHT_PX)];
  }, [index, sceneHash]);
  const { fault } = useSmallPictures(sceneHash, jobs);
  const picture = jobs[0] && pictureOf(jobs[0]);
  const width = (HEIGHT_PX * FRAME.widthPx) / FRAME.heightPx;
  return (
    <figure className={styles.figure}>
      <div
        role="img"
        aria-label={`Revision ${number} as it came in`}
        data-picture={picture ? 'yes' : 'no'}
        className={styles.picture}
        style={{ width, height: HEIGHT_PX }}
      >
        {picture ? <Print picture={picture} /> : <span className="dim">{fault ?? 'Rendering …'}</span>}
      </div>
      <figcaption className="faint">The whole of it, without any look</figcaption>
    </figure>
  );
}
