// The size of the picture, its aspect, and the region that is rendered.
import { Select, Switch } from '@mantine/core';
import { Line, Part } from './CameraPart.tsx';
import type { CameraEditing } from './cameraEditing.tsx';

const FRAME_SIZES = [
  ['1080p', 1920, 1080],
  ['UHD', 3840, 2160],
  ['Square', 2000, 2000],
  ['Portrait 4:5', 1600, 2000],
  ['Upright 9:16', 1080, 1920],
  ['Landscape 3:2', 2400, 1600],
  ['Wide 2.39:1', 2048, 858],
  ['A4 sheet, 150 dpi', 1754, 1240],
] as const;

export function FramePart({ edit }: { edit: CameraEditing }) {
  const { first, settings, one, same, change, set, each, field } = edit;
  const resize = (side: 'widthPx' | 'heightPx', v: number) => {
    const other = side === 'widthPx' ? 'heightPx' : 'widthPx';
    each((c) => ({
      [side]: v,
      ...(first.handling.aspectLocked && {
        [other]: Math.max(16, Math.min(16384, Math.round((c[other] * v) / c[side]))),
      }),
    }));
  };
  return (
    <Part title="Frame">
      <Line label="Preset">
        <Select
          size="xs"
          aria-label="Frame preset"
          placeholder={`${settings.widthPx} × ${settings.heightPx}`}
          value={null}
          data={FRAME_SIZES.map(([name, w, h]) => ({ value: name, label: `${name} · ${w} × ${h}` }))}
          onChange={(v) => {
            const f = FRAME_SIZES.find(([name]) => name === v);
            if (f) set({ widthPx: f[1], heightPx: f[2] });
          }}
          comboboxProps={{ width: 210, position: 'bottom-end' }}
        />
      </Line>
      {field(
        'Width',
        'px',
        same((c) => c.settings.widthPx),
        16,
        16384,
        (v) => resize('widthPx', Math.round(v)),
        { decimals: 0 },
      )}
      {field(
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
        settings.crop &&
        (['left', 'right', 'top', 'bottom'] as const).map((k) => (
          <span key={k}>
            {field(
              `${k[0]!.toUpperCase()}${k.slice(1)} edge`,
              '%',
              settings.crop![k],
              0,
              100,
              (v) => set({ crop: { ...settings.crop!, [k]: v } }),
              { decimals: 2 },
            )}
          </span>
        ))}
    </Part>
  );
}
