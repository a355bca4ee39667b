// Deliveries of a project.
import * as z from 'zod';
import { deliveryAskedSchema, deliveryPlanSchema, deliverySchema } from '../deliveries.ts';
import { idSchema } from '../looks.ts';
import { type RouteSpec, none, project } from './spec.ts';

const delivery = project.extend({ deliveryId: idSchema });

export const DELIVERIES_ROUTES = {
  deliveries: {
    method: 'get',
    path: '/api/projects/{projectId}/deliveries',
    summary: 'Deliveries of a project, the newest first.',
    params: project,
    response: z.array(deliverySchema),
  },
  planDelivery: {
    method: 'post',
    path: '/api/projects/{projectId}/deliveries/plan',
    summary: 'What a delivery would write, and why it would be refused. Writes nothing.',
    params: project,
    body: deliveryAskedSchema,
    response: deliveryPlanSchema,
  },
  deliver: {
    method: 'post',
    path: '/api/projects/{projectId}/deliveries',
    summary:
      'Writes pictures into a folder or a zip, with a manifest. Refused where something is out of date or rejected and that is not accepted.',
    params: project,
    body: deliveryAskedSchema,
    response: deliverySchema,
  },
  stopDelivery: {
    method: 'delete',
    path: '/api/projects/{projectId}/deliveries/{deliveryId}/writing',
    summary: 'Ends a delivery that is being written. Nothing of it is left.',
    params: delivery,
    response: none,
  },
  deliveryZip: {
    method: 'get',
    path: '/api/projects/{projectId}/deliveries/{deliveryId}/zip',
    summary: 'A delivery that was made as a zip.',
    params: delivery,
    download: 'application/zip',
  },
} as const satisfies Record<string, RouteSpec>;
