// Whether what the camera needs is known, and how to find it out.
import type { Project, Variant } from '@variscen/contract';
import { percent } from '../../ui/format.ts';
import { Bar } from '../../ui/Bar.tsx';
import styles from './CullPlace.module.css';
import type { CullState } from './useCull.ts';

interface Props {
  readonly project: Project;
  readonly variant: Variant;
  readonly cull: CullState;
}
export function MeasuredNote({ project, variant, cull }: Props) {
  const { measured, looking, measure, stop } = cull;
  if (looking !== null)
    return (
      <div className={styles.note} role="status">
        <span>Looking at the whole scene … {percent(Math.round(looking * 100) / 100)}</span>
        <Bar fraction={looking} className={styles.noteBar} />
        <button type="button" className={`quiet ${styles.small}`} onClick={stop}>
          Stop
        </button>
      </div>
    );
  if (!measured) return null;
  const { measuredVariantIds, unmeasuredVariantIds: missing } = measured;
  if (!missing.length) return null;
  const isShownMissing = missing.includes(variant.id);
  const words = measuredVariantIds.length
    ? `Measured in ${measuredVariantIds.length} of ${measuredVariantIds.length + missing.length} variants: what only the others need may be left out.`
    : 'Not measured since the last change: what the camera sees, reflects and is lit by is not known yet.';
  return (
    <div className={styles.note}>
      <span>{words}</span>
      {isShownMissing && (
        <button
          type="button"
          className={`${measuredVariantIds.length ? 'quiet' : 'go'} ${styles.small}`}
          onClick={() => measure([variant.id])}
        >
          Measure {variant.name}
        </button>
      )}
      {project.variants.length > 1 && (missing.length > 1 || !isShownMissing) && (
        <button type="button" className={`quiet ${styles.small}`} onClick={() => measure(missing)}>
          Measure {missing.length} variants
        </button>
      )}
    </div>
  );
}
