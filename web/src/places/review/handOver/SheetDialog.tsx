// A contact sheet of the pictures that are shown.
import { Modal, NumberInput, SegmentedControl, Select, TextInput, Textarea } from '@mantine/core';
import type { Project, SheetAsked } from '@variscen/contract';
import { LABEL_TOKENS, faultOfLabel } from '@variscen/core/sheet';
import { useEffect, useRef, useState } from 'react';
import { download } from '../../../api/client.ts';
import type { Listed } from '../../../model/review/strip.ts';
import { Buttons } from '../../../ui/Buttons.tsx';
import { plural } from '../../../ui/format.ts';
import { sayError } from '../../../ui/notify.ts';
import { saveBytes } from '../../../ui/saveBytes.ts';
import styles from './HandOver.module.css';

type Asked = Omit<SheetAsked, 'renderIds'>;
const KEY = 'variscen.sheet';
const FIRST: Asked = {
  arrangement: 'grid',
  columns: 4,
  format: 'pdf',
  paper: 'a4',
  orientation: 'landscape',
  widthPx: 3000,
  background: 'white',
  title: '',
  label: '{version} · {profile}\n{verdict}',
};
/** As it was asked for last, but for its title. */
function lastAsked(): Asked {
  try {
    return { ...FIRST, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Asked>) };
  } catch {
    return FIRST;
  }
}

interface Props {
  readonly project: Project;
  readonly pictures: readonly Listed[];
  readonly onClose: () => void;
}
export function SheetDialog({ project, pictures, onClose }: Props) {
  const [asked, setAsked] = useState<Asked>(() => ({ ...lastAsked(), title: project.name }));
  const [isBusy, setBusy] = useState(false);
  const stop = useRef<AbortController | null>(null);
  // who closes it does not wait for it any more
  useEffect(() => () => stop.current?.abort(), []);
  const set = (change: Partial<Asked>) => setAsked((a) => ({ ...a, ...change }));
  const fault = faultOfLabel(asked.label);
  const make = async () => {
    setBusy(true);
    const { signal } = (stop.current = new AbortController());
    try {
      const body = { ...asked, renderIds: pictures.map((l) => l.rendered.id) };
      const bytes = await download('contactSheet', { params: { projectId: project.id }, body, signal });
      const { title: _, ...kept } = asked;
      localStorage.setItem(KEY, JSON.stringify(kept));
      const type = asked.format === 'pdf' ? 'application/pdf' : 'image/png';
      saveBytes(bytes, type, `${asked.title || project.name} contact sheet.${asked.format}`);
      onClose();
    } catch (e) {
      if (!signal.aborted) sayError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal opened onClose={onClose} title={`Contact sheet of ${plural(pictures.length, 'picture')}`} size={560}>
      <form
        className={styles.form}
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <TextInput
          size="xs"
          label="Title"
          maxLength={200}
          value={asked.title}
          onChange={(e) => set({ title: e.currentTarget.value })}
        />
        <div className={styles.fields}>
          <Choice
            label="Arranged"
            value={asked.arrangement}
            onChange={(arrangement) => set({ arrangement })}
            of={[
              ['grid', 'Cameras × variants'],
              ['rows', 'In rows'],
            ]}
          />
          {asked.arrangement === 'rows' && (
            <NumberInput
              size="xs"
              label="In a row"
              min={1}
              max={12}
              value={asked.columns}
              onChange={(v) => set({ columns: Number(v) || 1 })}
            />
          )}
        </div>
        <div className={styles.fields}>
          <Choice
            label="File"
            value={asked.format}
            onChange={(format) => set({ format })}
            of={[
              ['pdf', 'PDF'],
              ['png', 'PNG'],
            ]}
          />
          {asked.format === 'pdf' ? (
            <>
              <Select
                size="xs"
                label="Paper"
                allowDeselect={false}
                value={asked.paper}
                data={[
                  { value: 'a4', label: 'A4' },
                  { value: 'a3', label: 'A3' },
                  { value: 'letter', label: 'Letter' },
                ]}
                onChange={(paper) => paper && set({ paper: paper as Asked['paper'] })}
              />
              <Choice
                label="Held"
                value={asked.orientation}
                onChange={(orientation) => set({ orientation })}
                of={[
                  ['landscape', 'Landscape'],
                  ['portrait', 'Portrait'],
                ]}
              />
            </>
          ) : (
            <NumberInput
              size="xs"
              label="Width, px"
              min={600}
              max={16_384}
              step={100}
              value={asked.widthPx}
              onChange={(v) => set({ widthPx: Number(v) || 600 })}
            />
          )}
        </div>
        <Choice
          label="Background"
          value={asked.background}
          onChange={(background) => set({ background })}
          of={[
            ['white', 'White'],
            ['grey', 'Middle grey'],
            ['black', 'Black'],
          ]}
        />
        <Textarea
          size="xs"
          label="Words below a picture"
          description={LABEL_TOKENS.map((t) => `{${t}}`).join(' ')}
          autosize
          minRows={2}
          maxRows={5}
          maxLength={300}
          value={asked.label}
          error={fault}
          onChange={(e) => set({ label: e.currentTarget.value })}
        />
        <Buttons
          label={isBusy ? 'Making it …' : `Make the ${asked.format.toUpperCase()}`}
          disabled={isBusy || fault !== undefined}
          onCancel={onClose}
        />
      </form>
    </Modal>
  );
}

interface ChoiceProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly of: readonly (readonly [value: T, label: string])[];
  readonly onChange: (value: T) => void;
}
function Choice<T extends string>({ label, value, of, onChange }: ChoiceProps<T>) {
  return (
    <div>
      <div className={styles.label}>{label}</div>
      <SegmentedControl
        size="xs"
        aria-label={label}
        value={value}
        data={of.map(([v, words]) => ({ value: v, label: words }))}
        onChange={(v) => onChange(v as T)}
      />
    </div>
  );
}
