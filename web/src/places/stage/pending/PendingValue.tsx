import type { Project } from '@variscen/contract';
import { type Change, type SceneIndex, keyOf, parseTarget, propertyOf, unitOf, valueText } from '@variscen/core/looks';
import { recordedIn } from '../../../model/destinations.ts';
import styles from './PendingValue.module.css';

/** “40 cd → 60 cd”: what is recorded there or, where nothing is, what the scene has. */
export function PendingValue({
  project,
  index,
  destination,
  change: c,
}: {
  project: Project;
  index: SceneIndex | undefined;
  destination: string;
  change: Change;
}) {
  const property = propertyOf(c.property);
  const unit = property && index ? unitOf(property, index, c.target) : '';
  const recorded =
    recordedIn(project, destination).find((x) => keyOf(x.target, x.property) === keyOf(c.target, c.property))?.value ??
    (index && property?.base(index, parseTarget(c.target)?.name ?? ''));
  const text = `${valueText(property, recorded, '', index)} → ${valueText(property, c.value, unit, index)}`;
  return (
    <span className={`mono dim ellipsis ${styles.text}`} title={text}>
      {text}
    </span>
  );
}
