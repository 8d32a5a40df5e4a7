import { toJsonSchema } from '@valibot/to-json-schema'
import { api } from '#contract/api.ts'
import { problemSchema } from '#contract/problem.ts'
import type { Route } from '#contract/route.ts'

type Json = Record<string, unknown>

const convert = (schema: Parameters<typeof toJsonSchema>[0], typeMode: 'input' | 'output'): Json => {
  const { $schema: _, ...made } = toJsonSchema(schema, {
    errorMode: 'ignore',
    typeMode,
    target: 'draft-2020-12',
  }) as Json
  return made
}

/** Definitions of recursive shapes move to the document's components, where each schema's references are pointed. */
function schemaOf(
  schema: Parameters<typeof toJsonSchema>[0],
  components: Json,
  prefix: string,
  typeMode: 'input' | 'output' = 'output',
): Json {
  const { $defs, ...made } = convert(schema, typeMode)
  const rename = (value: unknown): unknown =>
    JSON.parse(JSON.stringify(value).replaceAll('"#/$defs/', `"#/components/schemas/${prefix}.`)) as unknown
  for (const [key, definition] of Object.entries(($defs as Json | undefined) ?? {}))
    components[`${prefix}.${key}`] = rename(definition)
  return rename(made) as Json
}

/** The OpenAPI 3.1 document of the whole API, made from the contract. */
export function openApi(url: string): Json {
  const schemas: Json = { Problem: convert(problemSchema, 'output') }
  const paths: Record<string, Json> = {}
  const problem = {
    description: 'Refused (RFC 9457)',
    content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
  }
  for (const [name, each] of Object.entries(api)) {
    const route: Route = each as Route
    const path = route.path.replace(/:(\w+)/g, '{$1}')
    const parameters = (schema: Route['params'], where: 'path' | 'query') => {
      const made = schema ? convert(schema, 'input') : {}
      const required = (made['required'] as string[] | undefined) ?? []
      return Object.entries((made['properties'] as Json | undefined) ?? {}).map(([key, value]) => ({
        name: key,
        in: where,
        required: where === 'path' || required.includes(key),
        schema: value,
      }))
    }
    const content =
      typeof route.answer === 'string'
        ? { [route.answer]: { schema: { type: 'string', contentMediaType: route.answer } } }
        : { 'application/json': { schema: schemaOf(route.answer, schemas, name) } }
    const body = route.upload
      ? {
          requestBody: {
            required: true,
            content: {
              'application/octet-stream': {
                schema: { type: 'string', contentMediaType: 'application/octet-stream' },
              },
            },
          },
        }
      : route.body
        ? {
            requestBody: {
              required: true,
              content: {
                'application/json': { schema: schemaOf(route.body, schemas, `${name}.body`, 'input') },
              },
            },
          }
        : {}
    paths[path] = {
      ...paths[path],
      [route.method.toLowerCase()]: {
        operationId: name,
        summary: route.summary,
        ...(route.access === 'anyone' || route.access === 'signing link' ? { security: [] } : {}),
        parameters: [...parameters(route.params, 'path'), ...parameters(route.query, 'query')],
        ...body,
        responses: { '200': { description: 'Done', content }, default: problem },
      },
    }
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Brevan',
      version: '0.1.0',
      description: 'Templates, runs, agreements, approvals and signing.',
    },
    servers: [{ url: `${url}/api` }],
    security: [{ session: [] }],
    paths,
    components: {
      schemas,
      securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'brevan_session' } },
    },
  }
}
