// Near and far planes, the depth range of the depth AOV, and what is left out.
import { Switch } from '@mantine/core';
import { LOST_WITH_DROPPED } from '@variscen/core/cull';
import styles from './CameraPanel.module.css';
import { Line, Part } from './CameraPart.tsx';
import type { CameraEditing } from './cameraEditing.tsx';

export function PlanesPart({ edit }: { edit: CameraEditing }) {
  const { cameras, same, set, each, field } = edit;
  return (
    <Part title="Planes and depth">
      {field(
        'Near plane',
        'm',
        same((c) => c.settings.nearM),
        0.0001,
        1e6,
        (v) => each((c) => ({ nearM: Math.min(v, c.farM * 0.999) })),
        { decimals: 4, step: 0.05 },
      )}
      {field(
        'Far plane',
        'm',
        same((c) => c.settings.farM),
        0.001,
        1e7,
        (v) => each((c) => ({ farM: Math.max(v, c.nearM * 1.001) })),
        { decimals: 3, step: 0.5 },
      )}
      {field(
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
      {field(
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
          {field(
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
  );
}
