import { plainPage, type TemplateContent } from './template.ts'

/** A template with nothing written yet but its title. */
export const emptyTemplate = (title: string, language = 'en-US'): TemplateContent => ({
  title,
  language,
  outline: [],
  roles: [],
  initialsOnEveryPage: [],
  document: {
    type: 'doc',
    content: [
      {
        type: 'heading',
        attrs: { id: 'title', condition: null, level: 1 },
        content: [{ type: 'text', text: title }],
      },
      { type: 'paragraph', attrs: { id: 'first', condition: null } },
    ],
  },
  sending: {
    agreementName: title,
    fileName: `{{number}} ${title}`,
    subject: title,
    message: 'This agreement is ready to sign.',
    signByDays: 14,
    remindAfter: [5, 10],
    remindBefore: [1],
  },
  page: plainPage,
})
