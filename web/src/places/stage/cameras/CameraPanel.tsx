// Settings of one camera, or of several at once: what is the same in all shows its value, what differs says so, and what is set is set in all of them.
import { Checkbox, SegmentedControl, Select, Slider, Switch, Textarea } from '@mantine/core';
import type { Camera } from '@variscen/contract';
import { LOST_WITH_DROPPED } from '@variscen/core/cull';
import {
  type CameraSettings,
  GUIDES,
  type Guide,
  PLATE_FITS,
  angleDeg,
  focalForAngleMm,
  poseOf,
  withPose,
  withUprightLines,
} from '@variscen/core/scene';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { sendFile } from '../../../api/client.ts';
import { NumberField } from '../../../ui/NumberField.tsx';
import { plural } from '../../../ui/format.ts';
import { say, sayError } from '../../../ui/notify.ts';
import { type ProjectSession } from '../../../session/projectSession.ts';
import { type CameraChange } from '../../../session/shown.ts';
import styles from './CameraPanel.module.css';

export const FRAME_SIZES = [
  ['1080p', 1920, 1080],
  ['UHD', 3840, 2160],
  ['Square', 2000, 2000],
  ['Portrait 4:5', 1600, 2000],
  ['Upright 9:16', 1080, 1920],
  ['Landscape 3:2', 2400, 1600],
  ['Wide 2.39:1', 2048, 858],
  ['A4 sheet, 150 dpi', 1754, 1240],
] as const;
const SENSORS = [
  ['Full frame', 36],
  ['APS-C', 23.6],
  ['Four thirds', 17.3],
  ['One inch', 13.2],
  ['Medium format', 53.4],
] as const;
const GUIDE_WORDS: Readonly<Record<Guide, string>> = {
  thirds: 'Thirds',
  centre: 'Centre',
  safe: 'Safe areas',
  diagonals: 'Diagonals',
};
const FIT_WORDS = { fit: 'Fit in', fill: 'Fill', stretch: 'Stretch' } as const;

interface Props {
  cameras: readonly Camera[];
  session: ProjectSession;
  animatedFrames: number;
  picking: boolean;
  onPickFocus: (on: boolean) => void;
}

