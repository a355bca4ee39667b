// The inspector among the panels of the Stage.
import { useAddress } from '../../../ui/address.ts';
import type { StagePanelProps } from '../stage.ts';
import { Inspector } from './Inspector.tsx';

export function InspectorPanel({ stage }: StagePanelProps) {
  const [, put] = useAddress();
  const { project, shown, destination, session, selection, recording } = stage;
  return (
    <Inspector
      project={project}
      index={shown.index}
      state={shown.state}
      selected={selection.selected}
      nodes={selection.nodes}
      destination={destination}
      edit={recording.edit}
      record={recording.record}
      onDiscard={(target, property) => session.discard(destination.id, [{ target, property }])}
      onClear={(layer, target, property) => void session.recorded(layer, [], [{ target, property }])}
      onDestination={(id) => put({ to: id })}
      onSelect={selection.select}
      onNodes={selection.selectNodes}
      lights={stage.lights}
    />
  );
}
