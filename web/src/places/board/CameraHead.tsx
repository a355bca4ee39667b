// A row's head: the camera's name, lens and frame; its settings are on the stage.
import { Menu } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { culls } from '@variscen/core/cull';
import type { CameraSettings } from '@variscen/core/scene';
import { Link } from 'react-router';
import styles from './CameraHead.module.css';

/** By which ways it is culled; “Same picture”, of which nothing can go missing, is not mentioned. */
function waysWords(settings: CameraSettings): string {
  const { standIns, ...others } = settings.cull ?? {};
  const leavesOut = culls({ ...settings, cull: others });
  return [leavesOut && 'leaves out', standIns && 'simplifies'].filter(Boolean).join(', ');
}

export function CameraHead({
  project,
  camera,
  onSelect,
}: {
  project: Project;
  camera: Project['cameras'][number];
  onSelect: (add: boolean) => void;
}) {
  const s = camera.settings;
  return (
    <div role="rowheader" className={styles.rowheader}>
      <Menu position="right-start">
        <Menu.Target>
          <button type="button" className={styles.name} aria-label={`Camera ${camera.name}`}>
            {camera.name}
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => onSelect(false)}>Select the row</Menu.Item>
          <Menu.Item onClick={() => onSelect(true)}>Add the row to the selection</Menu.Item>
          <Menu.Item component={Link} to={`/projects/${project.id}/stage?camera=${camera.id}&side=cameras`}>
            Its settings, on the stage
          </Menu.Item>
          <Menu.Item component={Link} to={`/projects/${project.id}/cull?camera=${camera.id}`}>
            What it needs, and what it leaves out
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <div className={`mono dim ${styles.projection}`}>
        {s.projection === 'perspective' ? `${Number(s.focalLengthMm.toPrecision(3))} mm` : 'orthographic'}
        <br />
        {s.widthPx} × {s.heightPx}
        {s.frame ? (
          <>
            <br />
            frame {s.frame}
          </>
        ) : null}
        {s.crop && (
          <>
            <br />a part
          </>
        )}
        {culls(s as CameraSettings) && (
          <>
            <br />
            <Link
              className={styles.leaves}
              to={`/projects/${project.id}/cull?camera=${camera.id}`}
              title="What it needs, and what it leaves out"
            >
              {waysWords(s as CameraSettings)}
            </Link>
          </>
        )}
      </div>
    </div>
  );
}
