// What the next click in the view is for, over the view, with the other ways.
import type { LightType } from '@variscen/core/scene';
import { parseAdded, targetLabel } from '@variscen/core/looks';
import type { PlacingHow } from '../../../model/lightPlacing.ts';
import { LIGHT_WORDS } from '../../../model/lightWords.ts';
import type { Looking, Picking } from '../useLooking.ts';
import viewStyles from '../view/View.module.css';
import styles from './Lights.module.css';
import type { Lights } from './useLights.ts';

const WAYS: readonly { readonly how: PlacingHow; readonly label: string; readonly asks: string }[] = [
  { how: 'lit', label: 'Light this', asks: 'Click what it should light' },
  { how: 'highlight', label: 'Highlight here', asks: 'Click where its highlight should fall' },
];

export function PickingNote({ looking, lights }: { looking: Looking; lights: Lights }) {
  const { picking, setPicking } = looking;
  if (!picking || picking.for === 'focus') return null;
  return (
    <div role="status" className={viewStyles.status}>
      <span>
        <b>{subjectOf(picking)}</b>{' '}
        {picking.for === 'aim'
          ? 'Click what it should aim at, and follow'
          : WAYS.find((w) => w.how === picking.how)!.asks}
      </span>
      {picking.for === 'place' && (
        <div role="group" aria-label="Where it goes" className={styles.ways}>
          {WAYS.map(({ how, label }) => (
            <button
              type="button"
              key={how}
              className={`tool ${styles.way}`}
              aria-pressed={picking.how === how}
              onClick={() => setPicking({ ...picking, how })}
            >
              {label}
            </button>
          ))}
        </div>
      )}
      {picking.for === 'place' && picking.isNew && (
        <button
          type="button"
          className={`quiet ${viewStyles.quiet}`}
          onClick={() => lights.addByCamera(picking.light as LightType)}
        >
          Beside the camera
        </button>
      )}
      <button type="button" className={`quiet ${viewStyles.quiet}`} onClick={() => setPicking(null)}>
        Cancel
      </button>
    </div>
  );
}

function subjectOf(picking: Exclude<Picking, { for: 'focus' }>): string {
  if (picking.for === 'aim') {
    return picking.targets.length === 1 ? targetLabel(picking.targets[0]!) : `${picking.targets.length} lights`;
  }
  if (picking.isNew) return LIGHT_WORDS[picking.light as LightType];
  return parseAdded(picking.light)?.name ?? picking.light.split('/').at(-1)!;
}
