import type { App } from '#server/app/app.ts'
import { followRecords } from '#server/services/records/record-sources.ts'
import { digestApprovals, watchApprovals } from '#server/services/agreements/watching.ts'
import { executeAgreement } from '#server/services/signing/executing.ts'
import { deliverMail } from '#server/services/agreements/delivering.ts'
import { deliverText } from '#server/services/signing/texts.ts'
import { sendDue } from '#server/services/signing/going.ts'
import { watchSigning } from '#server/services/signing/clock.ts'
import { measureRun } from '#server/services/making/measure.ts'
import { checkRun } from '#server/services/runs/run-check.ts'
import { fillOutput } from '#server/services/runs/run-outputs.ts'
import { sweepNight } from '#server/services/signing/sweeping.ts'
import { closeDay } from '#server/services/agreements/verifying.ts'
import type { JobData, JobName, JobOptions } from '#server/queue/job-data.ts'
import { tellOfSilence } from '#server/services/api/troubles.ts'
import { forgetTold } from '#server/services/webhooks/webhooks.ts'
import { forgetStarts, makeStarts } from '#server/services/api/starts.ts'
import { doAftermath } from '#server/services/next-steps/doing.ts'
import { planAftermath } from '#server/services/next-steps/planning.ts'
import { pullConnections } from '#server/services/connections/pulling.ts'
import { sendMade } from '#server/services/signing/send-made.ts'
import { releaseForgotten } from '#server/services/making/reserve-numbers.ts'
import { makeAnswers } from '#server/services/intakes/make-answers.ts'
import { forgetBegun } from '#server/services/intakes/answers.ts'
import { makeOnce } from './making.ts'

interface Job<N extends JobName> extends JobOptions {
  /** Jobs of this kind that one worker does at a time. */
  readonly lanes: number
  readonly act: (app: App, data: JobData[N]) => Promise<void>
}

const tries = (retryLimit: number, retryDelay: number, expireInSeconds: number): JobOptions['retry'] => ({
  retryLimit,
  retryDelay,
  retryBackoff: true,
  expireInSeconds,
})

/** Every kind of job: how often it is tried, how many a worker does at a time, when it comes by itself, and what it does. */
export const JOBS: { readonly [N in JobName]: Job<N> } = {
  'check-run': { retry: tries(3, 1, 300), lanes: 1, act: (app, { runId }) => checkRun(app, runId) },
  'measure-run': { retry: tries(1, 1, 1800), lanes: 1, act: (app, { runId }) => measureRun(app, runId) },
  'make-output': {
    retry: tries(3, 1, 1800),
    lanes: 1,
    act: (app, { outputId, rows }) => fillOutput(app, outputId, rows),
  },
  'generate-run': { retry: tries(5, 1, 3600), lanes: 1, act: (app, { runId }) => makeOnce(app, runId) },
  'make-starts': { retry: tries(5, 1, 600), lanes: 1, act: (app) => makeStarts(app) },
  'make-answers': { retry: tries(5, 1, 600), lanes: 1, act: (app) => makeAnswers(app) },
  'send-made': {
    retry: tries(5, 2, 120),
    lanes: 1,
    act: (app, { agreementIds, by }) => sendMade(app, agreementIds, by),
  },
  'plan-aftermath': {
    retry: tries(8, 2, 120),
    lanes: 1,
    act: (app, { agreementId, moment, at }) => planAftermath(app, agreementId, moment, new Date(at)),
  },
  'do-aftermath': {
    retry: tries(2, 5, 600),
    cron: '* * * * *',
    lanes: 1,
    act: (app) => doAftermath(app),
  },
  'pull-connections': {
    retry: tries(2, 5, 3600),
    cron: '* * * * *',
    lanes: 1,
    act: (app) => pullConnections(app),
  },
  'follow-records': { retry: tries(3, 1, 300), lanes: 1, act: (app) => followRecords(app) },
  'send-mail': { retry: tries(12, 2, 60), lanes: 2, act: (app, { key }) => deliverMail(app, key) },
  'send-text': { retry: tries(6, 2, 60), lanes: 2, act: (app, { key }) => deliverText(app, key) },
  'execute-agreement': {
    retry: tries(8, 2, 120),
    lanes: 2,
    act: (app, { agreementId }) => executeAgreement(app, agreementId),
  },
  'watch-signing': {
    retry: tries(2, 30, 300),
    cron: '*/5 * * * *',
    lanes: 1,
    act: async (app) => {
      await watchSigning(app)
      await sendDue(app)
      await tellOfSilence(app)
    },
  },
  'watch-approvals': {
    retry: tries(2, 30, 300),
    cron: '*/5 * * * *',
    lanes: 1,
    act: (app) => watchApprovals(app),
  },
  'digest-approvals': {
    retry: tries(2, 60, 600),
    cron: '5 * * * *',
    lanes: 1,
    act: (app) => digestApprovals(app),
  },
  'close-day': {
    retry: tries(2, 60, 7200),
    cron: '10 2 * * *',
    lanes: 1,
    act: async (app) => {
      await closeDay(app)
      await forgetBegun(app)
      await forgetStarts(app)
      await releaseForgotten(app)
      await sweepNight(app)
      await forgetTold(app)
    },
  },
}
