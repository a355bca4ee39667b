// The cell's latest picture, and what it lost at most, by whom.
import type { Camera, Project, Variant } from '@variscen/contract';
import { percent as shareWords } from '@variscen/core/cull';
import type { SceneIndex } from '@variscen/core/looks';
import { pathOf } from '../../api/client.ts';
import { useBoard } from '../../api/queries.ts';
import { count, percent, version } from '../../ui/format.ts';
import styles from './CullPlace.module.css';
import { ProofDialog } from './ProofDialog.tsx';
import { useProof } from './useProof.ts';
import { useSplit } from './useSplit.ts';

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
        <LongAct
          label="Prove it"
          title="Traces the whole scene and what is left of it, at the same seeds"
          doing="Tracing both"
          fraction={proving.fraction}
          onBegin={proving.prove}
          onStop={proving.stop}
        />
        <LongAct
          label="Save what it needs as GLB"
          title="A GLB of the objects that it does not leave out and that some ray met, with lights, materials and this camera as the look has them"
          doing="Writing the file"
          fraction={splitting.fraction}
          onBegin={splitting.save}
          onStop={splitting.stop}
        />
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

interface LongActProps {
  readonly label: string;
  readonly title: string;
  /** What is done meanwhile. */
  readonly doing: string;
  /** 0…1 while it is done; null: it is not. */
  readonly fraction: number | null;
  readonly onBegin: () => void;
  readonly onStop: () => void;
}
/** A button; while what it begins is done, how far that is. */
function LongAct({ label, title, doing, fraction, onBegin, onStop }: LongActProps) {
  if (fraction === null)
    return (
      <button type="button" className={`quiet ${styles.small}`} title={title} onClick={onBegin}>
        {label}
      </button>
    );
  return (
    <div className={styles.proving} role="status">
      <span>
        {doing} … {percent(Math.round(fraction * 100) / 100)}
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
                {object.split('/').at(-1)} <span className="dim mono">{shareWords(share)}</span>
              </button>
            );
          })}
        </div>
      )}
    </>
  );
}
