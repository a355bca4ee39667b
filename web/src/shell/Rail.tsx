// The places. Those that are not built yet are not shown.
import { useState } from 'react';
import { NavLink } from 'react-router';
import { useQueue } from '../api/queries.ts';
import { useProgress } from '../api/progress.ts';
import { FindPanel } from './find/FindPanel.tsx';
import { HelpPanel } from './help/HelpPanel.tsx';
import { UndoButtons } from './UndoButtons.tsx';

const ICONS = {
  Projects: <path d="M3 5h14v11H3zM6 5V3h8v2" />,
  Stage: <path d="M3 14 10 17l7-3V7l-7-3-7 3zM10 10v7M3 7l7 3 7-3" />,
  Board: <path d="M3 4h4v4H3zM10 4h7v4h-7zM3 11h4v5H3zM10 11h7v5h-7z" />,
  Cull: <path d="M3 5h6v6H3zM12 4h5M12 8h5M3 15h2M8 15h2M13 15h4" />,
  Review: <path d="M3 4h14v9H3zM3 16h4M9 16h4M15 16h2M7.5 8.6l2 2 3.5-4" />,
  Library: <path d="M4 3v14M8 3v14M11.5 3.6l4.6 13.2M3 3h6v14H3z" />,
};

export function Rail({ projectId }: { projectId?: string }) {
  const [isHelpOpen, setHelpOpen] = useState(false);
  const id = projectId ?? localStorage.getItem('variscen.project') ?? undefined;
  const place = (name: keyof typeof ICONS, to: string | undefined) => (
    <NavLink end to={to ?? '#'} aria-disabled={!to} className={({ isActive }) => (to && isActive ? 'active' : '')}>
      <svg width="20" height="20" viewBox="0 0 20 20" fill="none" stroke="currentColor" strokeWidth="1.5" aria-hidden>
        {ICONS[name]}
      </svg>
      {name}
    </NavLink>
  );
  return (
    <nav className="rail" aria-label="Places">
      <img className="mark" src="/mark.svg" alt="" />
      {place('Projects', '/projects')}
      {place('Stage', id && `/projects/${id}/stage`)}
      {place('Board', id && `/projects/${id}/board`)}
      {place('Cull', id && `/projects/${id}/cull`)}
      <NavLink to="/queue">
        <QueueRing />
        Queue
      </NavLink>
      {place('Review', id && `/projects/${id}/review`)}
      {place('Library', '/library')}
      {projectId !== undefined && <UndoButtons projectId={projectId} />}
      <FindPanel projectId={id} onHelp={() => setHelpOpen(true)} />
      <HelpPanel isOpen={isHelpOpen} onOpen={setHelpOpen} />
    </nav>
  );
}

/** Fills with what is running and waiting now. */
function QueueRing() {
  const open = (useQueue().data?.traces ?? []).filter((t) => t.state === 'waiting' || t.state === 'rendering');
  const live = useProgress((s) => s.traces);
  const fraction = open.length
    ? open.reduce((n, t) => n + (t.state === 'rendering' ? (live[t.id]?.fraction ?? t.fraction) : 0), 0) / open.length
    : 0;
  const length = 2 * Math.PI * 7;
  return (
    <svg
      width="20"
      height="20"
      viewBox="0 0 20 20"
      fill="none"
      strokeWidth="1.5"
      role="img"
      aria-label={
        open.length
          ? `${open.length} traces open, ${Math.round(fraction * 100)} per cent of them rendered`
          : 'nothing queued'
      }
    >
      <circle cx="10" cy="10" r="7" stroke="currentColor" />
      {open.length > 0 && (
        <circle
          cx="10"
          cy="10"
          r="7"
          stroke="var(--go)"
          strokeWidth="2.6"
          strokeDasharray={`${Math.max(0.03, fraction) * length} ${length}`}
          transform="rotate(-90 10 10)"
        />
      )}
    </svg>
  );
}
