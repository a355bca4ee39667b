// Selected cells whose light is stored already: they differ from a finished picture in their grade alone.
import { useQuery } from '@tanstack/react-query';
import type { BoardCell, Project } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';

/** More are not asked about while somebody selects. */
const MOST_CELLS = 200;

export function DevelopCells({ project, cells }: { project: Project; cells: readonly BoardCell[] }) {
  const [isBusy, setBusy] = useState(false);
  const wanted = cells.filter((c) => c.status === 'outdated' || c.status === 'never');
  const refs = wanted.map(({ cameraId, variantId }) => ({ cameraId, variantId }));
  const params = { projectId: project.id };
  const { data } = useQuery({
    // what is kept is among what it is of: it is asked again when the board is
    queryKey: [...keys.board(project.id), 'develop', refs],
    enabled: refs.length > 0 && refs.length <= MOST_CELLS,
    queryFn: ({ signal }) => call('planDevelop', { params, body: { cells: refs }, signal }),
  });
  if (!data?.cells.length) return null;
  const develop = async () => {
    setBusy(true);
    try {
      const begun = await call('develop', { params, body: { cells: data.cells } });
      say(`${plural(begun.pictures, 'picture')} developed`, 'New versions appear as they are written.');
    } catch (e) {
      sayError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div>
      <p className="dim">
        {plural(data.cells.length, 'cell')} of them {data.cells.length === 1 ? 'differs' : 'differ'} from a finished
        picture in grade alone: no rendering is needed.
      </p>
      <button type="button" className="quiet" disabled={isBusy} onClick={() => void develop()}>
        Develop {plural(data.pictures, 'picture')}
      </button>
    </div>
  );
}
