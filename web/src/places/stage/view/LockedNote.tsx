// Said when somebody tries to move a camera that is locked, with the ways out.
import type { Camera } from '@variscen/contract';
import styles from './View.module.css';

interface Props {
  camera: Camera;
  onLookAround: () => void;
  onUnlock: () => void;
}
export function LockedNote({ camera, onLookAround, onUnlock }: Props) {
  const follows = camera.settings.follows !== undefined;
  return (
    <div role="status" className={styles.status}>
      {follows ? `“${camera.name}” moves with the scene.` : `“${camera.name}” is locked.`}
      <button type="button" className={`quiet ${styles.quiet}`} onClick={onLookAround}>
        Look around instead
      </button>
      {!follows && (
        <button type="button" className={`quiet ${styles.quiet}`} onClick={onUnlock}>
          Unlock it
        </button>
      )}
    </div>
  );
}
