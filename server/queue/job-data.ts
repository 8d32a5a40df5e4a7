import type { Moment } from '#core/next-steps/steps.ts'
/** What each kind of job is given. Every job may run twice, or after a crash once more: each finds out by itself what is left to do. */
export interface JobData {
  readonly 'check-run': { readonly runId: string }
  readonly 'measure-run': { readonly runId: string }
  readonly 'make-output': { readonly outputId: string; readonly rows: readonly number[] }
  readonly 'generate-run': { readonly runId: string }
  readonly 'make-starts': Record<string, never>
  readonly 'make-answers': Record<string, never>
  readonly 'send-made': { readonly agreementIds: readonly string[]; readonly by: string }
  readonly 'plan-aftermath': { readonly agreementId: string; readonly moment: Moment; readonly at: string }
  readonly 'do-aftermath': Record<string, never>
  readonly 'pull-connections': Record<string, never>
  readonly 'follow-records': Record<string, never>
  readonly 'send-mail': { readonly key: string }
  readonly 'execute-agreement': { readonly agreementId: string }
  readonly 'close-day': Record<string, never>
  readonly 'send-text': { readonly key: string }
  readonly 'watch-signing': Record<string, never>
  readonly 'watch-approvals': Record<string, never>
  readonly 'digest-approvals': Record<string, never>
}
/** The kinds of jobs. */
export type JobName = keyof JobData

/** How the queue treats a kind of job. */
export interface JobOptions {
  /** Tries after the first, seconds before the second, whether the pause grows, seconds after which one counts as lost. */
  readonly retry: {
    readonly retryLimit: number
    readonly retryDelay: number
    readonly retryBackoff: boolean
    readonly expireInSeconds: number
  }
  /** Comes by itself, by the clock in UTC. */
  readonly cron?: string
}
