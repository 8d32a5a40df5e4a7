import type { TrailEntry } from './trail.ts'

/** An act of a trail as an event (CNCF CloudEvents 1.0, structured JSON). */
export interface AgreementEvent {
  readonly specversion: '1.0'
  /** The same for the same act, however often it is told. */
  readonly id: string
  readonly source: string
  readonly type: string
  readonly subject: string
  /** When it happened: RFC 3339, UTC. */
  readonly time: string
  readonly datacontenttype: 'application/json'
  readonly data: {
    readonly agreement: {
      readonly id: string
      readonly number: string
      readonly name: string
      readonly at: string
    }
    /** Its place in the agreement’s trail, from 1 without gaps. */
    readonly seq: number
    readonly act: string
    readonly actor: string
    readonly detail: TrailEntry['detail']
    readonly hash: string
  }
}

/** `url`: where the installation is reached; it says whose event it is. */
export const eventOf = (
  url: string,
  { id, number, name }: { readonly id: string; readonly number: string; readonly name: string },
  { seq, at, actor, act, detail, hash }: Omit<TrailEntry, 'agreement' | 'previous'>,
): AgreementEvent => ({
  specversion: '1.0',
  id: `${id}.${seq}`,
  source: url,
  type: typeOf(act),
  subject: `agreements/${id}`,
  time: at,
  datacontenttype: 'application/json',
  data: { agreement: { id, number, name, at: `/api/v1/agreements/${id}` }, seq, act, actor, detail, hash },
})

/** What an act is called as the type of an event. */
export const typeOf = (act: string): string => `brevan.agreement.${act.replaceAll(' ', '-')}`
