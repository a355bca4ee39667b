// What rendering the selected cells would take, before anything runs; and the button that runs it.
import { Modal, SegmentedControl } from '@mantine/core';
import type { BoardCell, Plan, Project } from '@variscen/contract';
import { useState } from 'react';
import { useProfiles } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { OneCell } from './OneCell.tsx';
import styles from './PlanPanel.module.css';
import { PlanSummary } from './PlanSummary.tsx';
import { WholePlan } from './WholePlan.tsx';
import { usePlan } from './usePlan.ts';

const FIRST_PROFILE = 'sketch';
const FILES_NAMED = 3;

export function PlanPanel({ project, cells }: { project: Project; cells: readonly BoardCell[] }) {
  const profiles = useProfiles();
  const [profileId, setProfileId] = useState(FIRST_PROFILE);
  const [isWhole, setWhole] = useState(false);
  const { plan, error, isBusy, render } = usePlan(project, cells, profileId);
  const go = async () => {
    if (await render()) setWhole(false);
  };
  const canRender = plan !== undefined && plan.errors.length === 0 && !isBusy;
  const words = cells.length ? `Render ${plural(cells.length, 'cell')}` : 'Render cells';
  return (
    <aside className={styles.plan} aria-label="Plan">
      <Selected cells={cells.length} plan={plan} />
      <SegmentedControl
        fullWidth
        size="xs"
        value={profileId}
        onChange={setProfileId}
        data={(profiles.data ?? []).map((x) => ({ value: x.id, label: x.name }))}
        aria-label="Profile"
      />
      {error && <div className="notice">{error.message}</div>}
      {plan && <PlanSummary plan={plan} />}
      {plan && <Remarks plan={plan} />}
      {plan && <Files plan={plan} />}
      {cells.length === 1 && <OneCell cell={cells[0]!} />}
      <div className={styles.stack}>
        <button type="button" className="quiet" disabled={!plan} onClick={() => setWhole(true)}>
          Show the plan
        </button>
        <button type="button" className="go" disabled={!canRender} onClick={() => void go()}>
          {words}
        </button>
      </div>
      <Modal opened={isWhole && plan !== undefined} onClose={() => setWhole(false)} title="The plan" size={1040}>
        {plan && <WholePlan plan={plan} project={project} />}
      </Modal>
    </aside>
  );
}

function Selected({ cells, plan }: { cells: number; plan: Plan | undefined }) {
  return (
    <div>
      <h4>Selected</h4>
      <div className={styles.status} role="status">
        {cells === 0 ? 'No cell' : plural(cells, 'cell')}
        {plan && ` from ${plural(plan.traces.length, 'trace')}`}
      </div>
      {cells === 0 && (
        <p className="dim">
          Click a cell, add others with Ctrl or a block with Shift, or take a whole row or column by its name.
        </p>
      )}
      {plan && plan.traces.length < cells && (
        <div className="dim">Cells whose look is the same but for the grade share a trace.</div>
      )}
    </div>
  );
}

function Remarks({ plan }: { plan: Plan }) {
  return (
    <>
      {plan.errors.map((e, i) => (
        <div key={i} className="notice" role="alert">
          {e.message}
        </div>
      ))}
      {plan.warnings.map((w) => (
        <div key={w} className="dim">
          {w}
        </div>
      ))}
    </>
  );
}

function Files({ plan }: { plan: Plan }) {
  const cells = plan.traces.flatMap((t) => t.cells);
  return (
    <div>
      <h4>Files</h4>
      <div className={`mono dim ${styles.fileNames}`}>
        {cells.slice(0, FILES_NAMED).map((c) => (
          <div key={c.path}>{c.path}.exr, .png</div>
        ))}
        {cells.length > FILES_NAMED && <div>and {plural(cells.length - FILES_NAMED, 'more cell')}</div>}
      </div>
    </div>
  );
}
