// Keeps a changed grade where somebody wants it, and has the pictures made anew.
import type { Project } from '@variscen/contract';
import type { Change } from '@variscen/core/looks';
import { useEffect, useState } from 'react';
import { call } from '../../../api/client.ts';
import type { Listed } from '../../../model/review/strip.ts';
import { useSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { say, sayError } from '../../../ui/notify.ts';
import type { ReviewState } from '../useReview.ts';

/** A picture, all of a camera, those that are shown, or a variant by an option of its own. */
export type KeptFor = 'picture' | 'camera' | 'shown' | 'option';
interface Cell {
  readonly cameraId: string;
  readonly variantId: string;
}

/** Whether it was kept; why not, the person was told. */
export function useKeepGrade(project: Project, review: ReviewState, current: Listed) {
  const session = useSession(project.id);
  const [isAwaited, setAwaited] = useState(false);
  // the version that is made of it is looked at as soon as it is there
  const newest = review.versions[0];
  useEffect(() => {
    if (isAwaited && newest && newest.rendered.version > current.rendered.version) review.look(newest.rendered.id);
  }, [isAwaited, newest, current, review]);
  return async (keptFor: KeptFor, changes: readonly Change[], name: string): Promise<boolean> => {
    const one = cellOf(current);
    const cells = cellsFor(keptFor, review, current);
    const kept = await {
      picture: () => session.gradeCells([one], changes),
      shown: () => session.gradeCells(cells, changes),
      camera: () => session.recorded(`camera:${one.cameraId}`, changes, []),
      option: () => session.gradeVariant(current.variant.id, current.variant.optionIds, name, changes),
    }[keptFor]();
    if (!kept) return false;
    try {
      const answer = await call('develop', { params: { projectId: project.id }, body: { cells } });
      setAwaited(true);
      const left = answer.refused.filter((r) => r.why !== 'It is up to date.').length;
      say(
        `${plural(answer.pictures, 'picture')} developed`,
        left
          ? `${plural(left, 'cell')} have changed in more than their grade: render them.`
          : 'New versions appear as they are written.',
      );
    } catch (e) {
      sayError(e);
    }
    return true;
  };
}

const cellOf = ({ camera, variant }: Listed): Cell => ({ cameraId: camera.id, variantId: variant.id });
/** Each once. */
function cellsFor(keptFor: KeptFor, review: ReviewState, current: Listed): Cell[] {
  const of = {
    picture: () => [current],
    shown: () => review.entries,
    camera: () => review.all.filter((l) => l.camera.id === current.camera.id),
    option: () => review.all.filter((l) => l.variant.id === current.variant.id),
  }[keptFor]();
  return [...new Map(of.map((l) => [`${l.camera.id} ${l.variant.id}`, cellOf(l)])).values()];
}
