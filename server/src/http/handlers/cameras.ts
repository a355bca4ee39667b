// Cameras.
import type { CAMERAS_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import { byId } from '../byId.ts';
import type { Services } from '../services.ts';

export const camerasHandlers = ({ projects, cameras }: Services): Handlers<typeof CAMERAS_ROUTES> => ({
  createCamera: async ({ params, body }) => {
    const id = await cameras.create(params.projectId, body.name, body.settings, body.handling, body.afterId);
    return byId((await projects.get(params.projectId)).cameras, id);
  },
  updateCamera: async ({ params, body }) => {
    await cameras.update(params.projectId, params.cameraId, body);
    return byId((await projects.get(params.projectId)).cameras, params.cameraId);
  },
  updateCameras: async ({ params, body }) => {
    const { cameraIds, ...edit } = body;
    await cameras.updateMany(params.projectId, cameraIds, edit);
    return projects.get(params.projectId);
  },
  orderCameras: async ({ params, body }) => {
    await cameras.order(params.projectId, body.cameraIds);
    return projects.get(params.projectId);
  },
  deleteCamera: async ({ params }) => {
    await cameras.remove(params.projectId, [params.cameraId]);
    return {};
  },
  deleteCameras: async ({ params, body }) => {
    await cameras.remove(params.projectId, body.cameraIds);
    return projects.get(params.projectId);
  },
});
