// The frame that every place shares: the rail at the left, the sentence on top.
import { type ReactNode, useEffect } from 'react';
import { Navigate, Route, Routes, useParams } from 'react-router';
import type { Project } from '@variscen/contract';
import { useProject, useProjects } from '../api/queries.ts';
import { BoardPlace } from '../places/board/BoardPlace.tsx';
import { CullPlace } from '../places/cull/CullPlace.tsx';
import { LibraryPlace } from '../places/library/LibraryPlace.tsx';
import { MachinesPlace } from '../places/machines/MachinesPlace.tsx';
import { ProjectsPlace } from '../places/projects/ProjectsPlace.tsx';
import { QueuePlace } from '../places/queue/QueuePlace.tsx';
import { ScenePlace } from '../places/scene/ScenePlace.tsx';
import { useSession } from '../session/projectSession.ts';
import { ConnectionNote } from '../shell/ConnectionNote.tsx';
import { Rail } from '../shell/Rail.tsx';
import { Tour } from '../shell/tour/Tour.tsx';
import { laterPlace } from './laterPlace.tsx';
import { PlaceBoundary, Unreadable } from './PlaceBoundary.tsx';

// the view's library is large, and so are charts; the other places do not wait for them
const { Place: StagePlace, load: loadStage } = laterPlace(
  () => import('../places/stage/StagePlace.tsx').then((m) => m.StagePlace),
  Waiting,
);
const { Place: ReviewPlace, load: loadReview } = laterPlace(
  () => import('../places/review/ReviewPlace.tsx').then((m) => m.ReviewPlace),
  Waiting,
);

const AHEAD_MS = 1500;
/** When the first place stands, the code of those that somebody may go to next is read, one after the other. */
function useLoadedAhead(): void {
  useEffect(() => {
    // what cannot be read now is read when it is needed
    const ahead = [loadReview, loadStage].map((load, i) =>
      setTimeout(() => void load().catch(() => undefined), AHEAD_MS * (i + 1)),
    );
    return () => ahead.forEach(clearTimeout);
  }, []);
}

export function App() {
  useLoadedAhead();
  return (
    <div className="app">
      <Routes>
        <Route path="/" element={<First />} />
        <Route path="/projects" element={<Framed place={<ProjectsPlace />} />} />
        <Route path="/projects/:projectId/stage" element={<InProject place={(p) => <StagePlace project={p} />} />} />
        <Route path="/projects/:projectId/scene" element={<InProject place={(p) => <ScenePlace project={p} />} />} />
        <Route path="/projects/:projectId/board" element={<InProject place={(p) => <BoardPlace project={p} />} />} />
        <Route path="/projects/:projectId/cull" element={<InProject place={(p) => <CullPlace project={p} />} />} />
        <Route
          path="/projects/:projectId/review"
          element={<InProject place={(p) => <ReviewPlace key={p.id} project={p} />} />}
        />
        <Route path="/library" element={<Framed place={<LibraryPlace />} />} />
        <Route path="/queue/machines" element={<Framed place={<MachinesPlace />} />} />
        <Route path="/queue" element={<Framed place={<QueuePlace />} />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
      <Tour />
    </div>
  );
}

function Framed({ projectId, place }: { projectId?: string; place: ReactNode }) {
  return (
    <>
      <Rail {...(projectId !== undefined && { projectId })} />
      <PlaceBoundary>{place}</PlaceBoundary>
    </>
  );
}

function Waiting() {
  return (
    <>
      <header className="sentence" />
      <main className="place" aria-busy />
    </>
  );
}

/** Home is the board of the project that was open last. */
function First() {
  const projects = useProjects();
  if (projects.error) {
    const again = () => void projects.refetch();
    return <Framed place={<Unreadable what="The list of projects" error={projects.error} onAgain={again} />} />;
  }
  if (!projects.data) return <Framed place={<Waiting />} />;
  const last = localStorage.getItem('variscen.project');
  const withScene = projects.data.filter((p) => p.hasScene);
  const open = withScene.find((p) => p.id === last) ?? withScene[0];
  return <Navigate to={open ? `/projects/${open.id}/board` : '/projects'} replace />;
}

function InProject({ place }: { place: (project: Project) => ReactNode }) {
  const { projectId = '' } = useParams();
  const { data: project, error, refetch } = useProject(projectId);
  const session = useSession(projectId);
  // what is known of a project stays on the page while the server does not answer
  if (!project && error) {
    return <Framed place={<Unreadable what="This project" error={error} onAgain={() => void refetch()} />} />;
  }
  if (!project) return <Framed projectId={projectId} place={<Waiting />} />;
  localStorage.setItem('variscen.project', projectId);
  return (
    <>
      <Framed projectId={projectId} place={place(project)} />
      <ConnectionNote session={session} />
    </>
  );
}
