// The frame of an animated scene that is shown, and the frames that are rendered.
import type { FrameRange } from '@variscen/core/scene';
import { Part } from './CameraPart.tsx';
import type { CameraEditing } from './cameraEditing.tsx';
import { FramesField } from './FramesField.tsx';

export function TimePart({ edit }: { edit: CameraEditing }) {
  const { cameras, first, one, same, change, set, field } = edit;
  const own = JSON.stringify(first.handling.frames);
  const isSame = cameras.every((c) => JSON.stringify(c.handling.frames) === own);
  return (
    <Part title="Time">
      {field(
        'Frame',
        '',
        same((c) => c.settings.frame ?? 0),
        0,
        1e6,
        (v) => set({ frame: v === 0 ? undefined : v }),
        { decimals: 2 },
      )}
      <FramesField
        key={cameras.map((c) => c.id).join()}
        label={`${one ? first.name : 'Cameras'}, Frames`}
        value={isSame ? (first.handling.frames as readonly FrameRange[] | null) : undefined}
        onChange={(frames) => change({ handling: { frames } })}
      />
    </Part>
  );
}
