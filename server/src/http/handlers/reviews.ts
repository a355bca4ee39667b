// Pictures of a project and what people say of them.
import type { REVIEWS_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const reviewsHandlers = ({ reviews }: Services): Handlers<typeof REVIEWS_ROUTES> => ({
  rendered: ({ params }) => reviews.rendered(params.projectId),
  render: ({ params }) => reviews.render(params.renderId),
  reviews: ({ params }) => reviews.list(params.projectId),
  review: async ({ params, body }) => {
    await reviews.change(params.projectId, body.renderIds, body.change);
    return {};
  },
});
