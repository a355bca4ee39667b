// The frame that every place shares: the rail at the left, the sentence on top.
import { Suspense, lazy } from 'react';
import { Navigate, Route, Routes, useParams } from 'react-router';
import { useProject, useProjects } from '../api/queries.ts';
import { BoardPlace } from '../places/board/BoardPlace.tsx';
import { LibraryPlace } from '../places/library/LibraryPlace.tsx';
import { ProjectsPlace } from '../places/projects/ProjectsPlace.tsx';
import { QueuePlace } from '../places/queue/QueuePlace.tsx';
import { ScenePlace } from '../places/scene/ScenePlace.tsx';
import { Rail } from '../shell/Rail.tsx';

// the view's library is large; the other places do not wait for it
const StagePlace = lazy(() => import('../places/stage/StagePlace.tsx').then((m) => ({ default: m.StagePlace })));

export function App() {
  return (
    <div className="app">
      <Routes>
        <Route path="/" element={<First />} />
        <Route
          path="/projects"
          element={
            <>
              <Rail />
              <ProjectsPlace />
            </>
          }
        />
        <Route path="/projects/:projectId/stage" element={<InProject place="stage" />} />
        <Route path="/projects/:projectId/scene" element={<InProject place="scene" />} />
        <Route path="/projects/:projectId/board" element={<InProject place="board" />} />
        <Route
          path="/library"
          element={
            <>
              <Rail />
              <LibraryPlace />
            </>
          }
        />
        <Route
          path="/queue"
          element={
            <>
              <Rail />
              <QueuePlace />
            </>
          }
        />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
    </div>
  );
}

/** Home is the board of the project that was open last. */
function First() {
  const projects = useProjects();
  const last = localStorage.getItem('variscen.project');
  if (!projects.data) return null;
  const open = projects.data.find((p) => p.id === last && p.hasScene) ?? projects.data.find((p) => p.hasScene);
  return <Navigate to={open ? `/projects/${open.id}/board` : '/projects'} replace />;
}

function InProject({ place }: { place: 'stage' | 'board' | 'scene' }) {
  const { projectId = '' } = useParams();
  const { data: project, error } = useProject(projectId);
  if (error)
    return (
      <>
        <Rail />
        <header className="sentence">This project cannot be shown.</header>
        <main className="place empty">
          <h1>{error.message}</h1>
          <p>It may have been deleted. Choose another under Projects.</p>
        </main>
      </>
    );
  if (!project)
    return (
      <>
        <Rail projectId={projectId} />
        <header className="sentence" />
        <main className="place" aria-busy />
      </>
    );
  localStorage.setItem('variscen.project', projectId);
  return (
    <>
      <Rail projectId={projectId} />
      {place === 'board' ? (
        <BoardPlace project={project} />
      ) : place === 'scene' ? (
        <ScenePlace project={project} />
      ) : (
        <Suspense
          fallback={
            <>
              <header className="sentence" />
              <main className="place" aria-busy />
            </>
          }
        >
          <StagePlace project={project} />
        </Suspense>
      )}
    </>
  );
}
