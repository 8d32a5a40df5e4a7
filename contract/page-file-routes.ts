import * as v from 'valibot'
import { id, sha256, uploadQuery, wholeNumber } from './basics.ts'
import * as p from './page-file.ts'
import { route } from './route.ts'
import { cueFaultSchema, templateContentSchema } from './template.ts'
import { pagesSchema } from './document.ts'

const fileParams = v.object({ file: sha256 })

/** Files whose pages forms are made of. */
export const pageFileRoutes = {
  bringIn: route({
    method: 'POST',
    path: '/page-files',
    summary: 'Bring a PDF, picture or document in as pages; what is not seen on them is left out, and told',
    access: 'person',
    renews: [],
    query: uploadQuery,
    upload: true,
    limit: 60_000_000,
    answer: p.broughtInSchema,
  }),
  pageFile: route({
    method: 'GET',
    path: '/page-files/:file',
    summary: 'The pages of a file and the fields it had itself',
    access: 'person',
    params: fileParams,
    answer: p.pageFileSchema,
  }),
  pagesPdf: route({
    method: 'GET',
    path: '/page-files/:file/pdf',
    summary: 'The pages of a file, as PDF',
    access: 'person',
    params: fileParams,
    answer: 'application/pdf',
  }),
  startForm: route({
    method: 'POST',
    path: '/forms',
    summary: 'A new form template of the pages of files that were brought in',
    access: { right: 'templates' },
    renews: ['templates', 'shelves'],
    body: p.formStart,
    answer: v.object({ id }),
  }),
  replacePages: route({
    method: 'POST',
    path: '/form-replacements',
    summary: 'A draft with another version of one of its files, and where everything placed on it went',
    access: 'person',
    renews: [],
    body: v.object({ content: templateContentSchema, old: sha256, file: sha256 }),
    answer: v.object({ content: templateContentSchema, carried: v.array(p.carriedSchema) }),
  }),
  findPhrase: route({
    method: 'POST',
    path: '/form-phrases',
    summary: 'Every place where a phrase stands on the pages of a draft',
    access: 'person',
    renews: [],
    body: v.object({ content: templateContentSchema, phrase: v.pipe(v.string(), v.maxLength(300)) }),
    answer: v.array(p.foundPhraseSchema),
  }),
  followCues: route({
    method: 'POST',
    path: '/form-cues',
    summary: 'A draft with everything that has a text cue beside its phrase',
    access: 'person',
    renews: [],
    body: v.object({ content: templateContentSchema }),
    answer: v.object({ document: pagesSchema, faults: v.array(cueFaultSchema) }),
  }),
  likelyBlanks: route({
    method: 'GET',
    path: '/page-files/:file/likely',
    summary: 'What looks like a blank on the pages of a file: rules, dotted lines, frames, empty cells',
    access: 'person',
    params: fileParams,
    answer: v.array(p.likelySchema),
  }),
  pageReads: route({
    method: 'GET',
    path: '/page-files/:file/pages/:page',
    summary: 'The words, lines and frames of a page, with where they stand',
    access: 'person',
    params: v.object({ file: sha256, page: wholeNumber }),
    answer: p.pageReadSchema,
  }),
}
