// Pictures of a project and what people say of them.
import type { REVIEWS_ROUTES } from '@variscen/contract';
import { slug } from '@variscen/core/plan';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const reviewsHandlers = ({
  develops,
  regions,
  pending,
  projects,
  reviews,
  sheets,
  uploads,
}: Services): Handlers<typeof REVIEWS_ROUTES> => ({
  rendered: ({ params }) => reviews.rendered(params.projectId),
  render: ({ params }) => reviews.render(params.renderId),
  reviews: ({ params }) => reviews.list(params.projectId),
  regions: ({ params }) => regions.list(params.projectId),
  keepRegion: async ({ params, body }) => {
    await regions.keep(params.projectId, params.regionId, body);
    return {};
  },
  dropRegion: async ({ params }) => {
    await regions.drop(params.projectId, params.regionId);
    return {};
  },
  planDevelop: ({ params, body }) => develops.plan(params.projectId, body.cells),
  develop: ({ params, body }) => develops.develop(params.projectId, body.cells),
  gradeCells: ({ params, body }) => pending.gradeCells(params.projectId, body.cells, body.set, body.clear),
  bringNotes: ({ params, body }) => reviews.bringNotes(params.projectId, body),
  contactSheet: async ({ params, body, res }) => {
    const { name } = await projects.row(params.projectId);
    const about = {
      mediaType: body.format === 'pdf' ? 'application/pdf' : 'image/png',
      fileName: `${slug(body.title || name)}-contact-sheet.${body.format}`,
    };
    await uploads.sent(res, about, (file, signal) => sheets.write(params.projectId, body, file, signal));
  },
  rendersTable: async ({ params, body, res }) => {
    const { name } = await projects.row(params.projectId);
    res.attachment(`${slug(name)}-pictures.csv`).type('text/csv; charset=utf-8');
    res.send(await sheets.table(params.projectId, body.renderIds));
  },
  review: async ({ params, body }) => {
    await reviews.change(params.projectId, body.renderIds, body.change);
    return {};
  },
});
