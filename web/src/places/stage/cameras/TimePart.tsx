// The frame of an animated scene that is shown, and the range that is rendered.
import { Part } from './CameraPart.tsx';
import type { CameraEditing } from './cameraEditing.tsx';

export function TimePart({ edit, animatedFrames }: { edit: CameraEditing; animatedFrames: number }) {
  const { first, same, change, set, field } = edit;
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
      {field(
        'First frame',
        '',
        same((c) => c.handling.frames?.first ?? null),
        0,
        1e6,
        (v) =>
          change({
            handling: {
              frames: {
                first: Math.round(v),
                last: Math.max(Math.round(v), first.handling.frames?.last ?? animatedFrames),
                step: first.handling.frames?.step ?? 1,
              },
            },
          }),
        { decimals: 0, empty: 'one frame', onEmpty: () => change({ handling: { frames: null } }) },
      )}
      {first.handling.frames && (
        <>
          {field(
            'Last frame',
            '',
            same((c) => c.handling.frames?.last ?? null),
            0,
            1e6,
            (v) =>
              change({
                handling: {
                  frames: {
                    ...first.handling.frames!,
                    last: Math.max(first.handling.frames!.first, Math.round(v)),
                  },
                },
              }),
            { decimals: 0 },
          )}
          {field(
            'Step',
            '',
            same((c) => c.handling.frames?.step ?? null),
            1,
            1000,
            (v) => change({ handling: { frames: { ...first.handling.frames!, step: Math.round(v) } } }),
            { decimals: 0 },
          )}
        </>
      )}
    </Part>
  );
}
