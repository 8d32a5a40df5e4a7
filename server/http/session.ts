import type { Request } from 'express'
import { parseCookie } from 'cookie'

/** The cookie that says who is signed in. */
export const SESSION_COOKIE = 'brevan_session'

export const readCookie = (request: Request): string | null =>
  parseCookie(request.headers.cookie ?? '')[SESSION_COOKIE] ?? null
