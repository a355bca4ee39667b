// What is known of the one cell that is selected: why it is out of date, what its last render took.
import type { BoardCell, FileFault, Project, Render } from '@variscen/contract';
import { percent as shareWords } from '@variscen/core/cull';
import { NoiseOf } from '../../ui/NoiseOf.tsx';
import { bytes, count, duration, plural } from '../../ui/format.ts';
import { useState } from 'react';
import { Changes } from './Changes.tsx';
import { MixDialog } from './mixer/MixDialog.tsx';
import { SequenceFrames } from './SequenceFrames.tsx';

const MOST_NAMED = 3;

/** What became of a file, and what helps. */
function faultWords({ path, fault }: FileFault): string {
  const what = fault === 'gone' ? 'is no longer in the output folder' : 'was changed outside Variscen';
  return `“${path}” ${what}. Put it back as it was, or render the cell again.`;
}

export function OneCell({ project, cell }: { project: Project; cell: BoardCell }) {
  const { cameraId, variantId, fileFault, frames, trace, render } = cell;
  const projectId = project.id;
  return (
    <>
      {frames && <SequenceFrames path={{ projectId, cameraId, variantId }} counts={frames} />}
      {fileFault && <div className="notice">{faultWords(fileFault)}</div>}
      <Changes project={project} cell={cell} />
      {!frames && trace?.error && <div className="notice">{trace.error}</div>}
      {render && (
        <div>
          <h4>{render.frame === null ? 'Last render' : `Last render of frame ${render.frame}`}</h4>
          <div className="kv">
            <span>Profile</span>
            <b>{render.profile.name}</b>
            <span>Traced in</span>
            <b>
              {duration(render.seconds)}
              {render.lightings > 1 && `, for ${render.lightings} lightings`}
            </b>
            <span>Samples</span>
            <b>{count(render.samples)}</b>
            <NoiseOf render={render} />
            <span>Peak memory</span>
            <b>{bytes(render.peakBytes)}</b>
            {render.leftOut && <LeftOut objects={render.droppedObjects} cost={render.leftOut} />}
            {render.inPartObjects > 0 && (
              <>
                <span>Pieces left out</span>
                <b>of {plural(render.inPartObjects, 'object')}</b>
              </>
            )}
            {render.simplifiedObjects > 0 && (
              <>
                <span>Simplified</span>
                <b>{plural(render.simplifiedObjects, 'object')}</b>
              </>
            )}
            {render.meshes && <PartsLoaded meshes={render.meshes} />}
          </div>
          {hasGroups(render) && <MixGroups project={project} cell={cell} render={render} />}
        </div>
      )}
    </>
  );
}

const hasGroups = ({ profile }: Render): boolean => profile.aovs.includes('lightGroups') && profile.files.exr !== null;

function MixGroups({ project, cell, render }: { project: Project; cell: BoardCell; render: Render }) {
  const [isOpen, setOpen] = useState(false);
  const variant = project.variants.find((v) => v.id === cell.variantId);
  const camera = project.cameras.find((c) => c.id === cell.cameraId);
  if (!variant || !camera) return null;
  return (
    <>
      <button
        type="button"
        className="quiet"
        title="Strength and colour of its lights or light groups, without rendering"
        onClick={() => setOpen(true)}
      >
        Mix its light…
      </button>
      {isOpen && (
        <MixDialog
          project={project}
          variant={variant}
          cameraName={camera.name}
          render={render}
          isCurrent={cell.status === 'current'}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  );
}

function LeftOut({ objects, cost }: { objects: number; cost: NonNullable<Render['leftOut']> }) {
  const { atMostShare, doubtedPixels, pixels, most } = cost;
  const by = most.slice(0, MOST_NAMED).map((m) => m.object);
  const title = [
    `${count(doubtedPixels)} of ${count(pixels)} pixels may differ by more than 1 %.`,
    by.length ? `Most by ${by.join(', ')}.` : '',
  ];
  return (
    <>
      <span>Left out</span>
      <b>{plural(objects, 'object')}</b>
      <span title={title.join(' ')}>That cost at most</span>
      <b>{shareWords(atMostShare)} of its light</b>
    </>
  );
}

function Loaded({ what, of }: { what: string; of: { readonly bytes: number; readonly metBytes: number } }) {
  return (
    <>
      <span title="By the machine that finished it: what light paths reached. The picture is the same as with all of it">
        {what} loaded
      </span>
      <b>
        {bytes(of.metBytes)} of {bytes(of.bytes)}
      </b>
    </>
  );
}

/** Pieces of meshes and levels of textures that no light path has reached are never loaded. */
function PartsLoaded({ meshes }: { meshes: NonNullable<Render['meshes']> }) {
  const { textures } = meshes;
  return (
    <>
      {meshes.pieces > 0 && <Loaded what="Meshes" of={meshes} />}
      {textures && textures.levels > 0 && <Loaded what="Textures" of={textures} />}
      {meshes.drops > 0 && (
        <>
          <span title="There was no room for all of them together: the picture is the same, and took longer">
            Loaded in turns
          </span>
          <b>{count(meshes.loads)} times</b>
        </>
      )}
    </>
  );
}
