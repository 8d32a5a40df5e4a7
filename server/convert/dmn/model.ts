import type { HitPolicy } from '#core/rules/table.ts'

/** Hit policies as DMN 1.3 writes them (8.2.8, and its XML schema). */
export const POLICIES: Readonly<Record<HitPolicy, string>> = {
  unique: 'UNIQUE',
  any: 'ANY',
  first: 'FIRST',
  priority: 'PRIORITY',
  collect: 'COLLECT',
  'rule order': 'RULE ORDER',
  'output order': 'OUTPUT ORDER',
}

/** Namespace of what a rule table says beyond the standard. */
export const OURS = 'urn:brevan:rules:1'
/** The prefix of our own extensions in a DMN file. */
export const PREFIX = 'brevan'
