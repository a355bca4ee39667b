// The grade of finished pictures, changed on their stored light: seen at once, kept for one, for some or as an option,
// and written into new versions without rendering.
import { Select, TextInput } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { type Change, type SceneIndex, type Value, propertiesFor, sameValue, unitOf } from '@variscen/core/looks';
import { useMemo, useState } from 'react';
import { useScene } from '../../../api/queries.ts';
import { useClipboard } from '../../../model/clipboard.ts';
import type { Listed } from '../../../model/review/strip.ts';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import { PropertyRow } from '../../stage/inspector/PropertyRow.tsx';
import { ValueEditor } from '../../stage/inspector/ValueEditor.tsx';
import side from '../ReviewSide.module.css';
import type { ReviewState } from '../useReview.ts';
import type { ReviewTools } from '../useReviewTools.ts';
import styles from './DevelopPanel.module.css';
import { gradeWith, lookGrade } from './gradeWith.ts';
import { type KeptFor, useKeepGrade } from './useKeepGrade.ts';

const GRADE = 'grade';

interface Props {
  readonly project: Project;
  readonly review: ReviewState;
  readonly current: Listed;
  readonly tools: ReviewTools;
}
export function DevelopPanel(props: Props) {
  return (
    <details
      className={side.part}
      open={props.tools.isDeveloping}
      onToggle={(e) => props.tools.setDeveloping(e.currentTarget.open)}
    >
      <summary className={styles.head}>Develop</summary>
      {props.tools.isDeveloping && <WithScene {...props} />}
    </details>
  );
}

/** A scene may be large: it is not read before somebody develops. */
function WithScene(props: Props) {
  const { data: index } = useScene(props.project.revision?.sceneHash);
  return index && <Develop {...props} index={index} />;
}

function Develop({ project, review, current, tools, index }: Props & { readonly index: SceneIndex }) {
  const { draft, setDraft } = tools;
  const { copied, copy } = useClipboard();
  const look = useMemo(() => lookGrade(project, index, current), [project, index, current]);
  const properties = propertiesFor(index, GRADE);
  const valueOf = (property: string): Value => draft.get(property) ?? look.get(property)!;
  const put = (changes: readonly (readonly [string, Value])[]) => {
    const next = new Map(draft);
    for (const [property, value] of changes)
      if (sameValue(value, look.get(property))) next.delete(property);
      else next.set(property, value);
    setDraft(next, gradeWith(look, next));
  };
  const inClipboard = copied?.changes.filter((c) => c.target === GRADE) ?? [];
  return (
    <>
      <div className={styles.tools}>
        <button
          type="button"
          className={`quiet ${side.small}`}
          onClick={() => {
            copy({
              from: `${current.camera.name} in ${current.variant.name}`,
              changes: properties.map((p) => ({ target: GRADE, property: p.id, value: valueOf(p.id) })),
            });
            say('The grade is copied', 'Go to another picture and paste it.');
          }}
        >
          Copy
        </button>
        <button
          type="button"
          className={`quiet ${side.small}`}
          disabled={!inClipboard.length}
          title={copied ? `Of ${copied.from}` : undefined}
          onClick={() => put(inClipboard.map((c) => [c.property, c.value]))}
        >
          Paste
        </button>
        <button
          type="button"
          className={`quiet ${side.small}`}
          disabled={!draft.size}
          onClick={() => setDraft(new Map(), null)}
        >
          As it was
        </button>
      </div>
      {properties.map((property) => (
        <PropertyRow
          key={property.id}
          property={property}
          value={valueOf(property.id)}
          onChange={(v) => put([[property.id, v]])}
          editor={
            <ValueEditor
              project={project}
              property={property}
              index={index}
              value={valueOf(property.id)}
              unit={unitOf(property, index, GRADE)}
              label={property.label}
              onChange={(v) => put([[property.id, v]])}
            />
          }
        />
      ))}
      <Keep project={project} review={review} current={current} tools={tools} />
    </>
  );
}

function Keep({ project, review, current, tools }: Props) {
  const [keptFor, setKeptFor] = useState<KeptFor>('picture');
  const [name, setName] = useState('');
  const keep = useKeepGrade(project, review, current);
  const changes = useMemo(
    (): Change[] => [...tools.draft].map(([property, value]) => ({ target: GRADE, property, value })),
    [tools.draft],
  );
  const cells = new Set(review.entries.map((l) => `${l.camera.id} ${l.variant.id}`)).size;
  const isNamed = keptFor !== 'option' || name.trim() !== '';
  const [isBusy, setBusy] = useState(false);
  const go = async () => {
    setBusy(true);
    if (await keep(keptFor, changes, name.trim())) tools.setDraft(new Map(), null);
    setBusy(false);
  };
  return (
    <form
      className={styles.keep}
      onSubmit={(e) => {
        e.preventDefault();
        void go();
      }}
    >
      <Select
        size="xs"
        label="Keep it for"
        allowDeselect={false}
        value={keptFor}
        onChange={(v) => v && setKeptFor(v as KeptFor)}
        data={[
          { value: 'picture', label: current.rendered.frame === null ? 'this picture' : 'every frame of this cell' },
          { value: 'camera', label: `${current.camera.name} in every variant` },
          { value: 'shown', label: `the ${plural(cells, 'cell')} shown here` },
          { value: 'option', label: `${current.variant.name}, as a Grade option` },
        ]}
      />
      {keptFor === 'option' && (
        <TextInput
          size="xs"
          label="Name of the option"
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
        />
      )}
      <button type="submit" className="go" disabled={!changes.length || !isNamed || isBusy}>
        Keep and develop
      </button>
      <p className="faint">New versions are made from stored light. Nothing is rendered.</p>
    </form>
  );
}