export function CameraPanel({ cameras, session, animatedFrames, picking, onPickFocus }: Props) {
  const [first] = cameras;
  const plateFile = useRef<HTMLInputElement>(null);
  if (!first) return null;
  const ids = cameras.map((c) => c.id);
  const s = first.settings as CameraSettings;
  const one = cameras.length === 1;
  const locked = cameras.some((c) => c.handling.locked);
  const same = <T,>(of: (c: Camera) => T): T | null => {
    const v = of(first);
    return cameras.every((c) => JSON.stringify(of(c)) === JSON.stringify(v)) ? v : null;
  };
  const change = (c: CameraChange) => session.changeCameras(ids, c);
  const set = (settings: Partial<CameraSettings>) => change({ settings });
  /** Values that depend on a camera's others are set one by one. */
  const each = (of: (c: CameraSettings) => Partial<CameraSettings>) => {
    change({ own: cameras.map((c) => ({ cameraId: c.id, settings: of(c.settings as CameraSettings) })) });
  };
  const place = (matrix: readonly number[]) => session.setCamera(first.id, { settings: { ...s, matrix } });
  const resize = (side: 'widthPx' | 'heightPx', v: number) => {
    const other = side === 'widthPx' ? 'heightPx' : 'widthPx';
    each((c) => ({
      [side]: v,
      ...(first.handling.aspectLocked && {
        [other]: Math.max(16, Math.min(16384, Math.round((c[other] * v) / c[side]))),
      }),
    }));
  };
  const pose = poseOf(s.matrix);
  const n = (
    label: string,
    unit: string,
    value: number | null,
    min: number,
    max: number,
    onChange: (v: number) => void,
    more: { step?: number; decimals?: number; disabled?: boolean; empty?: string; onEmpty?: () => void } = {},
  ) => (
    <Line label={label}>
      <NumberField
        label={`${one ? first.name : 'Cameras'}, ${label}`}
        unit={unit}
        value={value}
        min={min}
        max={max}
        onChange={onChange}
        empty={value === null && !one ? 'mixed' : (more.empty ?? '')}
        {...more}
      />
    </Line>
  );
  const plate = async (file: File) => {
    try {
      change({ handling: { plate: { ...(await sendFile('importAsset', file)), fit: 'fit', opacity: 0.5 } } });
    } catch (e) {
      sayError(e);
    }
  };
  return (
    <>
      <h3 className={`ellipsis ${styles.one}`}>{one ? first.name : plural(cameras.length, 'camera')}</h3>
      <div className={`dim ${styles.names}`}>
        {one ? 'Camera' : cameras.map((c) => c.name).join(', ')}
        {locked && (
          <>
            {' '}
            · locked{' '}
            <button type="button" className={styles.unlock} onClick={() => change({ handling: { locked: false } })}>
              Unlock
            </button>
          </>
        )}
      </div>
      <Part title="Frame">
        <Line label="Preset">
          <Select
            size="xs"
            aria-label="Frame preset"
            placeholder={`${s.widthPx} × ${s.heightPx}`}
            value={null}
            data={FRAME_SIZES.map(([name, w, h]) => ({ value: name, label: `${name} · ${w} × ${h}` }))}
            onChange={(v) => {
              const f = FRAME_SIZES.find(([name]) => name === v);
              if (f) set({ widthPx: f[1], heightPx: f[2] });
            }}
            comboboxProps={{ width: 210, position: 'bottom-end' }}
          />
        </Line>
        {n(
          'Width',
          'px',
          same((c) => c.settings.widthPx),
          16,
          16384,
          (v) => resize('widthPx', Math.round(v)),
          { decimals: 0 },
        )}
        {n(
          'Height',
          'px',
          same((c) => c.settings.heightPx),
          16,
          16384,
          (v) => resize('heightPx', Math.round(v)),
          { decimals: 0 },
        )}
        <Line label="Lock aspect">
          <Switch
            size="xs"
            aria-label="Lock aspect"
            checked={same((c) => c.handling.aspectLocked) ?? false}
            onChange={(e) => change({ handling: { aspectLocked: e.currentTarget.checked } })}
          />
        </Line>
        <Line label="Render region">
          <Switch
            size="xs"
            aria-label="Render region"
            checked={same((c) => c.settings.crop !== undefined) ?? false}
            onChange={(e) =>
              set({ crop: e.currentTarget.checked ? { left: 25, top: 25, right: 75, bottom: 75 } : undefined })
            }
          />
        </Line>
        {one &&
          s.crop &&
          (['left', 'right', 'top', 'bottom'] as const).map((k) => (
            <span key={k}>
              {n(
                `${k[0]!.toUpperCase()}${k.slice(1)} edge`,
                '%',
                s.crop![k],
                0,
                100,
                (v) => set({ crop: { ...s.crop!, [k]: v } }),
                { decimals: 2 },
              )}
            </span>
          ))}
      </Part>
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
        {s.projection === 'perspective' ? (
          <>
            {n(
              'Focal length',
              'mm',
              same((c) => c.settings.focalLengthMm),
              1,
              2000,
              (focalLengthMm) => set({ focalLengthMm }),
              { step: 1, decimals: 2 },
            )}
            {n(
              'Horizontal field of view',
              '°',
              same((c) => Number(angleDeg(c.settings).toFixed(3))),
              1,
              170,
              (deg) =>
                each((c) => ({ focalLengthMm: Math.min(2000, Math.max(1, focalForAngleMm(c.sensorWidthMm, deg))) })),
              { decimals: 2 },
            )}
            {n(
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
                value={SENSORS.find(([, w]) => w === s.sensorWidthMm)?.[0] ?? null}
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
          n(
            'Height of view',
            'm',
            same((c) => c.settings.orthoHalfHeightM * 2),
            1e-6,
            2e6,
            (v) => set({ orthoHalfHeightM: v / 2 }),
            { decimals: 3 },
          )
        )}
        {n(
          'Shift right',
          '%',
          same((c) => (c.settings.shiftX ?? 0) * 100),
          -200,
          200,
          (v) => set({ shiftX: v === 0 ? undefined : v / 100 }),
          { decimals: 2 },
        )}
        {n(
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
          disabled={!one || locked || s.follows !== undefined}
          title="Stands the camera level and shifts the lens, so that walls stand upright and the middle stays"
          onClick={() => {
            const upright = withUprightLines(s);
            if (upright) session.setCamera(first.id, { settings: upright });
            else say('This camera cannot be stood upright', 'It looks too steeply, or has no perspective.');
          }}
        >
          Make verticals upright
        </button>
      </Part>
      <Part title="Focus">
        {n(
          'Distance',
          'm',
          same((c) => c.settings.focusDistanceM),
          0.001,
          1e6,
          (focusDistanceM) => set({ focusDistanceM }),
          { decimals: 3, step: 0.05 },
        )}
        <button
          type="button"
          className={`quiet ${styles.wideButtonApart}`}
          aria-pressed={picking}
          disabled={!one}
          onClick={() => onPickFocus(!picking)}
        >
          {picking ? 'Click what should be sharp' : 'Focus on a point…'}
        </button>
        {n(
          'F-stop',
          '',
          same((c) => c.settings.fStop),
          0.1,
          128,
          (fStop) => set({ fStop }),
          { decimals: 2, empty: 'all sharp', onEmpty: () => set({ fStop: null }) },
        )}
        {n(
          'Blades',
          '',
          same((c) => c.settings.blades ?? null),
          3,
          32,
          (v) => set({ blades: Math.round(v) }),
          { decimals: 0, empty: 'round', onEmpty: () => set({ blades: undefined }) },
        )}
      </Part>
      <Part title="Planes and depth">
        {n(
          'Near plane',
          'm',
          same((c) => c.settings.nearM),
          0.0001,
          1e6,
          (v) => each((c) => ({ nearM: Math.min(v, c.farM * 0.999) })),
          { decimals: 4, step: 0.05 },
        )}
        {n(
          'Far plane',
          'm',
          same((c) => c.settings.farM),
          0.001,
          1e7,
          (v) => each((c) => ({ farM: Math.max(v, c.nearM * 1.001) })),
          { decimals: 3, step: 0.5 },
        )}
        {n(
          'Depth from',
          'm',
          same((c) => c.settings.depthRangeM?.near ?? c.settings.nearM),
          0,
          1e7,
          (v) =>
            each((c) => ({
              depthRangeM: {
                near: Math.min(v, (c.depthRangeM?.far ?? c.farM) - 1e-4),
                far: c.depthRangeM?.far ?? c.farM,
              },
            })),
          { decimals: 3, step: 0.1 },
        )}
        {n(
          'Depth to',
          'm',
          same((c) => c.settings.depthRangeM?.far ?? c.settings.farM),
          0,
          1e7,
          (v) =>
            each((c) => ({
              depthRangeM: {
                near: c.depthRangeM?.near ?? c.nearM,
                far: Math.max(v, (c.depthRangeM?.near ?? c.nearM) + 1e-4),
              },
            })),
          { decimals: 3, step: 0.1 },
        )}
        {cameras.some((c) => c.settings.depthRangeM) && (
          <button
            type="button"
            className={`dim ${styles.depthFromPlane}`}
            onClick={() => set({ depthRangeM: undefined })}
          >
            Depth from plane to plane
          </button>
        )}
        <Line label="Leave out off-frame">
          <Switch
            size="xs"
            aria-label="Leave out objects outside the frame"
            checked={same((c) => c.settings.cullMarginPct !== null) ?? false}
            onChange={(e) => set({ cullMarginPct: e.currentTarget.checked ? 10 : null })}
          />
        </Line>
        {same((c) => c.settings.cullMarginPct) !== null && (
          <>
            {n(
              'Margin',
              '%',
              same((c) => c.settings.cullMarginPct),
              0,
              1000,
              (cullMarginPct) => set({ cullMarginPct }),
            )}
            <p className={`faint ${styles.text}`}>{LOST_WITH_DROPPED}</p>
          </>
        )}
      </Part>
      {one && (
        <Part title="Transform">
          {s.follows !== undefined ? (
            <p className={`dim ${styles.movesWith}`}>Moves with “{s.follows}” of the scene.</p>
          ) : (
            <>
              {n('Eye height', 'm', pose.heightM, -1e6, 1e6, (heightM) => place(withPose(s.matrix, { heightM })), {
                decimals: 3,
                step: 0.05,
                disabled: locked,
              })}
              {n('Tilt', '°', pose.tiltDeg, -90, 90, (tiltDeg) => place(withPose(s.matrix, { tiltDeg })), {
                decimals: 2,
                disabled: locked,
              })}
              {n('Pan', '°', pose.panDeg, -180, 180, (panDeg) => place(withPose(s.matrix, { panDeg })), {
                decimals: 2,
                disabled: locked,
              })}
              {n('Roll', '°', pose.rollDeg, -180, 180, (rollDeg) => place(withPose(s.matrix, { rollDeg })), {
                decimals: 2,
                disabled: locked,
              })}
            </>
          )}
        </Part>
      )}
      {animatedFrames > 0 && (
        <Part title="Time">
          {n(
            'Frame',
            '',
            same((c) => c.settings.frame ?? 0),
            0,
            1e6,
            (v) => set({ frame: v === 0 ? undefined : v }),
            { decimals: 2 },
          )}
          {n(
            'First frame',
            '',
            same((c) => c.handling.frames?.first ?? null),
            0,
            1e6,
            (v) =>
              change({
                handling: {
                  frames: {
                    first: Math.round(v),
                    last: Math.max(Math.round(v), first.handling.frames?.last ?? animatedFrames),
                    step: first.handling.frames?.step ?? 1,
                  },
                },
              }),
            { decimals: 0, empty: 'one frame', onEmpty: () => change({ handling: { frames: null } }) },
          )}
          {first.handling.frames && (
            <>
              {n(
                'Last frame',
                '',
                same((c) => c.handling.frames?.last ?? null),
                0,
                1e6,
                (v) =>
                  change({
                    handling: {
                      frames: {
                        ...first.handling.frames!,
                        last: Math.max(first.handling.frames!.first, Math.round(v)),
                      },
                    },
                  }),
                { decimals: 0 },
              )}
              {n(
                'Step',
                '',
                same((c) => c.handling.frames?.step ?? null),
                1,
                1000,
                (v) => change({ handling: { frames: { ...first.handling.frames!, step: Math.round(v) } } }),
                { decimals: 0 },
              )}
            </>
          )}
        </Part>
      )}
      <Part title="Guides and plate">
        <div className={styles.columns}>
          {GUIDES.map((g) => (
            <Checkbox
              key={g}
              size="xs"
              label={GUIDE_WORDS[g]}
              checked={cameras.every((c) => c.handling.guides.includes(g))}
              onChange={(e) =>
                change({ guides: e.currentTarget.checked ? { add: [g], remove: [] } : { add: [], remove: [g] } })
              }
            />
          ))}
        </div>
        <input
          ref={plateFile}
          type="file"
          hidden
          aria-label="Plate"
          accept="image/png,image/jpeg,image/tiff,.tif,.tiff"
          onChange={(e) => {
            const f = e.currentTarget.files?.[0];
            e.currentTarget.value = '';
            if (f) void plate(f);
          }}
        />
        {one && first.handling.plate ? (
          <>
            <div className="ellipsis dim" title={first.handling.plate.name}>
              {first.handling.plate.name} · {first.handling.plate.widthPx} × {first.handling.plate.heightPx}
            </div>
            <SegmentedControl
              fullWidth
              size="xs"
              aria-label="How the plate lies in the frame"
              my={4}
              value={first.handling.plate.fit}
              data={PLATE_FITS.map((f) => ({ value: f, label: FIT_WORDS[f] }))}
              onChange={(fit) =>
                change({ handling: { plate: { ...first.handling.plate!, fit: fit as (typeof PLATE_FITS)[number] } } })
              }
            />
            <Slider
              size="sm"
              aria-label="Opacity of the plate"
              min={0}
              max={1}
              step={0.01}
              defaultValue={first.handling.plate.opacity}
              label={(v) => `${Math.round(v * 100)} %`}
              onChangeEnd={(opacity) => change({ handling: { plate: { ...first.handling.plate!, opacity } } })}
              my={8}
            />
            <button
              type="button"
              className={`quiet ${styles.wideButton}`}
              onClick={() => change({ handling: { plate: null } })}
            >
              Take the plate away
            </button>
          </>
        ) : (
          <button type="button" className={`quiet ${styles.wideButton}`} onClick={() => plateFile.current?.click()}>
            Lay a plate over the frame…
          </button>
        )}
      </Part>
      <Part title="Notes">
        <Notes
          key={ids.join()}
          value={same((c) => c.handling.notes)}
          onChange={(notes) => change({ handling: { notes } })}
        />
      </Part>
    </>
  );
}

const Line = ({ label, children }: { label: string; children: ReactNode }) => (
  <div className={styles.lineColumns}>
    <span className={`dim ${styles.label}`}>{label}</span>
    <div className={styles.stack}>{children}</div>
  </div>
);
const Part = ({ title, children }: { title: string; children: ReactNode }) => (
  <section aria-label={title}>
    <hr className={`hair ${styles.hair}`} />
    <h4>{title}</h4>
    {children}
  </section>
);

function Notes({ value, onChange }: { value: string | null; onChange: (v: string) => void }) {
  const [text, setText] = useState(value ?? '');
  useEffect(() => setText(value ?? ''), [value]);
  return (
    <Textarea
      size="xs"
      autosize
      minRows={2}
      maxRows={6}
      maxLength={4000}
      aria-label="Notes on the camera"
      placeholder={value === null ? 'mixed' : ''}
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => {
        if (text !== (value ?? '')) onChange(text);
      }}
    />
  );
}
