// The plan in a few lines.
import type { Plan } from '@variscen/contract';
import type { Aov } from '@variscen/core/plan';
import dayjs from 'dayjs';
import type { ReactNode } from 'react';
import { SOURCE_WORDS, figuresOf } from '../../model/planFigures.ts';
import { bytes, count, duration, percent, plural } from '../../ui/format.ts';
import { AOV_WORDS } from './profiles/profileFields.ts';

const FRAMES_NAMED = 2;
const AOVS_NAMED = 2;
const DENOISED: Readonly<Record<number, string>> = { 0: 'no', 1: 'yes' };

export function PlanSummary({ plan }: { plan: Plan }) {
  const { profile } = plan;
  const f = figuresOf(plan);
  const rest = f.isWhole ? '' : ', without what the process takes, which is not measured yet';
  return (
    <div className="kv">
      <Line of="Expected" title={f.isRough ? SOURCE_WORDS.project : SOURCE_WORDS.camera}>
        {f.expectedS === null ? 'not measured yet' : `${f.isRough ? 'roughly' : 'about'} ${duration(f.expectedS)}`}
      </Line>
      {plan.doneAt !== null && (
        <Line of="Done" title="After all that waits before it, within the working hours">
          {endWords(plan.doneAt)}
        </Line>
      )}
      <Line of="Memory, most" title={`${count(f.mostBytes)} bytes${rest}`}>
        {bytes(f.mostBytes)}
        {!f.isWhole && ' and the process'}
      </Line>
      {f.culls && (
        <>
          <Line of="… without culling">{bytes(f.mostBytesWithoutCulling)}</Line>
          <Line of="Left out">{plural(f.droppedObjects, 'object')}</Line>
          {f.inPartObjects > 0 && <Line of="Pieces left out">of {plural(f.inPartObjects, 'object')}</Line>}
          {f.simplifiedObjects > 0 && <Line of="Simplified">{plural(f.simplifiedObjects, 'object')}</Line>}
        </>
      )}
      <Line
        of="Files, most"
        title={`${bytes(plan.freeBytes)} are free; a film that renders in slices takes up to ${bytes(plan.filmBytes)} beside them`}
      >
        {bytes(plan.mostFileBytes)}
      </Line>
      <Line of="Frame">
        {f.frames.slice(0, FRAMES_NAMED).join(', ')}
        {f.frames.length > FRAMES_NAMED && ' …'}
      </Line>
      <Line of="Samples">
        {count(profile.samples)}
        {profile.noise !== null && ' at most'}
      </Line>
      {profile.noise !== null && <Line of="Noise">down to {percent(profile.noise)}</Line>}
      <Line of="Denoised">{DENOISED[profile.denoise] ?? percent(profile.denoise)}</Line>
      {profile.aovs.length > 0 && (
        <Line of="AOVs" title={wordsOf(profile.aovs).join(', ')}>
          {aovsText(profile.aovs)}
        </Line>
      )}
    </div>
  );
}

function endWords(at: string): string {
  const end = dayjs(at);
  return end.isSame(dayjs(), 'day') ? `about ${end.format('HH:mm')}` : `about ${end.format('ddd HH:mm')}`;
}

function Line({ of, title, children }: { of: string; title?: string; children: ReactNode }) {
  return (
    <>
      <span>{of}</span>
      <b title={title}>{children}</b>
    </>
  );
}

const wordsOf = (aovs: readonly Aov[]): string[] => aovs.map((aov) => AOV_WORDS[aov]);
function aovsText(aovs: readonly Aov[]): string {
  const named = wordsOf(aovs.slice(0, AOVS_NAMED)).join(', ');
  return aovs.length > AOVS_NAMED ? `${named} and ${aovs.length - AOVS_NAMED} more` : named;
}
