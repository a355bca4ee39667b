// The sentence of the Stage: what is looked at, and where edits go. Its underlined parts are the pickers.
import { Menu } from '@mantine/core';
import { FACET_NAMES } from '@variscen/core/looks';
import { type Destination, pendingOf } from '../../model/destinations.ts';
import { Pick } from '../../shell/Pick.tsx';
import { useAddress } from '../../ui/address.ts';
import { facetOr } from '../../ui/glyphs.tsx';
import styles from './StagePlace.module.css';
import type { StagePanelProps } from './stage.ts';

export function StageSentence({ stage }: StagePanelProps) {
  const { project, shown, variant, destination, looking, selection } = stage;
  const [, put] = useAddress();
  const { camera, destinations } = shown;
  const pending = pendingOf(project, destination.id).length;
  return (
    <header className="sentence" data-tour="sentence" data-facet={facetOr(destination.facet)}>
      {looking.free || !camera ? 'Looking around in ' : 'Looking through '}
      {camera && !looking.free && (
        <>
          <Pick
            label="Camera"
            value={camera.name}
            choices={project.cameras.map((c) => ({ id: c.id, label: c.name }))}
            onPick={looking.look}
            footer={
              <>
                <Menu.Divider />
                <Menu.Item onClick={() => looking.setFree(true)}>Look around freely</Menu.Item>
                <Menu.Item
                  onClick={() => {
                    selection.selectCameras([camera.id]);
                    put({ side: 'cameras', selected: null });
                  }}
                >
                  Settings of this camera
                </Menu.Item>
              </>
            }
          />
          {' in '}
        </>
      )}
      <Pick
        label="Variant"
        value={variant.name}
        choices={project.variants.map((v) => ({ id: v.id, label: v.name }))}
        onPick={(id) => put({ variant: id })}
      />
      {'. Edits go to '}
      <Pick
        label="Edits go to"
        value={destination.label}
        facet={destination.facet}
        choices={destinations.map((d) => ({ id: d.id, label: d.label, facet: d.facet, section: sectionOf(d) }))}
        onPick={(id) => put({ to: id })}
      />
      {destination.isHere ? '.' : ', which is not shown here.'}
      {pending > 0 && (
        <span className="pending" role="status">
          {pending} pending
        </span>
      )}
      <span className="right">
        {looking.free && camera && (
          <button type="button" className={`quiet ${styles.quiet}`} onClick={() => looking.setFree(false)}>
            Back to {camera.name}
          </button>
        )}
        <span title="Through the variants; with Shift through the options of a facet">
          Flip <kbd>,</kbd> <kbd>.</kbd>
        </span>
      </span>
    </header>
  );
}

function sectionOf(d: Destination): string {
  if (d.facet) return FACET_NAMES[d.facet];
  return d.id === 'base' ? 'Everything' : 'Patches';
}
