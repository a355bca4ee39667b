// The cell's latest picture, and what it lost at most, by whom.
import type { Camera, Project, Variant } from '@variscen/contract';
import { percent as shareWords } from '@variscen/core/cull';
import type { SceneIndex } from '@variscen/core/looks';
import { pathOf } from '../../api/client.ts';
import { useBoard } from '../../api/queries.ts';
import { count, percent, version } from '../../ui/format.ts';
import styles from './CullPlace.module.css';
import { ProofDialog } from './ProofDialog.tsx';
import { type Proving, useProof } from './useProof.ts';
import { type Splitting, useSplit } from './useSplit.ts';

const NAMED = 3;

interface Props {
  readonly project: Project;
  readonly camera: Camera;
  readonly variant: Variant;
  readonly index: SceneIndex | undefined;
  /** An object is looked for in the table. */
  readonly onFind: (nodes: readonly number[]) => void;
  /** Something is not to be left out any more. */
  readonly onKeep: (path: string) => void;
}
export function CullPicture(props: Props) {
  const { project, camera, variant, onKeep } = props;
  const proving = useProof(project, camera, variant);
  const splitting = useSplit(project, camera, variant);
  const keep = (path: string) => {
    proving.close();
    onKeep(path);
  };
  return (
    <div className={styles.picture}>
      <LatestPicture {...props} />
      <div className={styles.acts}>
        <ProveIt proving={proving} />
        <SaveIt splitting={splitting} />
      </div>
      {proving.proof && (
        <ProofDialog
          name={`${camera.name} in ${variant.name}`}
          proof={proving.proof}
          onClose={proving.close}
          onKeep={keep}
        />
      )}
    </div>
  );
}

function ProveIt({ proving }: { proving: Proving }) {
  if (proving.fraction === null)
    return (
      <button
        type="button"
        className={`quiet ${styles.small}`}
        title="Traces the whole scene and what is left of it, at the same seeds"
        onClick={proving.prove}
      >
        Prove it
      </button>
    );
  return <Under what="Tracing both" fraction={proving.fraction} onStop={proving.stop} />;
}
function SaveIt({ splitting }: { splitting: Splitting }) {
  if (splitting.fraction === null)
    return (
      <button
        type="button"
        className={`quiet ${styles.small}`}
        title="A GLB of the objects that it does not leave out and that some ray met, with lights, materials and this camera as the look has them"
        onClick={splitting.save}
      >
        Save what it needs as GLB
      </button>
    );
  return <Under what="Writing the file" fraction={splitting.fraction} onStop={splitting.stop} />;
}
interface UnderProps {
  readonly what: string;
  readonly fraction: number;
  readonly onStop: () => void;
}
function Under({ what, fraction, onStop }: UnderProps) {
  return (
    <div className={styles.proving} role="status">
      <span>
        {what} … {percent(Math.round(fraction * 100) / 100)}
      </span>
      <button type="button" className={`quiet ${styles.small}`} onClick={onStop}>
        Stop
      </button>
    </div>
  );
}

function LatestPicture({ project, camera, variant, index, onFind }: Props) {
  const { data: board } = useBoard(project.id);
  const cell = board?.cells.find((c) => c.cameraId === camera.id && c.variantId === variant.id);
  const render = cell?.render;
  const { widthPx, heightPx } = camera.settings;
  if (!render)
    return (
      <div className={styles.noPicture} style={{ aspectRatio: `${widthPx} / ${heightPx}` }}>
        never rendered
      </div>
    );
  const lost = render.leftOut;
  return (
    <>
      <img
        src={pathOf('renderFile', { renderId: render.id, kind: 'thumbnail' })}
        alt={`${camera.name} in ${variant.name}, ${version(render.version)}`}
        style={{ aspectRatio: `${widthPx} / ${heightPx}` }}
      />
      <p>
        <span className="mono">{version(render.version)}</span>{' '}
        {lost ? (
          <>
            lost at most <b>{shareWords(lost.atMostShare)}</b> of its light; {count(lost.doubtedPixels)} of{' '}
            {count(lost.pixels)} pixels may differ by more than 1 %.
          </>
        ) : (
          'lost nothing.'
        )}
        {cell.status === 'outdated' && <span className="dim"> It is out of date.</span>}
      </p>
      {lost && lost.most.length > 0 && (
        <div className={styles.lostBy}>
          <span className="dim">Most by</span>
          {lost.most.slice(0, NAMED).map(({ object, share }) => {
            const node = index?.nodes.get(object);
            return (
              <button
                key={object}
                type="button"
                className="ellipsis"
                title={object}
                disabled={node === undefined}
                onClick={() => node !== undefined && onFind([node])}
              >
                {object.split('/').at(-1)} <span className="dim mono">{Math.round(share * 100)} %</span>
              </button>
            );
          })}
        </div>
      )}
    </>
  );
}
