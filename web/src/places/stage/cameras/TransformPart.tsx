// Where the camera stands and looks.
import { type CameraPose, type CameraSettings, poseOf, withPose } from '@variscen/core/scene';
import { useMovedCamera } from '../../../session/cameraMoves.ts';
import styles from './CameraPanel.module.css';
import { Part } from './CameraPart.tsx';
import type { CameraEditing } from './cameraEditing.tsx';

export function TransformPart({ edit }: { edit: CameraEditing }) {
  const { session, first, locked, field } = edit;
  const settings = useMovedCamera(session.moves, first).settings as CameraSettings;
  const pose = rounded(poseOf(settings.matrix));
  const place = (matrix: readonly number[]) => session.setCamera(first.id, { settings: { ...settings, matrix } });
  return (
    <Part title="Transform">
      {settings.follows !== undefined ? (
        <p className={`dim ${styles.movesWith}`}>Moves with “{settings.follows}” of the scene.</p>
      ) : (
        <>
          {field(
            'Eye height',
            'm',
            pose.heightM,
            -1e6,
            1e6,
            (heightM) => place(withPose(settings.matrix, { heightM })),
            {
              decimals: 3,
              step: 0.05,
              disabled: locked,
            },
          )}
          {field('Tilt', '°', pose.tiltDeg, -90, 90, (tiltDeg) => place(withPose(settings.matrix, { tiltDeg })), {
            decimals: 2,
            disabled: locked,
          })}
          {field('Pan', '°', pose.panDeg, -180, 180, (panDeg) => place(withPose(settings.matrix, { panDeg })), {
            decimals: 2,
            disabled: locked,
          })}
          {field('Roll', '°', pose.rollDeg, -180, 180, (rollDeg) => place(withPose(settings.matrix, { rollDeg })), {
            decimals: 2,
            disabled: locked,
          })}
        </>
      )}
    </Part>
  );
}

/** What is left of turning by nothing is nothing. */
const rounded = (pose: CameraPose): CameraPose => ({ ...pose, rollDeg: Number(pose.rollDeg.toFixed(4)) });
