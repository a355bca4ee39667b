// The OpenAPI document, made from the routes.
import { createDocument } from 'zod-openapi';
import { ROUTES, type RouteSpec } from './routes/index.ts';
import { errorSchema, eventSchema } from './events.ts';

function contentOf(route: RouteSpec) {
  if (route.body) return { 'application/json': { schema: route.body } };
  if (route.upload) return { [route.upload]: { schema: { type: 'string', format: 'binary' } } };
  return undefined;
}

export function openApiDocument(version: string): unknown {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [operationId, route] of Object.entries(ROUTES) as [string, RouteSpec][]) {
    const content = contentOf(route);
    (paths[route.path] ??= {})[route.method] = {
      operationId,
      summary: route.summary,
      ...(route.node === true && { security: [{ node: [] }] }),
      ...((route.params || route.query) && {
        requestParams: { ...(route.params && { path: route.params }), ...(route.query && { query: route.query }) },
      }),
      ...(content && { requestBody: { required: true, content } }),
      responses: {
        200: {
          description: 'Done.',
          content: route.download
            ? { [route.download]: { schema: { type: 'string', format: 'binary' } } }
            : { 'application/json': { schema: route.response } },
        },
        default: {
          description: 'What went wrong, on which thing, and what to do.',
          content: { 'application/json': { schema: errorSchema } },
        },
      },
    };
  }
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Variscen',
      version,
      description: 'Looks, culling and batch rendering of one scene from many cameras.',
    },
    paths: paths as never,
    components: { schemas: { Event: eventSchema }, securitySchemes: { node: { type: 'http', scheme: 'bearer' } } },
  });
}
