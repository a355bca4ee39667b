// What a route is, and the schemas that several share.
import * as z from 'zod';
import { idSchema } from '../looks.ts';

export interface RouteSpec {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** OpenAPI form: /api/projects/{projectId} */
  readonly path: string;
  readonly summary: string;
  readonly params?: z.ZodObject;
  readonly query?: z.ZodObject;
  readonly body?: z.ZodType;
  /** The body is bytes of this media type. */
  readonly upload?: string;
  readonly response?: z.ZodType;
  /** The response is bytes or a stream of this media type. */
  readonly download?: string;
  /** Only render nodes, by their token; also: they too, where people need a token. */
  readonly node?: boolean | 'also';
}

export const project = z.object({ projectId: idSchema });
export const none = z.object({});
export const trace = z.object({ traceId: idSchema });
/** A project and something of it. */
export const part = <K extends string>(name: K) =>
  z.object({ projectId: idSchema, [name]: idSchema } as { projectId: typeof idSchema } & Record<K, typeof idSchema>);
/** Names of files are kept without the folders that a program may put before them. */
export const fileNameSchema = z
  .string()
  .min(1)
  .max(255)
  .overwrite((s) => s.replace(/^.*[\\/]/s, ''))
  .check(z.minLength(1, 'A file needs a name.'));
