// What is gone, new, or differs, one by one; what is gone is told what it became.
import { Select } from '@mantine/core';
import type { HandMatch, MatchPreview } from '@variscen/contract';
import { type ReactNode, useMemo } from 'react';
import { count } from '../../ui/format.ts';
import styles from './MatchPanel.module.css';

const SHOWN = 300;
const HOW_WORDS = {
  path: 'same path',
  parent: 'same name in its group',
  name: 'only one of its name',
  hand: 'by hand',
} as const;
/** Objects and groups may take each other's place; a light, a camera and a material only that of their kind. */
const family = (kind: string): string => (kind === 'group' ? 'object' : kind);

type Gone = MatchPreview['gone'][number];

interface TableProps {
  heads: readonly ReactNode[];
  /** Of all, shown or not. */
  total: number;
  /** Said of those that are shown first. */
  order?: string;
  children: ReactNode;
}
function Table({ heads, total, order, children }: TableProps) {
  return (
    <>
      <table className="rows">
        <thead>
          <tr>{heads}</tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
      {total > SHOWN && (
        <p className="dim">
          The first {SHOWN} of {count(total)}
          {order}.
        </p>
      )}
      {total === 0 && <p className="dim">None.</p>}
    </>
  );
}

interface GoneProps {
  look: MatchPreview;
  byHand: readonly HandMatch[];
  /** to null: it is not told any more. */
  onMatch: (gone: Pick<Gone, 'id' | 'kind'>, to: string | null) => void;
}
export function GoneTable({ look, byHand, onMatch }: GoneProps) {
  const choices = useMemo(() => choicesOf(look), [look]);
  const heads = [
    <th key="gone">Gone</th>,
    <th key="kind">Kind</th>,
    <th key="values" className="n">
      Recorded values
    </th>,
    <th key="now" className={styles.itIsNow}>
      It is now
    </th>,
  ];
  return (
    <Table heads={heads} total={look.gone.length + byHand.length} order="; those with recorded values stand first">
      {byHand.map(({ material, from, to }) => {
        const kind = material ? 'material' : 'object';
        return (
          <GoneRow key={`${kind} ${from}`} label={from} kind={kind} recorded="">
            <span>
              {to}{' '}
              <button type="button" className={styles.undo} onClick={() => onMatch({ id: from, kind }, null)}>
                undo
              </button>
            </span>
          </GoneRow>
        );
      })}
      {look.gone.slice(0, SHOWN).map((g) => (
        <GoneRow key={`${g.kind} ${g.id}`} label={g.label} kind={g.kind} recorded={g.recorded || ''}>
          <Became gone={g} choices={choices.get(family(g.kind)) ?? []} onPick={(to) => onMatch(g, to)} />
        </GoneRow>
      ))}
    </Table>
  );
}

interface Choice {
  readonly value: string;
  readonly label: string;
}
/** What is new, by what may take its place. */
function choicesOf({ added }: MatchPreview): ReadonlyMap<string, Choice[]> {
  const out = new Map<string, Choice[]>();
  for (const { kind, id, label } of added)
    out.set(family(kind), [...(out.get(family(kind)) ?? []), { value: id, label }]);
  return out;
}

interface GoneRowProps {
  label: string;
  kind: string;
  recorded: number | string;
  children: ReactNode;
}
function GoneRow({ label, kind, recorded, children }: GoneRowProps) {
  return (
    <tr>
      <td className={`ellipsis ${styles.label}`} title={label}>
        {label}
      </td>
      <td className="dim">{kind}</td>
      <td className="n">{recorded}</td>
      <td>{children}</td>
    </tr>
  );
}
function Became({ gone, choices, onPick }: { gone: Gone; choices: Choice[]; onPick: (to: string) => void }) {
  return (
    <Select
      size="xs"
      aria-label={`What ${gone.label} is now`}
      placeholder={choices.length ? 'Choose what it became…' : 'nothing new of its kind'}
      searchable
      limit={60}
      disabled={!choices.length}
      value={null}
      data={choices}
      onChange={(v) => {
        if (v !== null) onPick(v);
      }}
    />
  );
}

export function AddedTable({ look: { added } }: { look: MatchPreview }) {
  return (
    <Table heads={[<th key="new">New</th>, <th key="kind">Kind</th>]} total={added.length}>
      {added.slice(0, SHOWN).map((a) => (
        <tr key={`${a.kind} ${a.id}`}>
          <td>{a.label}</td>
          <td className="dim">{a.kind}</td>
        </tr>
      ))}
    </Table>
  );
}

export function NotableTable({ look }: { look: MatchPreview }) {
  const heads = ['In the new file', 'Was', 'Found by', 'Differs'].map((head) => <th key={head}>{head}</th>);
  return (
    <Table heads={heads} total={look.notableCount}>
      {look.notable.slice(0, SHOWN).map((m) => (
        <tr key={`${m.kind} ${m.to}`}>
          <td>
            {m.to} <span className="faint">{m.kind}</span>
          </td>
          <td className="dim">{m.from === m.to ? '' : m.from}</td>
          <td className="dim">{HOW_WORDS[m.how]}</td>
          <td>{[m.moved && 'moved', m.changed && 'changed'].filter(Boolean).join(', ')}</td>
        </tr>
      ))}
    </Table>
  );
}
