// The settings of a profile, to be changed; all of them, or as exceptions those that are ticked.
import { Checkbox, SegmentedControl, Select } from '@mantine/core';
import { LIGHT_GROUPS } from '@variscen/core/looks';
import {
  AOVS,
  type Aov,
  INTEGRATORS,
  type LightGroup,
  MOST_LIGHTS_APART,
  type ProfileFiles,
  type ProfileSettings,
} from '@variscen/core/plan';
import type { ReactNode } from 'react';
import { NumberField } from '../../../ui/NumberField.tsx';
import { AOV_WORDS, type Exceptable, INTEGRATOR_WORDS, NUMBERS, type NumberSetting } from './profileFields.ts';
import styles from './Profiles.module.css';

export interface FieldsProps {
  readonly value: ProfileSettings;
  readonly onChange: (set: Partial<ProfileSettings>) => void;
  /** Which settings are excepted, and how that is changed; absent: all are set. */
  readonly excepted?: { has(setting: Exceptable): boolean; toggle(setting: Exceptable): void };
}

export function ProfileFields(props: FieldsProps) {
  return (
    <div className={styles.fields}>
      <Size {...props} />
      <Row setting="integrator" label="Light" {...props}>
        <Select
          size="xs"
          aria-label="Light"
          allowDeselect={false}
          disabled={isOff(props, 'integrator')}
          data={INTEGRATORS.map((value) => ({ value, label: INTEGRATOR_WORDS[value] }))}
          value={props.value.integrator}
          onChange={(integrator) => integrator && props.onChange({ integrator })}
        />
      </Row>
      {NUMBERS.map((n) => (
        <NumberRow key={n.key} setting={n} {...props} />
      ))}
      <Aovs {...props} />
      <Files {...props} />
    </div>
  );
}

const isOff = ({ excepted }: FieldsProps, setting: Exceptable): boolean => excepted?.has(setting) === false;

function Row({
  setting,
  label,
  excepted,
  children,
}: Pick<FieldsProps, 'excepted'> & { setting: Exceptable; label: string; children: ReactNode }) {
  return (
    <>
      {excepted ? (
        <Checkbox
          size="xs"
          label={label}
          checked={excepted.has(setting)}
          onChange={() => excepted.toggle(setting)}
          className={styles.label}
        />
      ) : (
        <span className={styles.label}>{label}</span>
      )}
      <div className={styles.editor}>{children}</div>
    </>
  );
}

function Size(props: FieldsProps) {
  const { value, onChange } = props;
  const off = isOff(props, 'size');
  const isFixed = value.widthPx !== null;
  return (
    <Row setting="size" label="Size" {...props}>
      <div className={styles.side}>
        <SegmentedControl
          size="xs"
          aria-label="Size by"
          disabled={off}
          value={isFixed ? 'width' : 'factor'}
          data={[
            { value: 'factor', label: 'Of the frame' },
            { value: 'width', label: 'Width' },
          ]}
          onChange={(how) => onChange({ widthPx: how === 'width' ? 1920 : null })}
        />
        {isFixed ? (
          <NumberField
            label="Width"
            unit="px"
            value={value.widthPx}
            min={1}
            max={16_384}
            decimals={0}
            disabled={off}
            onChange={(widthPx) => onChange({ widthPx })}
          />
        ) : (
          <NumberField
            label="Size of the frame"
            unit="%"
            value={value.sizeFactor * 100}
            min={1}
            max={400}
            disabled={off}
            onChange={(percent) => onChange({ sizeFactor: percent / 100 })}
          />
        )}
      </div>
    </Row>
  );
}

