import '@fontsource/source-sans-3/400.css'
import '@fontsource/source-sans-3/600.css'
import '@fontsource/source-serif-4/400.css'
import '@fontsource/source-serif-4/600.css'
import './styles.css'
import { QueryClientProvider } from '@tanstack/react-query'
import { createRoot } from 'react-dom/client'
import { NoticeProvider } from './api/notices.tsx'
import { queries } from './api/queries.ts'
import { FormPage } from './areas/answering/form-page.tsx'

// The page of an intake form by itself: whoever answers loads nothing of what the desk works with.

const token = /^\/form\/([^/]+)/.exec(window.location.pathname)?.[1] ?? ''

createRoot(document.getElementById('root')!).render(
  <QueryClientProvider client={queries}>
    <NoticeProvider>
      <FormPage token={token} />
    </NoticeProvider>
  </QueryClientProvider>,
)
