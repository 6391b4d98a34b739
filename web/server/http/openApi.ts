import parse from 'joi-to-json';
import { OPERATIONS, type Operation } from './operations.ts';

interface ObjectShape {
  properties?: Record<string, { description?: string }>;
  required?: string[];
}

/** The interface as an OpenAPI document, made of the schemas that requests are checked by. */
export function openApi() {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const operation of OPERATIONS)
    paths[operation.path] = { ...paths[operation.path], [operation.method]: described(operation) };
  return {
    openapi: '3.1.0',
    info: {
      title: 'Kinkajou',
      version: '1',
      description: 'Textured models in, proven packages out: what scripts and farms can ask of it.',
    },
    paths,
    components: { securitySchemes: { token: { type: 'http', scheme: 'bearer' } } },
  };
}

function described({ path, summary, token, query, body, example, answers, status = 200 }: Operation) {
  const parts = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string', format: 'uuid' },
  }));
  const { properties = {}, required = [] } = query ? (parse(query, 'open-api-3.1') as ObjectShape) : {};
  const asked = Object.entries(properties).map(([name, { description, ...schema }]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    ...(description ? { description } : {}),
    ...(example?.query?.[name] === undefined ? {} : { example: example.query[name] }),
    schema,
  }));
  return {
    summary,
    ...(parts.length + asked.length > 0 ? { parameters: [...parts, ...asked] } : {}),
    ...(token ? { security: [{ token: [] }] } : {}),
    ...(body ? { requestBody: { required: true, content: contentOf(body, example?.body) } } : {}),
    responses: {
      [status]: { description: answers },
      default: { description: 'An error in words: code, message, place and hint' },
    },
  };
}

function contentOf(body: NonNullable<Operation['body']>, example: unknown) {
  if (body === 'file')
    return { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } };
  return {
    'application/json': {
      schema: parse(body, 'open-api-3.1'),
      ...(example === undefined ? {} : { example }),
    },
  };
}

/** The call as a line for a shell. */
export function curlOf({ method, path, token, body, example }: Operation, address: string): string {
  const query = example?.query ? `?${new URLSearchParams(example.query)}` : '';
  const url = `${address}${path.replaceAll(/\{(\w+)\}/g, (_, name: string) => name.toUpperCase())}${query}`;
  return [
    'curl',
    ...(method === 'get' ? [] : [`-X ${method.toUpperCase()}`]),
    ...(token ? ['-H "Authorization: Bearer $TOKEN"'] : []),
    ...(body === 'file'
      ? [`--data-binary @${example?.query?.name ?? 'FILE'}`, '-H "content-type: application/octet-stream"']
      : []),
    ...(example?.body === undefined
      ? []
      : ["-H 'content-type: application/json'", `-d '${JSON.stringify(example.body)}'`]),
    `'${url}'`,
  ].join(' ');
}
