// What the planes of a camera cut open, by name, with the nearest distances that do not.
import type { CameraSettings, PlaneCut } from '@variscen/core/scene';
import { metres } from '../../../ui/format.ts';
import styles from './PlanView.module.css';

const NAMED = 3;

export interface Cut extends PlaneCut {
  readonly which: 'near' | 'far';
}
interface Props {
  camera: CameraSettings | undefined;
  cuts: readonly Cut[];
  nameOf: (node: number) => string;
  onMove: (which: 'near' | 'far', distanceM: number) => void;
}
export function PlaneCuts({ camera, cuts, nameOf, onMove }: Props) {
  return (
    <div className={styles.cuts} data-any={cuts.length > 0} role="status" aria-label="What the planes cut">
      {camera &&
        cuts.map(({ which, nodes, nearerM, fartherM }) => (
          <div key={which} className={styles.cut}>
            <span className={styles.cutNames}>
              The {which} plane cuts open{' '}
              {nodes
                .slice(0, NAMED)
                .map((n) => `“${nameOf(n)}”`)
                .join(', ')}
              {nodes.length > NAMED && ` and ${nodes.length - NAMED} more`}.
            </span>{' '}
            {[nearerM, fartherM].map(
              (d) =>
                d !== null && (
                  <button
                    type="button"
                    key={d}
                    className={`quiet ${styles.sideButton}`}
                    onClick={() => onMove(which, d)}
                  >
                    {which === 'near' ? 'Near' : 'Far'} plane at {metres(d)}
                  </button>
                ),
            )}
          </div>
        ))}
    </div>
  );
}
