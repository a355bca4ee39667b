// Guides over the view, and a plate to match against.
import { Checkbox, SegmentedControl, Slider } from '@mantine/core';
import { GUIDES, type Guide, PLATE_FITS } from '@variscen/core/scene';
import { useRef } from 'react';
import { sendFile } from '../../../api/client.ts';
import { sayError } from '../../../ui/notify.ts';
import styles from './CameraPanel.module.css';
import { Part } from './CameraPart.tsx';
import { MatchPart } from '../match/MatchPart.tsx';
import type { Matching } from '../match/useMatching.ts';
import type { CameraEditing } from './cameraEditing.tsx';

const GUIDE_WORDS: Readonly<Record<Guide, string>> = {
  thirds: 'Thirds',
  centre: 'Centre',
  safe: 'Safe areas',
  diagonals: 'Diagonals',
};

const FIT_WORDS = { fit: 'Fit in', fill: 'Fill', stretch: 'Stretch' } as const;

export function GuidesPart({ edit, matching }: { edit: CameraEditing; matching: Matching }) {
  const { cameras, first, one, change } = edit;
  const plateFile = useRef<HTMLInputElement>(null);
  const plate = async (file: File) => {
    try {
      change({ handling: { plate: { ...(await sendFile('importAsset', file)), fit: 'fit', opacity: 0.5 } } });
    } catch (e) {
      sayError(e);
    }
  };
  return (
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
          <MatchPart matching={matching} name={first.name} />
        </>
      ) : (
        <button type="button" className={`quiet ${styles.wideButton}`} onClick={() => plateFile.current?.click()}>
          Lay a plate over the frame…
        </button>
      )}
    </Part>
  );
}
