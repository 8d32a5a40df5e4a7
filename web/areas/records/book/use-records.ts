import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { type Field, type FieldValue, isItems } from '#core/outline/field.ts'
import { toValue } from '#core/outline/record.ts'
import { formatValue } from '#core/text/format.ts'
import { call } from '#web/api/client.ts'

export type BookRecord = Answer<Api['records']>['records'][number]

const PAGE = 500

/** Records that fit, page by page as they are wanted. */
export function useRecords(kind: RecordKind, query: Readonly<Record<string, string | undefined>>) {
  const found = useInfiniteQuery({
    queryKey: ['records', kind, query],
    queryFn: ({ pageParam, signal }) =>
      call('records', {
        params: { kind },
        query: { ...query, offset: String(pageParam), limit: String(PAGE) },
        signal,
      }),
    initialPageParam: 0,
    getNextPageParam: ({ total }, pages) => {
      const fetched = pages.reduce((sum, { records }) => sum + records.length, 0)
      return fetched < total ? fetched : undefined
    },
    placeholderData: keepPreviousData,
  })
  const { data } = found
  const all = useMemo(() => data?.pages.flatMap(({ records }) => records) ?? [], [data])
  return { found, all, total: data?.pages[0]?.total ?? 0 }
}

/** A value as lists show it. */
export function shownValue(field: Field, value: FieldValue | undefined): string {
  if (value === undefined) return ''
  if (isItems(value)) return value.length === 1 ? '1 line' : `${value.length} lines`
  return formatValue(field, toValue(field, value), null, navigator.language) ?? String(value)
}
