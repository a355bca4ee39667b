// Keys of the Stage: keep, copy and paste values, flip through variants and options.
import type { Project } from '@variscen/contract';
import { FACETS, type Facet, parseTarget, targetLabel } from '@variscen/core/looks';
import { useEffect, useRef } from 'react';
import { pasted, useClipboard, valuesOf } from '../../model/clipboard.ts';
import { isAddedLight } from '../../model/lightPlacing.ts';
import { useAddress } from '../../ui/address.ts';
import { say } from '../../ui/notify.ts';
import { typing } from '../../ui/typing.ts';
import type { Stage } from './stage.ts';
import type { Shown } from './useShown.ts';

export function useStageKeys({ project, shown, selection, recording, looking, lights, tray }: Stage): void {
  const { index, state } = shown;
  const { targets } = selection;
  const { copied, copy } = useClipboard();
  const { flipVariant, flipOption } = useFlipping(project, shown);
  useEffect(() => {
    const copyValues = () => {
      if (!index || !state || !targets.length || window.getSelection()?.toString()) return false;
      const from = targets.length === 1 ? targetLabel(targets[0]!) : `${targets.length} objects`;
      copy({ from, changes: valuesOf(index, state, targets) });
      say('The values are copied', 'Select other objects and press Ctrl+V.');
      return true;
    };
    const pasteValues = () => {
      if (!copied || !index || !state) return false;
      recording.record(pasted(copied, index, state, targets));
      return true;
    };
    /** What looks added can go; what the scene has cannot. */
    const removeLights = () => {
      if (!targets.length || !targets.every(isAddedLight)) return false;
      void lights.remove(targets.map((t) => parseTarget(t)!.name));
      return true;
    };
    const flip = (e: KeyboardEvent) => {
      if (e.code !== 'Comma' && e.code !== 'Period') return false;
      const step = e.code === 'Period' ? 1 : -1;
      if (e.shiftKey) flipOption(step);
      else flipVariant(step);
      return true;
    };
    /** Whether the key was one of the Stage's. */
    const take = (e: KeyboardEvent): boolean => {
      const command = e.ctrlKey || e.metaKey;
      if (command && e.key === 'c') return copyValues();
      if (command && e.key === 'v') return pasteValues();
      if (command || e.altKey) return false;
      if (e.key === 'Escape') looking.setPicking(null);
      if (e.key === 'Delete') return !e.defaultPrevented && removeLights();
      return flip(e);
    };
    const onKey = (e: KeyboardEvent) => {
      if (document.querySelector('[role=dialog][aria-modal=true]')) return;
      // from a field too: what was typed there is taken first
      if ((e.ctrlKey || e.metaKey) && e.key === 'Enter') {
        e.preventDefault();
        setTimeout(() => tray.current?.quickKeep());
        return;
      }
      if (!typing(e.target) && take(e)) e.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}

function useFlipping(project: Project, { variant, destination }: Shown) {
  const [, put] = useAddress();
  const lastFacet = useRef<Facet | undefined>(undefined);
  const flipVariant = (step: number) => {
    const count = project.variants.length;
    const i = project.variants.findIndex((v) => v.id === variant?.id);
    const next = project.variants[(i + step + count) % count];
    if (next) put({ variant: next.id });
  };
  /** Through the options of the destination's facet, the base first; from the base on with those that it came from. */
  const flipOption = (step: number) => {
    const firstWithOptions = FACETS.find((f) => project.options.some((o) => o.facet === f));
    const facet = destination?.facet ?? lastFacet.current ?? firstWithOptions;
    lastFacet.current = facet;
    const ring = ['base', ...project.options.filter((o) => o.facet === facet).map((o) => `option:${o.id}`)];
    const i = ring.indexOf(destination?.id ?? 'base');
    put({ to: ring[(i + step + ring.length) % ring.length]! });
  };
  return { flipVariant, flipOption };
}
