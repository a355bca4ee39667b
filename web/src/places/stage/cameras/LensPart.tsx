// Projection, focal length or height, sensor, shift.
import { SegmentedControl, Select } from '@mantine/core';
import { type CameraSettings, angleDeg, focalForAngleMm, withUprightLines } from '@variscen/core/scene';
import { say } from '../../../ui/notify.ts';
import styles from './CameraPanel.module.css';
import { Line, Part } from './CameraPart.tsx';
import type { CameraEditing } from './cameraEditing.tsx';

const SENSORS = [
  ['Full frame', 36],
  ['APS-C', 23.6],
  ['Four thirds', 17.3],
  ['One inch', 13.2],
  ['Medium format', 53.4],
] as const;

export function LensPart({ edit }: { edit: CameraEditing }) {
  const { session, first, settings, one, locked, same, set, each, field } = edit;
  return (
    <Part title="Lens">
      <SegmentedControl
        fullWidth
        size="xs"
        aria-label="Projection"
        value={same((c) => c.settings.projection) ?? ''}
        data={[
          { value: 'perspective', label: 'Perspective' },
          { value: 'orthographic', label: 'Orthographic' },
        ]}
        onChange={(v) => set({ projection: v as CameraSettings['projection'] })}
        mb={4}
      />
      {settings.projection === 'perspective' ? (
        <>
          {field(
            'Focal length',
            'mm',
            same((c) => c.settings.focalLengthMm),
            1,
            2000,
            (focalLengthMm) => set({ focalLengthMm }),
            { step: 1, decimals: 2 },
          )}
          {field(
            'Horizontal field of view',
            '°',
            same((c) => Number(angleDeg(c.settings).toFixed(3))),
            1,
            170,
            (deg) =>
              each((c) => ({ focalLengthMm: Math.min(2000, Math.max(1, focalForAngleMm(c.sensorWidthMm, deg))) })),
            { decimals: 2 },
          )}
          {field(
            'Sensor width',
            'mm',
            same((c) => c.settings.sensorWidthMm),
            1,
            200,
            (sensorWidthMm) => set({ sensorWidthMm }),
            { decimals: 2 },
          )}
          <Line label="Sensor">
            <Select
              size="xs"
              aria-label="Sensor"
              placeholder="Own"
              value={SENSORS.find(([, w]) => w === settings.sensorWidthMm)?.[0] ?? null}
              data={SENSORS.map(([name, w]) => ({ value: name, label: `${name} · ${w} mm` }))}
              onChange={(v) => {
                const f = SENSORS.find(([name]) => name === v);
                if (f) set({ sensorWidthMm: f[1] });
              }}
              comboboxProps={{ width: 190, position: 'bottom-end' }}
            />
          </Line>
        </>
      ) : (
        field(
          'Height of view',
          'm',
          same((c) => c.settings.orthoHalfHeightM * 2),
          1e-6,
          2e6,
          (v) => set({ orthoHalfHeightM: v / 2 }),
          { decimals: 3 },
        )
      )}
      {field(
        'Shift right',
        '%',
        same((c) => (c.settings.shiftX ?? 0) * 100),
        -200,
        200,
        (v) => set({ shiftX: v === 0 ? undefined : v / 100 }),
        { decimals: 2 },
      )}
      {field(
        'Shift up',
        '%',
        same((c) => (c.settings.shiftY ?? 0) * 100),
        -200,
        200,
        (v) => set({ shiftY: v === 0 ? undefined : v / 100 }),
        { decimals: 2 },
      )}
      <button
        type="button"
        className={`quiet ${styles.quiet}`}
        disabled={!one || locked || settings.follows !== undefined}
        title="Stands the camera level and shifts the lens, so that walls stand upright and the middle stays"
        onClick={() => {
          const upright = withUprightLines(settings);
          if (upright) session.setCamera(first.id, { settings: upright });
          else say('This camera cannot be stood upright', 'It looks too steeply, or has no perspective.');
        }}
      >
        Make verticals upright
      </button>
    </Part>
  );
}
