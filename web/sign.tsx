import '@fontsource/source-sans-3/400.css'
import '@fontsource/source-sans-3/600.css'
import '@fontsource/source-serif-4/400.css'
import '@fontsource/source-serif-4/400-italic.css'
import '@fontsource/source-serif-4/600.css'
import '@fontsource/caveat/600.css'
import '@fontsource/dancing-script/600.css'
import '@fontsource/kalam/400.css'
import './styles.css'
import { QueryClientProvider } from '@tanstack/react-query'
import { createRoot } from 'react-dom/client'
import { NoticeProvider } from './api/notices.tsx'
import { queries } from './api/queries.ts'
import { SigningPage } from './areas/signing/signing-page.tsx'
import { facesHere } from './faces.ts'

// The signing page by itself: a signer’s telephone loads nothing of what the desk works with.

const token = /^\/sign\/([^/]+)/.exec(window.location.pathname)?.[1] ?? ''

void facesHere().then(() =>
  createRoot(document.getElementById('root')!).render(
    <QueryClientProvider client={queries}>
      <NoticeProvider>
        <SigningPage token={token} />
      </NoticeProvider>
    </QueryClientProvider>,
  ),
)
