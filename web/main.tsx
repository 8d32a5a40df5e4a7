import '@fontsource/source-sans-3/400.css'
import '@fontsource/source-sans-3/600.css'
import '@fontsource/source-serif-4/400.css'
import '@fontsource/source-serif-4/400-italic.css'
import '@fontsource/source-serif-4/600.css'
import '@fontsource/caveat/600.css'
import '@fontsource/dancing-script/600.css'
import '@fontsource/kalam/400.css'
import './styles.css'
import { createRoot } from 'react-dom/client'
import { BrevanApp } from './brevan-app.tsx'
import { facesHere } from './faces.ts'
import { askBeforeLeaving } from './frame/kept-here.ts'

askBeforeLeaving(window)

void facesHere().then(() => createRoot(document.getElementById('root')!).render(<BrevanApp />))
