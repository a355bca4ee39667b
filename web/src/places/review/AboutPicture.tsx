// What is known of a picture: how it was rendered, what that took, and what is other than in the version before.
import type { Project, Render } from '@variscen/contract';
import type { Difference } from '@variscen/core/looks';
import dayjs from 'dayjs';
import { useState } from 'react';
import { useBoard, useRenderAbout } from '../../api/queries.ts';
import type { Listed } from '../../model/review/strip.ts';
import { NoiseOf } from '../../ui/NoiseOf.tsx';
import { bytes, count, duration, plural, version } from '../../ui/format.ts';
import { MixDialog } from '../board/mixer/MixDialog.tsx';
import styles from './ReviewSide.module.css';

const FIRST_SHOWN = 8;

export function AboutPicture({ project, current }: { project: Project; current: Listed }) {
  const { rendered } = current;
  const { data } = useRenderAbout(rendered.id);
  const render = data?.render;
  return (
    <>
      {data?.before && <Changed before={data.before} />}
      <section className={styles.part}>
        <h4>Rendered</h4>
        <div className="kv">
          <span>Profile</span>
          <b>{rendered.profileName}</b>
          <span>Size</span>
          <b>
            {rendered.widthPx} × {rendered.heightPx}
          </b>
          <span>At</span>
          <b>{dayjs(rendered.createdAt).format('D MMM HH:mm')}</b>
          {render && (
            <>
              {render.developedFrom !== null && (
                <>
                  <span>Developed from</span>
                  <b>{version(render.developedFrom)}</b>
                </>
              )}
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
              <span>Files</span>
              <b>{bytes(render.files.reduce((n, f) => n + f.bytes, 0))}</b>
            </>
          )}
          {data?.engine && (
            <>
              <span>Engine</span>
              <b>{data.engine.slice(0, 8)}</b>
            </>
          )}
        </div>
        {render?.isCleaned && <p className="notice">Its files were cleaned up: this is its small picture.</p>}
        {render && !render.isCleaned && hasGroups(render) && (
          <MixGroups project={project} current={current} render={render} />
        )}
      </section>
    </>
  );
}

const hasGroups = ({ profile }: Render): boolean => profile.aovs.includes('lightGroups') && profile.files.exr !== null;

function MixGroups({ project, current, render }: { project: Project; current: Listed; render: Render }) {
  const [isOpen, setOpen] = useState(false);
  const { data: board } = useBoard(project.id);
  const isCurrent = board?.cells.some((c) => c.render?.id === render.id && c.status === 'current') ?? false;
  return (
    <>
      <button type="button" className={`quiet ${styles.mix}`} onClick={() => setOpen(true)}>
        Mix its light…
      </button>
      {isOpen && (
        <MixDialog
          project={project}
          variant={current.variant}
          cameraName={current.camera.name}
          render={render}
          isCurrent={isCurrent}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  );
}

function Changed({ before }: { before: { readonly version: number; readonly differences: readonly Difference[] } }) {
  const [isWhole, setWhole] = useState(false);
  const shown = isWhole ? before.differences : before.differences.slice(0, FIRST_SHOWN);
  const more = before.differences.length - shown.length;
  return (
    <section className={styles.part}>
      <h4>Changed since {version(before.version)}</h4>
      {!before.differences.length && <p className="dim">Nothing: the same look, rendered again.</p>}
      <ul className={styles.changes}>
        {shown.map((d) => (
          <li key={`${d.subject} ${d.what}`}>
            {d.subject}, {d.what}{' '}
            <span className="dim">
              {d.was} → {d.is}
            </span>
          </li>
        ))}
      </ul>
      {more > 0 && (
        <button type="button" className={styles.link} onClick={() => setWhole(true)}>
          {plural(more, 'more change')}
        </button>
      )}
    </section>
  );
}
