import { useQuery } from '@tanstack/react-query'
import type { PDFDocumentProxy } from 'pdfjs-dist'
import { call, useAnswer } from '#web/api/client.ts'
import { openPdf } from '#web/parts/pages/pdf.ts'

/** A file of pages, opened; it never changes. */
export function usePages(file: string): PDFDocumentProxy | null {
  const found = useQuery({
    queryKey: ['opened pages', file],
    queryFn: async () => {
      const blob = await call('pagesPdf', { params: { file } })
      return openPdf(new Uint8Array(await blob.arrayBuffer()))
    },
    staleTime: Infinity,
    gcTime: 300_000,
    // What is opened is no plain data that could be compared.
    structuralSharing: false,
  })
  return found.data ?? null
}

/** What was read on a page; null until it is there. */
export const usePageRead = (file: string, page: number, wanted: boolean) =>
  useAnswer('pageReads', { params: { file, page: String(page) } }, { enabled: wanted }).data ?? null
