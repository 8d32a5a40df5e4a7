import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '#web/frame/client.ts'
import { useStudio } from '../studio-context.ts'

/** Asks the source in the proof: for how many rows conditions hold, and which row has the longest value of a field. */
export function useSurvey(conditions: readonly string[], longest: string | null = null, enabled = true) {
  const { templateId, content, sheetId } = useStudio()
  // Only what the answer depends on: the wording does not count.
  const asked = { templateId, sheetId, outline: content.outline, roles: content.roles, conditions, longest }
  return useQuery({
    queryKey: ['survey', asked],
    queryFn: ({ signal }) =>
      call('survey', {
        body: {
          templateId,
          sheetId,
          content: { ...content, document: { type: 'doc', content: [] } },
          conditions,
          longest,
        },
        signal,
      }),
    enabled: enabled && sheetId !== null && (conditions.length > 0 || longest !== null),
    staleTime: 30_000,
    placeholderData: keepPreviousData,
  })
}
