// What the lines on a plate are, how large all of it is, and the camera that comes of it.
import { SegmentedControl, Select } from '@mantine/core';
import { type PlateMatch, RUNS_ALONG, type RunsAlong, angleDeg, poseOf } from '@variscen/core/scene';
import { NumberField } from '../../../ui/NumberField.tsx';
import cameraStyles from '../cameras/CameraPanel.module.css';
import { Line } from '../cameras/CameraPart.tsx';
import { FIRST_LENGTH } from './firstLines.ts';
import styles from './Match.module.css';
import type { Found, Matching } from './useMatching.ts';

const ALONG_WORDS: Readonly<Record<RunsAlong, string>> = {
  '-z': '−Z, away',
  '+x': 'X, to the right',
  '+z': 'Z, away',
  '-x': '−X, to the right',
};
const SECOND_WORDS = [
  { value: 'level', label: 'Level' },
  { value: 'upright', label: 'Upright' },
];
const SCALE_WORDS = [
  { value: 'height', label: 'Eye height' },
  { value: 'length', label: 'A length' },
];

/** Shown where a plate lies over the frame of a camera. */
export function MatchPart({ matching, name }: { matching: Matching; name: string }) {
  const { lines, barred, begin, setInto, plateHeightPx, reshape } = matching;
  if (lines) return <Lines matching={matching} lines={lines} name={name} />;
  return (
    <>
      <button
        type="button"
        className={`quiet ${cameraStyles.wideButtonApart}`}
        disabled={barred !== null}
        title={barred ?? 'Find where the camera stood and its lens, by lines that you draw on the plate'}
        onClick={begin}
      >
        Match the camera to the plate…
      </button>
      {plateHeightPx !== null && barred === null && (
        <button
          type="button"
          className={`quiet ${cameraStyles.wideButtonApart}`}
          title="Under pictures a plate fills the frame: what does not fit is cut off"
          onClick={reshape}
        >
          Frame in the plate’s shape, {plateHeightPx} px high
        </button>
      )}
      <button
        type="button"
        className={`quiet ${cameraStyles.wideButtonApart}`}
        title="Pending edits of the Environment: the plate behind all, a ground that catches shadow, a sky of its colours"
        onClick={() => void setInto()}
      >
        Set the scene into the plate
      </button>
    </>
  );
}

function Lines({ matching, lines, name }: { matching: Matching; lines: PlateMatch; name: string }) {
  const { found, draw, take, leave } = matching;
  const set = (some: Partial<PlateMatch>) => draw({ ...lines, ...some });
  return (
    <div role="group" aria-label="Match the camera to the plate">
      <p className={`dim ${cameraStyles.text}`}>
        Lay two lines along edges that run side by side, and two along edges at right angles to them. The cross is a
        point on the ground.
      </p>
      <Line label="First pair runs">
        <Select
          size="xs"
          aria-label="First pair runs along"
          value={lines.firstAlong}
          data={RUNS_ALONG.map((value) => ({ value, label: ALONG_WORDS[value] }))}
          allowDeselect={false}
          onChange={(v) => {
            if (v) set({ firstAlong: v as RunsAlong });
          }}
        />
      </Line>
      <Line label="Second pair is">
        <SegmentedControl
          size="xs"
          aria-label="Second pair is"
          value={lines.secondIs}
          data={SECOND_WORDS}
          onChange={(v) => set({ secondIs: v as PlateMatch['secondIs'] })}
        />
      </Line>
      <Line label="Scale by">
        <SegmentedControl
          size="xs"
          aria-label="Scale by"
          value={lines.scale.by}
          data={SCALE_WORDS}
          onChange={(by) =>
            set({
              scale:
                by === 'height' ? { by: 'height', heightM: 1.6 } : { by: 'length', line: FIRST_LENGTH, lengthM: 1 },
            })
          }
        />
      </Line>
      <Scale name={name} lines={lines} onChange={set} />
      <div className={`dim ${styles.where}`}>The cross is at</div>
      <div className={styles.points}>
        {(['X', 'Y', 'Z'] as const).map((axis, k) => (
          <NumberField
            key={axis}
            letter={axis}
            label={`The cross is at ${axis}`}
            unit="m"
            value={lines.groundAt[k]!}
            min={-1e5}
            max={1e5}
            step={0.1}
            onChange={(v) => set({ groundAt: lines.groundAt.with(k, v) as unknown as PlateMatch['groundAt'] })}
          />
        ))}
      </div>
      {found && <Said found={found} lines={lines} />}
      <div className={styles.buttons}>
        <button type="button" className="go" disabled={found?.kind !== 'camera'} onClick={take}>
          Take this camera
        </button>
        <button type="button" className="quiet" onClick={leave}>
          Leave it
        </button>
      </div>
    </div>
  );
}

interface ScaleProps {
  name: string;
  lines: PlateMatch;
  onChange: (some: Partial<PlateMatch>) => void;
}
function Scale({ name, lines: { scale }, onChange }: ScaleProps) {
  const isHeight = scale.by === 'height';
  const label = isHeight ? 'Eye over the ground' : 'Dotted line is';
  return (
    <Line label={label}>
      <NumberField
        label={`${name}, ${label}`}
        unit="m"
        value={isHeight ? scale.heightM : scale.lengthM}
        min={0.001}
        max={1e5}
        step={0.05}
        onChange={(v) => onChange({ scale: isHeight ? { ...scale, heightM: v } : { ...scale, lengthM: v } })}
      />
    </Line>
  );
}

function Said({ found, lines }: { found: Found; lines: PlateMatch }) {
  if (found.kind === 'fault')
    return (
      <p role="status" className={styles.fault}>
        {found.message}
      </p>
    );
  const { settings, camera } = found;
  const pose = poseOf(settings.matrix);
  const number = (x: number, digits: number) => Number(x.toFixed(digits)).toString().replace('-', '−');
  return (
    <p role="status" className={`mono ${styles.found}`}>
      {number(settings.focalLengthMm, 1)} mm, {number(angleDeg(settings), 1)}° wide
      {camera.focalIsFound ? '' : ' (its own: one pair is parallel)'}
      <br />
      {number(pose.heightM - lines.groundAt[1], 2)} m over the ground
      <br />
      tilt {number(pose.tiltDeg, 1)}°, pan {number(pose.panDeg, 1)}°, roll {number(pose.rollDeg, 1)}°
    </p>
  );
}