function NumberRow({ setting: n, ...props }: FieldsProps & { setting: NumberSetting }) {
  const { times = 1 } = n;
  const v = props.value[n.key];
  return (
    <Row setting={n.key} label={n.label} {...props}>
      <div className={styles.number}>
        <NumberField
          label={n.label}
          unit={n.unit}
          value={v === null ? null : v * times}
          min={n.min}
          max={n.max}
          {...(n.step !== undefined && { step: n.step })}
          {...(n.decimals !== undefined && { decimals: n.decimals })}
          scale={n.scale}
          empty={n.none ?? ''}
          disabled={isOff(props, n.key)}
          onChange={(next) => props.onChange({ [n.key]: next / times })}
          {...(n.none !== undefined && { onEmpty: () => props.onChange({ [n.key]: null }) })}
        />
      </div>
    </Row>
  );
}

function Aovs(props: FieldsProps) {
  const { value, onChange } = props;
  const off = isOff(props, 'aovs');
  const flip = (list: readonly Aov[], aov: Aov) =>
    list.includes(aov) ? list.filter((x) => x !== aov) : AOVS.filter((x) => x === aov || list.includes(x));
  return (
    <Row setting="aovs" label="AOVs" {...props}>
      <div className={styles.aovs}>
        {AOVS.map((aov) => (
          <div key={aov} className={styles.aov}>
            <Checkbox
              size="xs"
              label={AOV_WORDS[aov]}
              disabled={off}
              checked={value.aovs.includes(aov)}
              onChange={() => onChange({ aovs: flip(value.aovs, aov) })}
            />
            {value.aovs.includes(aov) && (
              <button
                type="button"
                className={`mono ${styles.float}`}
                aria-pressed={value.floatAovs.includes(aov)}
                disabled={off}
                title="Written as floats of 32 bits"
                onClick={() => onChange({ floatAovs: flip(value.floatAovs, aov) })}
              >
                32
              </button>
            )}
          </div>
        ))}
      </div>
      {value.aovs.includes('lightGroups') && <LightGroups {...props} off={off} />}
    </Row>
  );
}

/** All, one by one, or each light by itself instead. */
function LightGroups({ value, onChange, off }: FieldsProps & { readonly off: boolean }) {
  const written = value.lightGroups === 'lights' ? [] : value.lightGroups;
  const flip = (group: LightGroup) => {
    const next = LIGHT_GROUPS.filter((g) => (g === group) !== (written?.includes(g) ?? false));
    onChange({ lightGroups: next.length ? next : null });
  };
  return (
    <div role="group" aria-label="Light groups that are written" className={styles.groups}>
      <span className="dim">Light groups</span>
      <button
        type="button"
        className={`mono ${styles.float}`}
        aria-pressed={written === null}
        disabled={off}
        onClick={() => onChange({ lightGroups: null })}
      >
        all
      </button>
      {LIGHT_GROUPS.map((group) => (
        <button
          type="button"
          key={group}
          className={`mono ${styles.float}`}
          aria-pressed={written?.includes(group) ?? false}
          aria-label={`Light group ${group}`}
          disabled={off}
          onClick={() => flip(group)}
        >
          {group}
        </button>
      ))}
      <span className="dim">or</span>
      <button
        type="button"
        className={styles.float}
        aria-pressed={value.lightGroups === 'lights'}
        disabled={off}
        title={`A layer each for the sky, the brightest materials that glow and the strongest lights, ${MOST_LIGHTS_APART} at most. Each takes as much memory and file as the picture.`}
        onClick={() => onChange({ lightGroups: 'lights' })}
      >
        each light
      </button>
    </div>
  );
}

