// What is delivered, in which formats, under which names; and what speaks against it, before anything is written.
import { Checkbox, Modal, NumberInput, SegmentedControl, Switch, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import {
  DELIVERY_KINDS,
  type DeliveryAsked,
  type DeliveryFormat,
  type DeliveryPlan,
  type Project,
} from '@variscen/contract';
import { DISPLAYS, type Display } from '@variscen/core/image';
import { faultOfTemplate } from '@variscen/core/plan';
import { useState } from 'react';
import { call } from '../../../api/client.ts';
import { Buttons } from '../../../ui/Buttons.tsx';
import { plural } from '../../../ui/format.ts';
import { sayError } from '../../../ui/notify.ts';
import styles from './HandOver.module.css';

const KEY = 'variscen.delivery';
const KIND_WORDS: Readonly<Record<DeliveryFormat['kind'], string>> = {
  exr: 'OpenEXR, as rendered',
  png: 'PNG',
  png16: 'PNG, 16 bits',
  tiff: 'TIFF, 16 bits',
  jpeg: 'JPEG',
  webp: 'WebP',
};
const DISPLAY_WORDS: Readonly<Record<Display, string>> = {
  srgb: 'sRGB',
  'display-p3': 'Display P3',
  rec709: 'Video, Rec. 709',
};
const HAS_QUALITY: readonly DeliveryFormat['kind'][] = ['jpeg', 'webp'];
const FIRST_QUALITY = 90;
const FILES_NAMED = 3;
/** While somebody types nothing is asked. */
const STILL_MS = 250;
type Kept = Omit<DeliveryAsked, 'name' | 'renderIds' | 'accepts'>;
const FIRST: Kept = {
  formats: [{ kind: 'png', widthPx: null, quality: FIRST_QUALITY }],
  nameTemplate: '{camera}/{variant}_{version}',
  target: 'folder',
  isGraded: true,
  display: 'srgb',
  hasSheet: true,
  hasPage: false,
};
function lastAsked(): Kept {
  try {
    return { ...FIRST, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Kept>) };
  } catch {
    return FIRST;
  }
}
const NOTHING_ACCEPTED = { outdated: false, rejected: false };

interface Props {
  readonly project: Project;
  readonly renderIds: readonly string[];
  /** As one was asked for before. */
  readonly first?: DeliveryAsked;
  readonly onClose: () => void;
  readonly onBegun: () => void;
}
export function DeliverDialog({ project, renderIds, first, onClose, onBegun }: Props) {
  const client = useQueryClient();
  const [asked, setAsked] = useState<DeliveryAsked>(
    () => first ?? { ...lastAsked(), name: 'Delivery', renderIds: [...renderIds], accepts: NOTHING_ACCEPTED },
  );
  const [isBusy, setBusy] = useState(false);
  const set = (change: Partial<DeliveryAsked>) => setAsked((a) => ({ ...a, ...change }));
  const template = faultOfTemplate(asked.nameTemplate);
  const canAsk = !template && asked.formats.length > 0 && asked.name.trim() !== '';
  const [settled] = useDebouncedValue(asked, STILL_MS);
  const { data: plan, error } = useQuery({
    queryKey: ['delivery plan', project.id, settled],
    enabled: canAsk,
    retry: false,
    staleTime: 0,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call('planDelivery', { params: { projectId: project.id }, body: settled, signal }),
  });
  const refused = plan?.faults.filter((f) => f.kind === 'other' || !asked.accepts[f.kind]) ?? [];
  const deliver = async () => {
    setBusy(true);
    try {
      await call('deliver', { params: { projectId: project.id }, body: asked });
      const { name: _, renderIds: _ids, accepts: _accepts, ...kept } = asked;
      localStorage.setItem(KEY, JSON.stringify(kept));
      await client.invalidateQueries({ queryKey: ['deliveries', project.id] });
      onBegun();
    } catch (e) {
      sayError(e);
      setBusy(false);
    }
  };
  return (
    <Modal opened onClose={onClose} title={`Deliver ${plural(asked.renderIds.length, 'picture')}`} size={800}>
      <form
        className={styles.form}
        onSubmit={(e) => {
          e.preventDefault();
          void deliver();
        }}
      >
        <TextInput
          size="xs"
          label="Name"
          data-autofocus
          maxLength={120}
          value={asked.name}
          onChange={(e) => set({ name: e.currentTarget.value })}
        />
        <div>
          <div className={styles.label}>Formats</div>
          <div className={styles.formats}>
            {DELIVERY_KINDS.map((kind) => (
              <FormatRow key={kind} kind={kind} formats={asked.formats} onChange={(formats) => set({ formats })} />
            ))}
          </div>
        </div>
        <TextInput
          size="xs"
          label="Names"
          description="{project} {camera} {variant} {lighting} {environment} {materials} {visibility} {placement} {grade} {profile} {version} {frame} {width} {height} {date} {time}"
          value={asked.nameTemplate}
          error={template}
          onChange={(e) => set({ nameTemplate: e.currentTarget.value })}
        />
        <div className={styles.how}>
          <div>
            <div className={styles.label}>Into</div>
            <SegmentedControl
              size="xs"
              aria-label="Into"
              value={asked.target}
              data={[
                { value: 'folder', label: 'A folder' },
                { value: 'zip', label: 'A zip' },
              ]}
              onChange={(target) => set({ target: target as DeliveryAsked['target'] })}
            />
          </div>
          <div>
            <div className={styles.label}>Colours</div>
            <SegmentedControl
              size="xs"
              aria-label="Colours"
              disabled={asked.formats.every((f) => f.kind === 'exr')}
              value={asked.display}
              data={DISPLAYS.map((value) => ({ value, label: DISPLAY_WORDS[value] }))}
              onChange={(display) => set({ display })}
            />
          </div>
        </div>
        <div className={styles.how}>
          <Toggle label="Graded, as their looks are" is={asked.isGraded} onChange={(isGraded) => set({ isGraded })} />
          <Toggle label="With a contact sheet" is={asked.hasSheet} onChange={(hasSheet) => set({ hasSheet })} />
          <Toggle label="With a page for a browser" is={asked.hasPage} onChange={(hasPage) => set({ hasPage })} />
        </div>
        {plan && <Speaks plan={plan} asked={asked} onAccept={(accepts) => set({ accepts })} />}
        {error && <p className="notice">{error.message}</p>}
        {plan && <Files plan={plan} />}
        <Buttons
          label={isBusy ? 'Beginning …' : `Deliver ${plural(asked.renderIds.length, 'picture')}`}
          disabled={isBusy || !canAsk || !plan || refused.length > 0}
          onCancel={onClose}
        />
      </form>
    </Modal>
  );
}

