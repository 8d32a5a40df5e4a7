import { toJsonSchema } from '@valibot/to-json-schema'
import { api } from '#contract/api.ts'
import { problemSchema } from '#contract/problem.ts'
import { NOTHING, type Route, scopeOf } from '#contract/route.ts'

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

/** What a route asks of whoever calls: nothing, a session, or a key with a scope. */
const securityOf = ({ access }: Route): Json => {
  if (access === 'anyone' || access === 'signing link') return { security: [] }
  const scope = scopeOf(access)
  return scope ? { security: [{ key: [] }], 'x-scope': scope } : {}
}

/** Headers that every answer to a program has, and one that it may send. */
const RATE = {
  RateLimit: {
    description: 'Calls left (`r`) and seconds until they are counted anew (`t`)',
    schema: { type: 'string' },
  },
  'RateLimit-Policy': { description: 'Calls (`q`) in so many seconds (`w`)', schema: { type: 'string' } },
}
const IDEMPOTENCY = {
  name: 'Idempotency-Key',
  in: 'header',
  required: false,
  description: 'Sent again with the same key, a call does nothing more and has the same answer.',
  schema: { type: 'string', minLength: 1, maxLength: 200 },
}

/**
 * The OpenAPI 3.1 document, made from the contract: of the whole API, or of what programs call and nothing else (`programs`),
 * which is what is promised to stay.
 */
export function openApi(url: string, { programs }: { readonly programs: boolean }): Json {
  const schemas: Json = { Problem: convert(problemSchema, 'output') }
  const paths: Record<string, Json> = {}
  const problem = {
    description: 'Refused (RFC 9457)',
    content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
  }
  for (const [name, each] of Object.entries(api)) {
    const route: Route = each as Route
    const forPrograms = scopeOf(route.access) !== null
    if (programs && !forPrograms) continue
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
        : route.answer === NOTHING
          ? null
          : {
              'application/json': {
                schema: schemaOf(route.answer, schemas, name),
                ...(route.example?.answer === undefined ? {} : { example: route.example.answer }),
              },
            }
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
                'application/json': {
                  schema: schemaOf(route.body, schemas, `${name}.body`, 'input'),
                  ...(route.example?.body === undefined ? {} : { example: route.example.body }),
                },
              },
            },
          }
        : {}
    paths[path] = {
      ...paths[path],
      [route.method.toLowerCase()]: {
        operationId: name,
        summary: route.summary,
        ...securityOf(route),
        parameters: [
          ...parameters(route.params, 'path'),
          ...parameters(route.query, 'query'),
          ...(route.idempotent ? [IDEMPOTENCY] : []),
        ],
        ...body,
        responses: {
          [route.answer === NOTHING ? 204 : (route.status ?? 200)]: {
            description: route.status === 202 ? 'Taken; where to look is said' : 'Done',
            ...(forPrograms ? { headers: RATE } : {}),
            ...(content ? { content } : {}),
          },
          default: problem,
        },
      },
    }
  }
  return {
    openapi: '3.1.0',
    info: {
      title: programs ? 'Brevan for programs' : 'Brevan',
      version: programs ? '1.0.0' : '0.1.0',
      description: programs
        ? 'Start agreements, follow them, fetch them. Keys are made in the settings, under Programs.'
        : 'Templates, runs, agreements, approvals and signing.',
    },
    servers: [{ url: `${url}/api` }],
    ...(programs ? {} : { security: [{ session: [] }] }),
    paths,
    components: {
      schemas,
      securitySchemes: {
        ...(programs ? {} : { session: { type: 'apiKey', in: 'cookie', name: 'brevan_session' } }),
        key: { type: 'http', scheme: 'bearer' },
      },
    },
  }
}
