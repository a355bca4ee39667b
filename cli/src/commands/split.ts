import type { AddCommand } from '../command.ts';
import { findProject, oneOf } from '../find.ts';
import { megabytes } from '../output.ts';
import { writeNew } from '../writeNew.ts';

interface Options {
  readonly camera: string;
  readonly variant: string;
}

export const splitCommand: AddCommand = (program, run) => {
  program
    .command('split')
    .description('writes the scene as one camera needs it in a variant, as GLB')
    .argument('<project>', 'its name or id')
    .argument('<file>', 'a new file')
    .requiredOption('-c, --camera <name>', 'the camera')
    .requiredOption('-v, --variant <name>', 'the variant')
    .action((called: string, file: string, { camera, variant }: Options) =>
      run(async ({ api, output }) => {
        const p = await findProject(api, called);
        const cameraId = oneOf(p.cameras, camera, 'camera').id;
        const variantId = oneOf(p.variants, variant, 'variant').id;
        const response = await api.download('splitScene', { projectId: p.id }, { cameraId, variantId });
        const shareOf = (header: string) => (response.headers.get(header) ?? '').split('/').map(Number);
        const [objects, ofObjects] = shareOf('x-variscen-objects');
        const [triangles, ofTriangles] = shareOf('x-variscen-triangles');
        const bytes = await writeNew(file, response);
        const wholeFileBytes = p.revision?.report.fileBytes ?? null;
        const beside = wholeFileBytes === null ? '' : `; the scene's own file takes ${megabytes(wholeFileBytes)}`;
        output.say(
          { file, bytes, objects, ofObjects, triangles, ofTriangles, wholeFileBytes },
          `${file}: ${megabytes(bytes)}, ${objects} of ${ofObjects} objects, ${triangles} of ${ofTriangles} triangles${beside}`,
        );
      }),
    );
};
