import type { SaidEvidence } from '#core/evidence/describe.ts'

/** What the evidence pages show: text alone. */
export type EvidencePages = SaidEvidence
