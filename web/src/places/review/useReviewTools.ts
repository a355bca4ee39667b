// What hands have chosen to see and to do in the review, apart from which pictures: it is of this window alone.
import type { Grade } from '@variscen/core/image';
import type { Value } from '@variscen/core/looks';
import type { DifferenceAsked } from '@variscen/core/review';
import { useCallback, useMemo, useState } from 'react';
import { type StoreApi, createStore } from 'zustand';
import type { Frame, Point } from './PicturePane.tsx';
import type { ReviewState } from './useReview.ts';
import { type Subject, subjectOf } from '../../model/review/subject.ts';

export const SURROUNDS = ['grey', 'black', 'white'] as const;
export type Surround = (typeof SURROUNDS)[number];
const SURROUND_KEY = 'variscen.surround';

export interface Compared {
  /** The one that is looked at last. */
  readonly pictures: readonly Subject[];
}
export interface ReviewTools {
  readonly dragging: 'move' | 'draw' | 'region';
  setDragging(dragging: ReviewTools['dragging']): void;
  readonly surround: Surround;
  stepSurround(): void;
  readonly difference: DifferenceAsked;
  setDifference(change: Partial<DifferenceAsked>): void;
  /** A part of the picture that is measured. */
  readonly region: Frame | null;
  setRegion(region: Frame | null): void;
  /** A place that was clicked: what is there? */
  readonly asked: AskedAt | null;
  setAsked(asked: AskedAt | null): void;
  /** The path of an object that is shown alone. */
  readonly isolated: string | null;
  isolate(path: string | null): void;
  /** What is under the pointer: apart, since it is another with every move and nothing but its values shows it. */
  readonly pointed: StoreApi<Pointed>;
  /** The grade is being changed. */
  readonly isDeveloping: boolean;
  setDeveloping(isDeveloping: boolean): void;
  /** Values of the grade that are changed on the picture that is looked at, and the grade that comes of them. */
  readonly draft: ReadonlyMap<string, Value>;
  readonly drafted: Grade | null;
  setDraft(draft: ReadonlyMap<string, Value>, grade: Grade | null): void;
  readonly compared: Compared;
  /** Which of the compared ones a flip shows. */
  readonly flipped: number;
  flip(): void;
}
/** In shares of the picture that the pointer is over: the same place in each that is compared. */
export interface PixelAt {
  readonly share: Point;
}

export interface Pointed {
  readonly pixel: PixelAt | null;
}

export interface AskedAt {
  readonly renderId: string;
  readonly share: Point;
}

interface Draft {
  /** Of the picture that was looked at when it was begun. */
  readonly of: string | undefined;
  readonly values: ReadonlyMap<string, Value>;
  readonly grade: Grade | null;
}
const NO_DRAFT: Draft = { of: undefined, values: new Map(), grade: null };

export function useReviewTools(review: ReviewState): ReviewTools {
  const [dragging, setDragging] = useState<ReviewTools['dragging']>('move');
  const [surround, setSurround] = useState<Surround>(
    () => SURROUNDS.find((s) => s === localStorage.getItem(SURROUND_KEY)) ?? 'grey',
  );
  const [difference, putDifference] = useState<DifferenceAsked>({ kind: 'perceived', scale: 1, isSigned: false });
  const [region, setRegion] = useState<Frame | null>(null);
  const [pointed] = useState(() => createStore<Pointed>(() => ({ pixel: null })));
  const [asked, setAsked] = useState<AskedAt | null>(null);
  const [isolated, isolate] = useState<string | null>(null);
  const [turns, setTurns] = useState(0);
  const [isDeveloping, setDeveloping] = useState(false);
  const [draft, putDraft] = useState(NO_DRAFT);
  const at = review.current?.rendered.id;
  const own = draft.of === at ? draft : NO_DRAFT;
  const { current, held, versions, mode } = review;
  const compared = useMemo((): Compared => {
    if (!current) return { pictures: [] };
    const shown = subjectOf(current);
    if (mode === 'one') return { pictures: [shown] };
    if (held.length) return { pictures: [...held, shown] };
    // nobody holds one: it is the version before
    const before = versions.find((l) => l.rendered.version < current.rendered.version);
    return { pictures: before ? [subjectOf(before), shown] : [shown] };
  }, [current, held, versions, mode]);
  const flip = useCallback(() => setTurns((n) => n + 1), []);
  return {
    dragging,
    setDragging,
    surround,
    stepSurround: () => {
      const next = SURROUNDS[(SURROUNDS.indexOf(surround) + 1) % SURROUNDS.length]!;
      localStorage.setItem(SURROUND_KEY, next);
      setSurround(next);
    },
    difference,
    setDifference: (change) => putDifference((d) => ({ ...d, ...change })),
    region,
    setRegion,
    asked,
    setAsked,
    isolated,
    isolate,
    pointed,
    isDeveloping,
    setDeveloping,
    draft: own.values,
    drafted: own.grade,
    setDraft: (values, grade) => putDraft({ of: at, values, grade: values.size ? grade : null }),
    compared,
    flipped: (compared.pictures.length - 1 + turns) % Math.max(1, compared.pictures.length),
    flip,
  };
}
