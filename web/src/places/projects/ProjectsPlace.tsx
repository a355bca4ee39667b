// All projects: make one, open it, delete it.
import { TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { ProjectSummary } from '@variscen/contract';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { call } from '../../api/client.ts';
import { keys, useProjects } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { sayError } from '../../ui/notify.ts';
import { CleanUp } from './CleanUp.tsx';
import { DataFolder } from './DataFolder.tsx';
import { DeleteProject } from './DeleteProject.tsx';
import { LatelyPanel } from './LatelyPanel.tsx';
import { ProjectRow } from './ProjectRow.tsx';
import styles from './ProjectsPlace.module.css';

export function ProjectsPlace() {
  const projects = useProjects();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [doomed, setDoomed] = useState<ProjectSummary | null>(null);
  const [lookedInto, setLookedInto] = useState<ProjectSummary | null>(null);
  const [cleaned, setCleaned] = useState<ProjectSummary | null>(null);

  const create = async () => {
    try {
      const p = await call('createProject', { body: { name } });
      setName('');
      await client.invalidateQueries({ queryKey: keys.projects });
      void navigate(`/projects/${p.id}/scene`);
    } catch (e) {
      sayError(e);
    }
  };
  return (
    <>
      <header className="sentence">
        {projects.data ? (
          <>
            You have <b className="pick">{plural(projects.data.length, 'project')}</b>. Open one, or start another.
          </>
        ) : (
          ''
        )}
      </header>
      <main className={`place ${styles.place}`}>
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void create();
          }}
          className={styles.textInputFrame}
        >
          <TextInput
            aria-label="Name of the new project"
            placeholder="Name of a new project"
            value={name}
            onChange={(e) => setName(e.currentTarget.value)}
            maxLength={120}
            className={styles.nameOfTheNewProject}
            size="sm"
          />
          <button type="submit" className="go" disabled={!name.trim()}>
            Start project
          </button>
        </form>
        <table className="rows">
          <thead>
            <tr>
              <th className={styles.coverColumn} />
              <th>Project</th>
              <th className="n">Cameras</th>
              <th className="n">Variants</th>
              <th className="n">Renders</th>
              <th className="n">Up to date</th>
              <th>Last change</th>
              <th>Scene</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {projects.data?.map((p) => (
              <ProjectRow
                key={p.id}
                project={p}
                onLately={() => setLookedInto(p)}
                onCleanUp={() => setCleaned(p)}
                onDelete={() => setDoomed(p)}
              />
            ))}
          </tbody>
        </table>
        {projects.data?.length === 0 && (
          <div className={`empty ${styles.empty}`}>
            <h1>No project yet</h1>
            <p>Give the first one a name above; then import its scene.</p>
          </div>
        )}
        <DataFolder />
      </main>
      {lookedInto && <LatelyPanel project={lookedInto} onClose={() => setLookedInto(null)} />}
      {cleaned && <CleanUp project={cleaned} onClose={() => setCleaned(null)} />}
      {doomed && <DeleteProject project={doomed} onClose={() => setDoomed(null)} />}
    </>
  );
}
