import { useQuery } from '@tanstack/react-query'
import { Failed, Loading } from '#web/parts/states.tsx'
import { SettingsPlaces } from './settings-head.tsx'

/** The parts of an OpenAPI 3.1 document that are shown. */
interface Described {
  readonly info: { readonly title: string; readonly version: string; readonly description: string }
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>
}
interface Content {
  readonly content?: Readonly<Record<string, { readonly schema?: unknown; readonly example?: unknown }>>
}
interface Operation {
  readonly operationId: string
  readonly summary: string
  readonly 'x-scope'?: string
  readonly parameters: readonly {
    readonly name: string
    readonly in: string
    readonly required: boolean
    readonly description?: string
  }[]
  readonly requestBody?: Content
  readonly responses: Readonly<Record<string, Content & { readonly description: string }>>
}

const ADDRESS = '/api/v1/openapi.json'

/** The API reference, drawn from the description that programs read. */
export default function CallsPage() {
  const described = useQuery({
    queryKey: ['calls'],
    queryFn: async () => (await (await fetch(ADDRESS)).json()) as Described,
    staleTime: Infinity,
  })
  if (described.isPending) return <Loading />
  if (described.isError) return <Failed error={described.error} retry={() => void described.refetch()} />
  const { info, paths } = described.data
  const calls = Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method: method.toUpperCase(), operation })),
  )
  return (
    <div className="mx-auto h-full max-w-5xl overflow-auto px-6 pt-4 pb-16" tabIndex={0}>
      <SettingsPlaces />
      <h1 className="mt-4 text-xl">API reference</h1>
      <p className="max-w-2xl text-sm text-soft">
        {info.description} Version {info.version}; the same{' '}
        <a className="text-petrol underline" href={ADDRESS}>
          for programs, as OpenAPI 3.1
        </a>
        . Refusals are problem details (RFC 9457) that point to what is wrong.
      </p>
      <nav aria-label="Calls" className="mt-4 columns-2 text-sm">
        {calls.map(({ path, method, operation }) => (
          <a
            key={operation.operationId}
            href={`#${operation.operationId}`}
            className="block py-0.5 hover:underline"
          >
            <code className="mr-2 inline-block w-10 text-xs text-soft">{method}</code>
            <code className="text-xs text-petrol">/api{path}</code>
          </a>
        ))}
      </nav>
      {calls.map((call) => (
        <Call key={call.operation.operationId} {...call} />
      ))}
    </div>
  )
}

function Call({
  path,
  method,
  operation,
}: {
  readonly path: string
  readonly method: string
  readonly operation: Operation
}) {
  const [status, answer] = Object.entries(operation.responses).find(([code]) => code !== 'default') ?? []
  return (
    <section
      id={operation.operationId}
      aria-label={`${method} ${path}`}
      className="mt-6 border-t border-hair pt-3 text-sm"
    >
      <h2 className="text-base">
        <code className="text-sm">
          {method} /api{path}
        </code>
      </h2>
      <p>{operation.summary}</p>
      {operation['x-scope'] && <p className="text-xs text-soft">Scope: {operation['x-scope']}</p>}
      {operation.parameters.length > 0 && (
        <dl className="mt-2 grid grid-cols-[10rem_1fr] gap-y-0.5">
          {operation.parameters.map((parameter) => (
            <div key={parameter.name} className="contents">
              <dt>
                <code className="text-xs">{parameter.name}</code>
              </dt>
              <dd className="text-soft">
                in the {parameter.in}
                {parameter.required && ', has to be there'}
                {parameter.description && `. ${parameter.description}`}
              </dd>
            </div>
          ))}
        </dl>
      )}
      <Shape title="Sent" content={operation.requestBody} />
      <Shape title={`Answered, ${status ?? ''}`} content={answer} />
    </section>
  )
}

function Shape({ title, content }: { readonly title: string; readonly content: Content | undefined }) {
  const [type, shape] = Object.entries(content?.content ?? {})[0] ?? []
  if (!shape) return null
  return (
    <div className="mt-2">
      <h3 className="text-xs text-soft">
        {title}: {type}
      </h3>
      {shape.example !== undefined && <Json value={shape.example} />}
      {type === 'application/json' && (
        <details>
          <summary className="cursor-pointer text-xs text-petrol">its schema</summary>
          <Json value={shape.schema} />
        </details>
      )}
    </div>
  )
}

const Json = ({ value }: { readonly value: unknown }) => (
  <pre className="mt-1 max-h-80 overflow-auto border border-hair bg-sheet p-2 text-xs" tabIndex={0}>
    {JSON.stringify(value, null, 2)}
  </pre>
)
