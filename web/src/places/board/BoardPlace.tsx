// Cameras × variants. Home.
import type { Project } from '@variscen/contract';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { splitKey } from '../../model/selectedCells.ts';
import { plural } from '../../ui/format.ts';
import { BoardFooter } from './BoardFooter.tsx';
import { BoardGrid } from './BoardGrid.tsx';
import styles from './BoardPlace.module.css';
import { PlanPanel } from './PlanPanel.tsx';
import { VariantDialog, type VariantQuestion } from './VariantDialog.tsx';
import { useCellSelection } from './useCellSelection.ts';

const SIZE_KEY = 'variscen.prints';
const FIRST_SIZE_PX = 132;

export function BoardPlace({ project }: { project: Project }) {
  return project.revision ? <Board project={project} /> : <NoScene project={project} />;
}

function NoScene({ project }: { project: Project }) {
  return (
    <>
      <header className="sentence">“{project.name}” has no scene yet.</header>
      <main className="place empty">
        <h1>Import a scene first</h1>
        <p>The board shows its cameras in every look.</p>
        <Link className={`go ${styles.go}`} to="/projects">
          Go to the projects
        </Link>
      </main>
    </>
  );
}

function Board({ project }: { project: Project }) {
  const navigate = useNavigate();
  const selection = useCellSelection(project);
  const [size, setSize] = useState(() => Number(localStorage.getItem(SIZE_KEY) ?? FIRST_SIZE_PX));
  const [asked, setAsked] = useState<{ variantId: string; question: VariantQuestion } | null>(null);
  const askedVariant = project.variants.find((v) => v.id === asked?.variantId);
  const resize = (px: number) => {
    setSize(px);
    localStorage.setItem(SIZE_KEY, String(px));
  };
  const openStage = (key: string) => {
    const { cameraId, variantId } = splitKey(key);
    void navigate(`/projects/${project.id}/stage?camera=${cameraId}&variant=${variantId}`);
  };
  return (
    <>
      <header className="sentence">
        All <b className="pick">{plural(project.cameras.length, 'camera')}</b> in{' '}
        <b className="pick">{plural(project.variants.length, 'variant')}</b> of{' '}
        <b className="pick ellipsis">{project.name}</b>.
      </header>
      <main className={`place ${styles.place}`}>
        <div className={styles.stack}>
          <BoardGrid
            project={project}
            selection={selection}
            size={size}
            onAsk={(variantId, question) => setAsked({ variantId, question })}
            onOpen={openStage}
          />
          <BoardFooter project={project} selection={selection} size={size} onSize={resize} />
        </div>
        {asked && askedVariant && (
          <VariantDialog
            project={project}
            variant={askedVariant}
            question={asked.question}
            onClose={() => setAsked(null)}
          />
        )}
        <PlanPanel project={project} cells={selection.planned} />
      </main>
    </>
  );
}
