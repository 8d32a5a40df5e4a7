import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '#web/api/client.ts'
import { type Studio, useStudio } from '#web/areas/templates/draft/studio-context.ts'

/** Asks the whole source of the proof. Only what the answer depends on is sent: the wording does not count. */
export const askSource = (
  { templateId, content, sheetId }: Pick<Studio, 'templateId' | 'content' | 'sheetId'>,
  asked: { readonly conditions: readonly string[]; readonly longest: string | null },
  signal?: AbortSignal,
) =>
  call('survey', {
    body: { templateId, sheetId, content: { ...content, document: { type: 'doc', content: [] } }, ...asked },
    signal,
  })

/** For how many rows of the source in the proof conditions hold. */
export function useSurvey(conditions: readonly string[]) {
  const { templateId, content, sheetId } = useStudio()
  const { outline, roles } = content
  return useQuery({
    queryKey: ['survey', { templateId, sheetId, outline, roles, conditions }],
    queryFn: ({ signal }) =>
      askSource({ templateId, content, sheetId }, { conditions, longest: null }, signal),
    enabled: sheetId !== null && conditions.length > 0,
    staleTime: 30_000,
    placeholderData: keepPreviousData,
  })
}
