import { call } from '#web/api/client.ts'

/** Opens the pages with their codes; the window is opened at once, for browsers let none open later. */
export async function printPages(pages: () => Promise<Blob>): Promise<void> {
  const shown = window.open('', '_blank')
  try {
    const url = URL.createObjectURL(await pages())
    if (shown) shown.location.href = url
    else window.location.href = url
    setTimeout(() => URL.revokeObjectURL(url), 60_000)
  } catch (error) {
    shown?.close()
    throw error
  }
}

export const printOwn = (token: string): Promise<void> =>
  printPages(() => call('signingPaper', { params: { token } }))