const Toggle = ({ label, is, onChange }: { label: string; is: boolean; onChange: (is: boolean) => void }) => (
  <Switch size="xs" label={label} checked={is} onChange={(e) => onChange(e.currentTarget.checked)} />
);

interface FormatProps {
  readonly kind: DeliveryFormat['kind'];
  readonly formats: readonly DeliveryFormat[];
  readonly onChange: (formats: DeliveryFormat[]) => void;
}
function FormatRow({ kind, formats, onChange }: FormatProps) {
  const own = formats.find((f) => f.kind === kind);
  const put = (change: Partial<DeliveryFormat>) =>
    onChange(formats.map((f) => (f.kind === kind ? { ...f, ...change } : f)));
  const inOrder = (list: readonly DeliveryFormat[]) => DELIVERY_KINDS.flatMap((k) => list.filter((f) => f.kind === k));
  return (
    <div className={styles.format}>
      <Checkbox
        size="xs"
        label={KIND_WORDS[kind]}
        checked={own !== undefined}
        onChange={(e) =>
          onChange(
            e.currentTarget.checked
              ? inOrder([...formats, { kind, widthPx: null, quality: FIRST_QUALITY }])
              : formats.filter((f) => f.kind !== kind),
          )
        }
      />
      {own && kind !== 'exr' && (
        <NumberInput
          size="xs"
          aria-label={`${KIND_WORDS[kind]}, width`}
          placeholder="Full width"
          suffix=" px wide"
          min={16}
          max={16_384}
          value={own.widthPx ?? ''}
          onChange={(v) => put({ widthPx: typeof v === 'number' ? v : null })}
        />
      )}
      {own && HAS_QUALITY.includes(kind) && (
        <NumberInput
          size="xs"
          aria-label={`${KIND_WORDS[kind]}, quality`}
          prefix="Quality "
          min={1}
          max={100}
          value={own.quality}
          onChange={(v) => put({ quality: typeof v === 'number' ? v : FIRST_QUALITY })}
        />
      )}
    </div>
  );
}

const ACCEPT_WORDS = {
  outdated: 'Deliver what is out of date all the same',
  rejected: 'Deliver what is rejected all the same',
};
interface SpeaksProps {
  readonly plan: DeliveryPlan;
  readonly asked: DeliveryAsked;
  readonly onAccept: (accepts: DeliveryAsked['accepts']) => void;
}
/** What speaks against it. */
function Speaks({ plan, asked, onAccept }: SpeaksProps) {
  return (['other', 'rejected', 'outdated'] as const).map((kind) => {
    const faults = plan.faults.filter((f) => f.kind === kind);
    if (!faults.length) return null;
    return (
      <div key={kind} className={kind !== 'other' && asked.accepts[kind] ? undefined : 'notice'}>
        <ul className={styles.faults}>
          {faults.map((f) => (
            <li key={`${f.renderId} ${f.message}`}>{f.message}</li>
          ))}
        </ul>
        {kind !== 'other' && (
          <Checkbox
            size="xs"
            mt={8}
            label={ACCEPT_WORDS[kind]}
            checked={asked.accepts[kind]}
            onChange={(e) => onAccept({ ...asked.accepts, [kind]: e.currentTarget.checked })}
          />
        )}
      </div>
    );
  });
}

function Files({ plan }: { plan: DeliveryPlan }) {
  const more = plan.files.length - FILES_NAMED;
  return (
    <div className="dim">
      {plural(plan.files.length, 'file')} into <span className={`mono ${styles.path}`}>{plan.path}</span>:
      {plan.files.slice(0, FILES_NAMED).map((file) => (
        <div key={file} className={`mono ${styles.path}`}>
          {file}
        </div>
      ))}
      {more > 0 && <div>and {plural(more, 'more', 'more')}</div>}
    </div>
  );
}
