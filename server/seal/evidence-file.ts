/** Name of the evidence among the files within a sealed file. */
export const EVIDENCE_FILE = 'evidence.json'
