// The options of a facet among the panels of the Stage.
import type { Facet } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useClipboard } from '../../../model/clipboard.ts';
import { useAddress } from '../../../ui/address.ts';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import { useState } from 'react';
import { SideBySide } from '../sideBySide/SideBySide.tsx';
import { RigDialog } from '../rigs/RigDialog.tsx';
import type { StagePanelProps } from '../stage.ts';
import { Options } from './Options.tsx';

export function OptionsPanel({ stage, facet }: StagePanelProps & { facet: Facet }) {
  const [, put] = useAddress();
  const { copy } = useClipboard();
  const { project, sceneHash, shown, variant, destination, session } = stage;
  const { index, state, camera } = shown;
  const [dialog, setDialog] = useState<'rigs' | 'beside' | null>(null);
  const canRig = index && state && camera && (facet === 'lighting' || facet === 'environment');
  return (
    <>
      <Options
        project={project}
        variant={variant}
        index={index}
        sceneHash={sceneHash}
        camera={camera && { id: camera.id, settings: camera.settings as CameraSettings }}
        facet={facet}
        destination={destination}
        session={session}
        onDestination={(id) => put({ to: id })}
        onCopied={(changes, from) => {
          copy({ from, changes });
          say(
            `${plural(changes.length, 'value')} of “${from}” are copied`,
            'Paste them with Ctrl+V: into the destination, or onto what is selected.',
          );
        }}
        onRig={canRig ? () => setDialog('rigs') : undefined}
        onLights={(paths) => {
          if (index) stage.selection.selectNodes(paths.flatMap((path) => index.nodes.get(path) ?? []));
        }}
        onBeside={index && camera ? () => setDialog('beside') : undefined}
      />
      {dialog === 'rigs' && canRig && (
        <RigDialog
          project={project}
          index={index}
          state={state}
          variant={variant}
          camera={camera}
          sceneHash={sceneHash}
          nodes={stage.selection.nodes}
          session={session}
          onMade={({ optionIds, variantId }) => {
            setDialog(null);
            put({ to: `option:${optionIds[0]!}`, ...(variantId !== null && { variant: variantId }) });
          }}
          onClose={() => setDialog(null)}
        />
      )}
      {dialog === 'beside' && index && camera && (
        <SideBySide
          project={project}
          index={index}
          sceneHash={sceneHash}
          camera={camera}
          variant={variant}
          facet={facet}
          onPickVariant={(id) => put({ variant: id })}
          onPickOption={(id) => put({ to: id === null ? 'base' : `option:${id}` })}
          onClose={() => setDialog(null)}
        />
      )}
    </>
  );
}
