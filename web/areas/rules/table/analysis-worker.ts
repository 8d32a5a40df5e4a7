import type { Directory } from '#core/approvers/directory.ts'
import { analyse, type Analysis } from '#core/rules/analysis/analyse.ts'
import { type TableFault, tableFaults } from '#core/rules/faults.ts'
import { namesFor, type RuleNames, type TemplateNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'

export interface AnalysisAsked {
  readonly serial: number
  readonly table: RuleTable
  /** What tables of this scope may read, and who there is; only where it has changed. */
  readonly world?: { readonly templates: readonly TemplateNames[]; readonly directory: Directory }
}

export interface AnalysisTold extends Analysis {
  readonly serial: number
  readonly faults: readonly TableFault[]
}

let names: RuleNames = namesFor([])
let directory: Directory = { people: [], teams: [] }

// Looking through a whole table can take longer than a key may: it has a thread of its own.
self.onmessage = ({ data }: MessageEvent<AnalysisAsked>) => {
  if (data.world) {
    names = namesFor(data.world.templates)
    directory = data.world.directory
  }
  const told: AnalysisTold = {
    serial: data.serial,
    ...analyse(data.table, names),
    faults: tableFaults(data.table, names, directory),
  }
  self.postMessage(told)
}
