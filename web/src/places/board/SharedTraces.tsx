// Pictures that differ in light alone come from one trace: how many they are, what that is worth, and whether it is
// wanted.
import { Checkbox } from '@mantine/core';
import type { Plan } from '@variscen/contract';
import { sharedLight } from '../../model/planFigures.ts';
import { duration, plural } from '../../ui/format.ts';
import styles from './PlanPanel.module.css';

interface Props {
  readonly plan: Plan;
  /** Each is traced by itself. */
  readonly isSeparate: boolean;
  readonly onSeparate: (isSeparate: boolean) => void;
}

export function SharedTraces({ plan, isSeparate, onSeparate }: Props) {
  const { pictures, traces, savedS } = sharedLight(plan);
  if (!isSeparate && traces === 0) return null;
  const saved = savedS === null ? '' : `, about ${duration(savedS)} less than one by one`;
  return (
    <div className={styles.stack}>
      {traces > 0 && (
        <div className="dim">
          {plural(pictures, 'lighting')} from {plural(traces, 'trace')}
          {saved}.
        </div>
      )}
      <Checkbox
        size="xs"
        label="Trace each lighting by itself"
        description="Light adds up: what differs only in how bright its lights are, and of what colour, needs one trace."
        checked={isSeparate}
        onChange={(e) => onSeparate(e.currentTarget.checked)}
      />
    </div>
  );
}
