// Finished pictures with their light kept apart, for mixing their light groups, and the looks that they were made from.
import { AppError } from '@variscen/contract';
import { catchesShadow } from '@variscen/core/looks';
import { type RenderRow, Renders } from '../db/entities/index.ts';
import { runTask } from '../work/run.ts';
import { asChanges } from './asChanges.ts';
import type { Context } from './context.ts';

export class LightPictureService {
  constructor(private readonly c: Context) {}

  /** Writes a picture and its light groups to a file (core/image/lightPicture.ts). @returns its bytes */
  async write(renderId: string, mostWidthPx: number, file: string, signal: AbortSignal): Promise<number> {
    const render = await this.find(renderId);
    const picture = await this.pathOf(render, 'exr');
    if (catchesShadow(render.inputs.values))
      throw new AppError(
        'INVALID',
        'A picture with shadow catchers cannot be mixed: their shadow does not come apart by light groups.',
        'Render the cell in the other lighting.',
      );
    if (picture === null)
      throw new AppError('INVALID', 'This picture was not written as OpenEXR.', 'Render it with a profile that does.');
    const groups = await this.pathOf(render, 'exr-lightGroups');
    const task = { kind: 'lightPicture', picture, groups, mostWidthPx, file } as const;
    return (await runTask(task, undefined, signal)).bytes;
  }

  async look(renderId: string) {
    const { inputs } = await this.find(renderId);
    return { sceneHash: inputs.scene, changes: asChanges(inputs.values) };
  }

  private async find(renderId: string): Promise<RenderRow> {
    const render = await this.c.db.getRepository(Renders).findOneBy({ id: renderId });
    if (!render) throw new AppError('NOT_FOUND', 'There is no such picture.');
    return render;
  }
  /** null: it has no such file. @throws AppError FILE_CHANGED of one that is gone or another than was written */
  private async pathOf(render: RenderRow, kind: string): Promise<string | null> {
    const file = render.files.find((f) => f.kind === kind);
    if (!file) return null;
    const path = await this.c.output.toRead(file.path);
    if (await this.c.output.faultOf(file))
      throw new AppError(
        'FILE_CHANGED',
        `“${file.path}” is not the picture that was rendered.`,
        'Render the cell again.',
      );
    return path;
  }
}
