// Rules by which a camera leaves objects out, whatever was measured; each is tried as it is typed.
import { Switch } from '@mantine/core';
import type { Camera, Project } from '@variscen/contract';
import type { CameraCull, CameraSettings } from '@variscen/core/scene';
import { useSession } from '../../session/projectSession.ts';
import { NumberField } from '../../ui/NumberField.tsx';
import styles from './CullPlace.module.css';

/** Where a rule begins when it is switched on. */
const FIRST = { marginPct: 10, fartherThanM: 50, smallerThanPx: 4 } as const;

export function CullRules({ project, camera }: { project: Project; camera: Camera }) {
  const session = useSession(project.id);
  const { cullMarginPct, cull = {} } = camera.settings as CameraSettings;
  const set = (settings: Partial<CameraSettings>) => session.changeCameras([camera.id], { settings });
  const rule = (more: Partial<CameraCull>) => {
    const next = Object.entries({ ...cull, ...more }).filter(([, v]) => v !== undefined && v !== false);
    set({ cull: next.length ? (Object.fromEntries(next) as CameraCull) : undefined });
  };
  return (
    <section className={styles.rules} aria-label="Rules">
      <Rule
        name="Outside the frame"
        isOn={cullMarginPct !== null}
        onSwitch={(on) => set({ cullMarginPct: on ? FIRST.marginPct : null })}
      >
        <NumberField
          label="Margin"
          unit="%"
          value={cullMarginPct}
          min={0}
          max={1000}
          onChange={(v) => set({ cullMarginPct: v })}
        />
      </Rule>
      <Rule
        name="Farther than"
        isOn={cull.fartherThanM !== undefined}
        onSwitch={(on) => rule({ fartherThanM: on ? FIRST.fartherThanM : undefined })}
      >
        <NumberField
          label="Distance"
          unit="m"
          value={cull.fartherThanM ?? null}
          min={0.001}
          max={1e7}
          scale="log"
          onChange={(v) => rule({ fartherThanM: v })}
        />
      </Rule>
      <Rule
        name="Smaller than"
        isOn={cull.smallerThanPx !== undefined}
        onSwitch={(on) => rule({ smallerThanPx: on ? FIRST.smallerThanPx : undefined })}
      >
        <NumberField
          label="Size in the picture"
          unit="px"
          value={cull.smallerThanPx ?? null}
          min={0.1}
          max={10_000}
          onChange={(v) => rule({ smallerThanPx: v })}
        />
      </Rule>
      <Rule
        name="Beyond its planes"
        isOn={cull.outsidePlanes === true}
        onSwitch={(on) => rule({ outsidePlanes: on ? true : undefined })}
      />
    </section>
  );
}

interface RuleProps {
  readonly name: string;
  readonly isOn: boolean;
  readonly onSwitch: (on: boolean) => void;
  readonly children?: React.ReactNode;
}
function Rule({ name, isOn, onSwitch, children }: RuleProps) {
  return (
    <div className={styles.rule}>
      <Switch size="xs" label={name} checked={isOn} onChange={(e) => onSwitch(e.currentTarget.checked)} />
      {isOn && children}
    </div>
  );
}
