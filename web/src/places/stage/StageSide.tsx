// On the left: the side panel whose tab is selected.
import { useMemo } from 'react';
import { useAddress } from '../../ui/address.ts';
import { SIDE_PANELS, type SidePanel } from './panels.tsx';
import type { StagePanelProps } from './stage.ts';
import styles from './StagePlace.module.css';
import { Vanished, vanishedOf } from './tree/Vanished.tsx';

/** Which panel the address asks for; the first one where it asks for none. */
export function sidePanelIn(search: URLSearchParams): SidePanel {
  return SIDE_PANELS.find((p) => p.id === search.get('side')) ?? SIDE_PANELS[0];
}

export function StageSide({ stage }: StagePanelProps) {
  const [search, put] = useAddress();
  const { project, shown } = stage;
  const { index } = shown;
  const { base, options, patches, pending, cameras } = project;
  const vanished = useMemo(
    () => (index ? vanishedOf({ base, options, patches, pending, cameras }, index) : []),
    [index, base, options, patches, pending, cameras],
  );
  const current = sidePanelIn(search);
  const open = (panel: SidePanel) => {
    panel.onOpen?.(stage);
    put({ side: panel === SIDE_PANELS[0] ? null : panel.id });
  };
  return (
    <div className={styles.side} data-vanished={vanished.length > 0}>
      <div className="tabs" role="tablist" aria-label="Scene or cameras">
        {SIDE_PANELS.map((p) => (
          <button type="button" role="tab" key={p.id} aria-selected={p === current} onClick={() => open(p)}>
            {p.label} {p.count && <span className="mono faint">{p.count(stage)}</span>}
          </button>
        ))}
      </div>
      {vanished.length > 0 && index && <Vanished project={project} index={index} vanished={vanished} />}
      <current.Panel stage={stage} />
    </div>
  );
}
