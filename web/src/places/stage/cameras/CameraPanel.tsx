// Settings of one camera, or of several at once.
import { Textarea } from '@mantine/core';
import type { Camera } from '@variscen/contract';
import { useEffect, useState } from 'react';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import styles from './CameraPanel.module.css';
import { Part } from './CameraPart.tsx';
import { FocusPart } from './FocusPart.tsx';
import { FramePart } from './FramePart.tsx';
import { GuidesPart } from './GuidesPart.tsx';
import { LensPart } from './LensPart.tsx';
import { PlanesPart } from './PlanesPart.tsx';
import { TimePart } from './TimePart.tsx';
import { TransformPart } from './TransformPart.tsx';
import { MatchPart } from '../match/MatchPart.tsx';
import type { Matching } from '../match/useMatching.ts';
import { type CameraEditing, cameraEditing } from './cameraEditing.tsx';

interface Props {
  cameras: readonly Camera[];
  session: ProjectSession;
  animatedFrames: number;
  picking: boolean;
  onPickFocus: (on: boolean) => void;
  matching: Matching;
}

export function CameraPanel(props: Props) {
  const { cameras, session, matching } = props;
  const [first] = cameras;
  if (!first) return null;
  const edit = cameraEditing(cameras, first, session);
  const { one, locked, change } = edit;
  return (
    <>
      <h3 className={`ellipsis ${styles.one}`}>{one ? first.name : plural(cameras.length, 'camera')}</h3>
      <div className={`dim ${styles.names}`}>
        {one ? 'Camera' : cameras.map((c) => c.name).join(', ')}
        {locked && (
          <>
            {' · locked '}
            <button type="button" className={styles.unlock} onClick={() => change({ handling: { locked: false } })}>
              Unlock
            </button>
          </>
        )}
      </div>
      {matching.lines ? <MatchPart matching={matching} name={first.name} /> : <Settings {...props} edit={edit} />}
    </>
  );
}

function Settings({ edit, animatedFrames, picking, onPickFocus, matching }: Props & { edit: CameraEditing }) {
  const { cameras, one, same, change } = edit;
  return (
    <>
      <FramePart edit={edit} />
      <LensPart edit={edit} />
      <FocusPart edit={edit} picking={picking} onPickFocus={onPickFocus} />
      <PlanesPart edit={edit} />
      {one && <TransformPart edit={edit} />}
      {animatedFrames > 0 && <TimePart edit={edit} />}
      <GuidesPart edit={edit} matching={matching} />
      <Part title="Notes">
        <Notes
          key={cameras.map((c) => c.id).join()}
          value={same((c) => c.handling.notes)}
          onChange={(notes) => change({ handling: { notes } })}
        />
      </Part>
    </>
  );
}

function Notes({ value, onChange }: { value: string | null; onChange: (v: string) => void }) {
  const [text, setText] = useState(value ?? '');
  useEffect(() => setText(value ?? ''), [value]);
  return (
    <Textarea
      size="xs"
      autosize
      minRows={2}
      maxRows={6}
      maxLength={4000}
      aria-label="Notes on the camera"
      placeholder={value === null ? 'mixed' : ''}
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => {
        if (text !== (value ?? '')) onChange(text);
      }}
    />
  );
}
