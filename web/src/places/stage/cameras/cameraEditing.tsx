// One or several cameras that are edited together: what they have in common, and ways to change all of them as one
// edit.
import type { Camera } from '@variscen/contract';
import type { CameraSettings } from '@variscen/core/scene';
import type { ReactNode } from 'react';
import type { ProjectSession } from '../../../session/projectSession.ts';
import type { CameraChange } from '../../../session/shown.ts';
import { DragLabel } from '../../../ui/DragLabel.tsx';
import { NumberField } from '../../../ui/NumberField.tsx';
import { Line } from './CameraPart.tsx';

interface FieldOptions {
  readonly step?: number;
  readonly decimals?: number;
  readonly disabled?: boolean;
  readonly empty?: string;
  readonly onEmpty?: () => void;
}

export interface CameraEditing {
  readonly cameras: readonly Camera[];
  readonly session: ProjectSession;
  readonly first: Camera;
  readonly settings: CameraSettings;
  readonly one: boolean;
  readonly locked: boolean;
  /** The value that all have; null where they differ. */
  same<T>(of: (c: Camera) => T): T | null;
  change(change: CameraChange): void;
  set(settings: Partial<CameraSettings>): void;
  /** Values that depend on a camera's others. */
  each(of: (c: CameraSettings) => Partial<CameraSettings>): void;
  /** A line with a number; value null: the cameras differ, or none is set. */
  field(
    label: string,
    unit: string,
    value: number | null,
    min: number,
    max: number,
    onChange: (v: number) => void,
    options?: FieldOptions,
  ): ReactNode;
}

/** Of at least one camera. */
export function cameraEditing(cameras: readonly Camera[], first: Camera, session: ProjectSession): CameraEditing {
  const ids = cameras.map((c) => c.id);
  const one = cameras.length === 1;
  const change = (c: CameraChange) => session.changeCameras(ids, c);
  return {
    cameras,
    session,
    first,
    settings: first.settings as CameraSettings,
    one,
    locked: cameras.some((c) => c.handling.locked),
    same: (of) => {
      const value = of(first);
      return cameras.every((c) => JSON.stringify(of(c)) === JSON.stringify(value)) ? value : null;
    },
    change,
    set: (settings) => change({ settings }),
    each: (of) => change({ own: cameras.map((c) => ({ cameraId: c.id, settings: of(c.settings as CameraSettings) })) }),
    field: (label, unit, value, min, max, onChange, options = {}) => {
      const { step = 1, disabled = false } = options;
      return (
        <Line
          label={
            <DragLabel value={value} range={{ min, max, step }} disabled={disabled} onChange={onChange}>
              {label}
            </DragLabel>
          }
        >
          <NumberField
            label={`${one ? first.name : 'Cameras'}, ${label}`}
            unit={unit}
            value={value}
            min={min}
            max={max}
            onChange={onChange}
            empty={value === null && !one ? 'mixed' : (options.empty ?? '')}
            {...options}
          />
        </Line>
      );
    },
  };
}
