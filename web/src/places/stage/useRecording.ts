// Where an edit goes: to the destination; where that does not hold it or is not what is shown, to where the person said
// that such edits always go; otherwise it is asked.
import type { Project } from '@variscen/contract';
import { type Change, type Facet, type Value, optionTitle, propertyOf } from '@variscen/core/looks';
import { useCallback, useRef, useState } from 'react';
import { call } from '../../api/client.ts';
import { type Destination, fits } from '../../model/destinations.ts';
import { useSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';
import { say } from '../../ui/notify.ts';
import { alwaysFor } from './pending/RightPlace.tsx';
import type { Shown } from './useShown.ts';

const facetOf = (c: Change): Facet | undefined => propertyOf(c.property)?.facet;

type OnTaken = (taken: readonly Change[]) => void;
export interface Recording {
  /** @param onTaken hears of those that went somewhere: at once, when they were asked about, or never */
  record(changes: readonly Change[], onTaken?: OnTaken): void;
  edit(targets: readonly string[], property: string, value: Value): void;
  /** Edits of one facet that wait for an answer; null: none does. */
  readonly asked: readonly Change[] | null;
  /** The asked edits go there; stay: further ones do not. */
  answer(destination: Destination, stay: boolean): void;
  answerWithNew(facet: Facet, name: string): Promise<void>;
  dropAsked(): void;
}

export function useRecording(project: Project, { destination, destinations }: Shown): Recording {
  const [, put] = useAddress();
  const session = useSession(project.id);
  const [misplaced, setMisplaced] = useState<readonly Change[]>([]);
  /** Of those that wait for an answer. */
  const taken = useRef<OnTaken | undefined>(undefined);
  const record = useCallback(
    (changes: readonly Change[], onTaken?: OnTaken) => {
      if (!destination) return;
      const isOwn = (c: Change) => destination.isHere && fits(c, destination);
      const own = changes.filter(isOwn);
      if (own.length) session.edit(destination.id, own);
      const ask: Change[] = [];
      const elsewhere = new Map<Destination, Change[]>();
      for (const c of changes.filter((x) => !isOwn(x))) {
        const facet = facetOf(c);
        const always = facet && destinations.find((d) => d.id === alwaysFor(project.id, facet));
        if (always && fits(c, always)) elsewhere.set(always, [...(elsewhere.get(always) ?? []), c]);
        else ask.push(c);
      }
      for (const [d, list] of elsewhere) {
        session.edit(d.id, list);
        say(`Pending in ${d.label}`, 'As you chose for this kind of edit.');
      }
      const placed = changes.filter((c) => !ask.includes(c));
      if (placed.length) onTaken?.(placed);
      if (!ask.length) return;
      taken.current = onTaken;
      setMisplaced(ask);
    },
    [destination, destinations, project.id, session],
  );
  const edit = useCallback(
    (targets: readonly string[], property: string, value: Value) =>
      record(targets.map((target) => ({ target, property, value }))),
    [record],
  );
  // facet by facet: what waits for an answer next
  const next = misplaced[0];
  const asked = next ? misplaced.filter((c) => facetOf(c) === facetOf(next)) : null;
  const sendAsked = (destinationId: string) => {
    if (!asked) return;
    session.edit(destinationId, asked);
    taken.current?.(asked);
    setMisplaced(misplaced.filter((c) => !asked.includes(c)));
  };
  const answer = (d: Destination, stay: boolean) => {
    sendAsked(d.id);
    if (!stay) put({ to: d.id });
  };
  const answerWithNew = async (facet: Facet, name: string) => {
    const made = await session.write(() =>
      call('createOption', { params: { projectId: project.id }, body: { facet, name } }),
    );
    if (!made) return;
    await session.readAgain();
    sendAsked(`option:${made.id}`);
    put({ to: `option:${made.id}` });
    say(
      `${optionTitle({ facet, name })} is made`,
      'The edit is pending in it. Variants use it when you add it to them.',
    );
  };
  return { record, edit, asked, answer, answerWithNew, dropAsked: () => setMisplaced([]) };
}
