import type { z } from 'zod';
import { createDocument, type ZodOpenApiOperationObject } from 'zod-openapi';
import { decideAnswerSchema, decideRequestSchema, tokenAnswerSchema, tokenRequestSchema } from './decide.ts';
import { refusalSchema } from './errors.ts';

/** The public API as an OpenAPI 3.1 document, generated from the schemas that check its requests. */
export function decisionsDescribed(origin: string) {
  return createDocument({
    openapi: '3.1.0',
    info: { title: 'Apple Porch: decisions', version: '1' },
    servers: [{ url: origin }],
    paths: {
      '/v1/decide': {
        post: operation('What a person gets in some slots', decideRequestSchema, decideAnswerSchema),
      },
      '/v1/tokens': {
        post: operation('A token that says in a browser who comes', tokenRequestSchema, tokenAnswerSchema),
      },
    },
  });
}

const refusals = {
  400: 'The request is not as described',
  401: 'The key is not known',
  403: 'The key may not be used so, or from there',
  404: 'Nothing is live yet, or there is no such contact',
};

function operation(summary: string, body: z.ZodType, answer: z.ZodType): ZodOpenApiOperationObject {
  const json = (schema: z.ZodType) => ({ content: { 'application/json': { schema } } });
  return {
    summary,
    requestBody: { required: true, ...json(body) },
    responses: {
      200: { description: 'Done', ...json(answer) },
      ...Object.fromEntries(
        Object.entries(refusals).map(([status, description]) => [
          status,
          { description, ...json(refusalSchema) },
        ]),
      ),
    },
  };
}