const QUALITY = { jpeg: 92, webp: 88 } as const;
function Files(props: FieldsProps) {
  const { files } = props.value;
  const off = isOff(props, 'files');
  const set = (part: Partial<ProfileFiles>) => props.onChange({ files: { ...files, ...part } });
  return (
    <Row setting="files" label="Files" {...props}>
      <div className={styles.files}>
        <Exr files={files} off={off} onChange={set} />
        <Choice
          label="PNG"
          off={off}
          value={files.png === null ? 'none' : String(files.png)}
          data={[
            ['none', 'None'],
            ['8', '8 bits'],
            ['16', '16 bits'],
          ]}
          onChange={(v) => set({ png: v === 'none' ? null : (Number(v) as 8 | 16) })}
        />
        <Choice
          label="TIFF"
          off={off}
          value={files.tiff ?? 'none'}
          data={[
            ['none', 'None'],
            ['16', '16 bits'],
            ['float', 'Floats, linear'],
          ]}
          onChange={(v) => set({ tiff: v === 'none' ? null : (v as '16' | 'float') })}
        />
        {(['jpeg', 'webp'] as const).map((kind) => (
          <div key={kind} className={styles.side}>
            <Checkbox
              size="xs"
              label={{ jpeg: 'JPEG', webp: 'WebP' }[kind]}
              disabled={off}
              checked={files[kind] !== null}
              onChange={(e) => set({ [kind]: e.currentTarget.checked ? QUALITY[kind] : null })}
            />
            {files[kind] !== null && (
              <NumberField
                label={`Quality of ${{ jpeg: 'JPEG', webp: 'WebP' }[kind]}`}
                unit=""
                value={files[kind]}
                min={1}
                max={100}
                decimals={0}
                disabled={off}
                onChange={(quality) => set({ [kind]: quality })}
              />
            )}
          </div>
        ))}
        <Checkbox
          size="xs"
          label="With the look’s grade (not OpenEXR, not TIFF of floats)"
          disabled={off}
          checked={files.graded}
          onChange={(e) => set({ graded: e.currentTarget.checked })}
        />
      </div>
    </Row>
  );
}

const PLAIN_EXR = { type: 'half', compression: 'zip', aovsApart: false, perCell: false } as const;
function Exr({
  files,
  off,
  onChange,
}: {
  files: ProfileFiles;
  off: boolean;
  onChange: (f: Partial<ProfileFiles>) => void;
}) {
  const { exr } = files;
  const set = (part: Partial<NonNullable<ProfileFiles['exr']>>) => exr && onChange({ exr: { ...exr, ...part } });
  return (
    <div className={styles.exr}>
      <Checkbox
        size="xs"
        label="OpenEXR, linear light"
        disabled={off}
        checked={exr !== null}
        onChange={(e) => onChange({ exr: e.currentTarget.checked ? PLAIN_EXR : null })}
      />
      {exr && (
        <>
          <div className={styles.side}>
            <SegmentedControl
              size="xs"
              aria-label="Numbers of the OpenEXR"
              disabled={off}
              value={exr.type}
              data={[
                { value: 'half', label: '16 bits' },
                { value: 'float', label: '32 bits' },
              ]}
              onChange={(type) => set({ type: type as 'half' | 'float' })}
            />
            <SegmentedControl
              size="xs"
              aria-label="Packing of the OpenEXR"
              disabled={off}
              value={exr.compression}
              data={[
                { value: 'zip', label: 'ZIP' },
                { value: 'zips', label: 'ZIPS' },
                { value: 'none', label: 'None' },
              ]}
              onChange={(compression) => set({ compression: compression as 'zip' | 'zips' | 'none' })}
            />
          </div>
          <Checkbox
            size="xs"
            label="Each AOV in a file of its own"
            disabled={off}
            checked={exr.aovsApart}
            onChange={(e) => set({ aovsApart: e.currentTarget.checked })}
          />
          <Checkbox
            size="xs"
            label="One for each cell, also where cells differ by their grade alone"
            disabled={off}
            checked={exr.perCell}
            onChange={(e) => set({ perCell: e.currentTarget.checked })}
          />
        </>
      )}
    </div>
  );
}

function Choice({
  label,
  off,
  value,
  data,
  onChange,
}: {
  label: string;
  off: boolean;
  value: string;
  data: readonly (readonly [string, string])[];
  onChange: (v: string) => void;
}) {
  return (
    <div className={styles.side}>
      <span className={styles.format}>{label}</span>
      <SegmentedControl
        size="xs"
        aria-label={label}
        disabled={off}
        value={value}
        data={data.map(([v, words]) => ({ value: v, label: words }))}
        onChange={onChange}
      />
    </div>
  );
}
