// What cameras need of the scene, and what they leave out. What was measured may be megabytes: it is passed on as it is
// kept.
import type { CULL_ROUTES } from '@variscen/contract';
import { slug } from '@variscen/core/plan';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';
import { leftBy } from '../uploads.ts';

export const cullHandlers = ({ projects, culls, fits, uploads }: Services): Handlers<typeof CULL_ROUTES> => ({
  knownEvidence: async ({ params, query, res }) => {
    res.type('json').send(await culls.known(params.projectId, query.cameraId));
  },
  measureEvidence: async ({ params, body, res }) => {
    res.type('json').send(await culls.measure(params.projectId, body, leftBy(res)));
  },
  proveCull: async ({ params, body, res }) => {
    await uploads.sent(res, { mediaType: 'application/octet-stream', fileName: 'proof.bin' }, (file, signal) =>
      culls.prove(params.projectId, body, file, signal),
    );
  },
  splitScene: async ({ params, query, res }) => {
    const p = await projects.get(params.projectId);
    const camera = p.cameras.find((c) => c.id === query.cameraId);
    const fileName = `${slug(`${p.name} ${camera?.name ?? ''}`)}.glb`;
    await uploads.sent(res, { mediaType: 'model/gltf-binary', fileName }, async (file, signal) => {
      const { bytes, objects, ofObjects, triangles, ofTriangles } = await culls.split(
        params.projectId,
        query,
        file,
        signal,
      );
      res.set('X-Variscen-Objects', `${objects}/${ofObjects}`);
      res.set('X-Variscen-Triangles', `${triangles}/${ofTriangles}`);
      return bytes;
    });
  },
  fitCull: async ({ params, body, res }) => fits.find(params.projectId, body, leftBy(res)),
  cullPlan: async ({ params }) => ({ plan: await culls.plan(params.projectId, params.cameraId) }),
  setCullPlan: async ({ params, body }) => {
    await culls.setPlan(params.projectId, body); // to its end, whether who decided it stays or not
    return projects.get(params.projectId);
  },
});
