// What answers a route, typed from the route's schemas: parameters, query and body are what has been checked, and the
// answer is what the contract says.
import type { RouteSpec } from '@variscen/contract';
import type { Request, Response } from 'express';
import type * as z from 'zod';

/** JSON has no undefined: an optional field is there with its value, or not there. */
type Present<T> = T extends object ? { [Key in keyof T]: Present<Exclude<T[Key], undefined>> } : T;
type Checked<T> = T extends z.ZodType ? Present<z.output<T>> : undefined;
/** What is sent is not written to, so that it may be of the domain's read-only types. */
type Sent<T> = T extends object ? { readonly [Key in keyof T]: Sent<T[Key]> } : T;
type Answer<R extends RouteSpec> = R['response'] extends z.ZodType ? Sent<z.input<R['response']>> : undefined;

export interface Call<R extends RouteSpec = RouteSpec> {
  readonly params: R extends { readonly params: infer P } ? Checked<P> : Record<string, never>;
  readonly query: R extends { readonly query: infer Q } ? Checked<Q> : Record<string, never>;
  readonly body: R extends { readonly body: infer B } ? Checked<B> : undefined;
  readonly req: Request;
  readonly res: Response;
}

/** Returns the response, or undefined where it has answered itself. */
export type Handler<R extends RouteSpec = RouteSpec> = (call: Call<R>) => Promise<Answer<R> | undefined | void>;

export type Handlers<Routes extends Readonly<Record<string, RouteSpec>>> = {
  readonly [Name in keyof Routes]: Handler<Routes[Name]>;
};
