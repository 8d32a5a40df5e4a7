import type { StepKind } from '#core/next-steps/steps.ts'
import { changeRecordAct } from './acts/change-record.ts'
import { fileToFolder } from './acts/file-to-folder.ts'
import { fileToRecord } from './acts/file-to-record.ts'
import { followUpAct } from './acts/follow-up.ts'
import { mailAct } from './acts/mail.ts'
import { nextDocument } from './acts/next-document.ts'
import { tellProgram } from './acts/tell-program.ts'
import { tellSystem } from './acts/tell-system.ts'
import type { Doing } from './acts/following.ts'

/** Every kind of step. */
export const ACTS: { readonly [K in StepKind]: Doing<K> } = {
  'file to the record': fileToRecord,
  'file to a folder': fileToFolder,
  mail: mailAct,
  'tell a program': tellProgram,
  'tell the customer system': tellSystem,
  'follow-up': followUpAct,
  'change the record': changeRecordAct,
  'next document': nextDocument,
}
