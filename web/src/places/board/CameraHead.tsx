// A row's head: the camera's name, lens and frame; its settings are on the stage.
import { Menu } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { Link } from 'react-router';

export function CameraHead({
  project,
  camera,
  onChoose,
}: {
  project: Project;
  camera: Project['cameras'][number];
  onChoose: (add: boolean) => void;
}) {
  const s = camera.settings;
  return (
    <div
      role="rowheader"
      style={{
        alignSelf: 'center',
        position: 'sticky',
        left: 0,
        background: 'var(--table)',
        zIndex: 1,
        padding: '4px 0',
      }}
    >
      <Menu position="right-start">
        <Menu.Target>
          <button type="button" style={{ fontWeight: 600 }} aria-label={`Camera ${camera.name}`}>
            {camera.name}
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => onChoose(false)}>Select the row</Menu.Item>
          <Menu.Item onClick={() => onChoose(true)}>Add the row to the selection</Menu.Item>
          <Menu.Item component={Link} to={`/projects/${project.id}/stage?camera=${camera.id}&side=cameras`}>
            Its settings, on the stage
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <div className="mono dim" style={{ fontSize: 11 }}>
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
        {s.cullMarginPct !== null && (
          <>
            <br />
            culls, {s.cullMarginPct} %
          </>
        )}
      </div>
    </div>
  );
}
