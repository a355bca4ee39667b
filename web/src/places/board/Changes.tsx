// What has changed since the one cell that is selected was rendered: why it is out of date, or why it is not.
import { Checkbox } from '@mantine/core';
import type { BoardCell, Project } from '@variscen/contract';
import { call } from '../../api/client.ts';

const SHOWN = 8;

export function Changes({ project, cell }: { project: Project; cell: BoardCell }) {
  const { differences, stands, status } = cell;
  if (!differences.length) return null;
  const isKept = stands && status === 'current';
  return (
    <div>
      <h4>{isKept ? 'Changed since, and still up to date' : 'Why out of date'}</h4>
      {differences.slice(0, SHOWN).map((d, i) => (
        <div key={i}>
          {d.subject}, {d.what}{' '}
          <span className="mono">
            {d.was} → {d.is}
          </span>
        </div>
      ))}
      {differences.length > SHOWN && <div className="dim">and {differences.length - SHOWN} more</div>}
      {isKept && (
        <p className="dim">
          No ray of this picture came near what has changed, and no light depends on it: rendered again, it would be the
          same.
        </p>
      )}
      <StaysUnmet project={project} />
    </div>
  );
}

function StaysUnmet({ project }: { project: Project }) {
  const session = useSession(project.id);
  const params = { projectId: project.id };
  const set = (staysUnmet: boolean) =>
    session.writeProject(() => call('updateProject', { params, body: { staysUnmet } }));
  return (
    <Checkbox
      size="xs"
      mt={8}
      label="Pictures stay up to date where no ray met what changed"
      description="In this project. Not where something moves, is shown again, or gives light."
      checked={project.staysUnmet}
      onChange={(e) => void set(e.currentTarget.checked)}
    />
  );
}
import { useSession } from '../../session/projectSession.ts';
