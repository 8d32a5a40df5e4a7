import { Navigate, useNavigate, useParams } from 'react-router'
import { PLURALS, RECORD_KINDS, type RecordKind } from '#core/records/kinds.ts'
import { Tabs } from '#web/parts/tabs.tsx'
import { Imports } from './book/imports.tsx'
import { RecordList } from './book/record-list.tsx'
import { Sheets } from './sheets/sheets.tsx'

const PARTS = [...RECORD_KINDS.map((kind) => PLURALS[kind]), 'sheets', 'imports']

/** The record book and the sheets, by kind; the kind stands in the address. */
export default function Records() {
  const { kind = 'sheets', id } = useParams()
  const navigate = useNavigate()
  const record = RECORD_KINDS.find((each) => PLURALS[each] === kind)
  if (!PARTS.includes(kind)) return <Navigate to="/records/sheets" replace />
  return (
    <div className="flex h-full flex-col">
      <div className="flex shrink-0 flex-wrap items-center gap-x-4 border-b border-hair px-4 py-2">
        <h1 className="text-xl">Records</h1>
        <Tabs
          label="Kinds of records"
          tabs={PARTS}
          chosen={kind}
          onChoose={(each) => void navigate(`/records/${each}`)}
        />
      </div>
      <div className="min-h-0 flex-1">
        {record ? (
          <RecordList key={record} kind={record satisfies RecordKind} openId={id} />
        ) : kind === 'imports' ? (
          <Imports />
        ) : (
          <Sheets />
        )}
      </div>
    </div>
  )
}
