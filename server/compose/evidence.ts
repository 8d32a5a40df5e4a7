import type { SaidEvidence } from '#core/evidence/said.ts'

/** What the evidence pages show: text alone. */
export type EvidencePages = SaidEvidence
