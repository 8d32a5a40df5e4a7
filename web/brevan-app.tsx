import { PLURALS, RECORD_KINDS } from '#core/records/kinds.ts'
import { QueryClientProvider } from '@tanstack/react-query'
import { lazy, type ReactNode, Suspense } from 'react'
import { BrowserRouter, Navigate, Route, Routes, useLocation, useParams } from 'react-router'
import { Loading } from '#web/parts/states.tsx'
import { NoticeProvider } from './api/notices.tsx'
import { queries } from './api/queries.ts'
import { NoSuchPage } from './frame/no-such-page.tsx'
import { Shell } from './frame/shell.tsx'

const Desk = lazy(() => import('#web/areas/desk/desk.tsx'))
const Templates = lazy(() => import('#web/areas/templates/shelves/templates.tsx'))
const ClauseLibrary = lazy(() => import('#web/areas/templates/library/library.tsx'))
const Packets = lazy(() => import('#web/areas/templates/shelves/packets.tsx'))
const Connections = lazy(() => import('#web/areas/connections/connections-page.tsx'))
const Connection = lazy(() => import('#web/areas/connections/connection-page.tsx'))
const Aftermath = lazy(() => import('#web/areas/next-steps/next-steps-page.tsx'))
const Intakes = lazy(() => import('#web/areas/intakes/intakes-page.tsx'))
const Intake = lazy(() => import('#web/areas/intakes/intake-page.tsx'))
const Studio = lazy(() => import('#web/areas/templates/studio/studio.tsx'))
const Records = lazy(() => import('#web/areas/records/records.tsx'))
const SheetPage = lazy(() => import('#web/areas/records/sheets/sheet-page.tsx'))
const Runs = lazy(() => import('#web/areas/runs/runs.tsx'))
const RunPage = lazy(() => import('#web/areas/runs/run-page.tsx'))
const Register = lazy(() => import('#web/areas/agreements/register.tsx'))
const NewAgreementPage = lazy(() => import('#web/areas/agreements/one/new-agreement.tsx'))
const SendPage = lazy(() => import('#web/areas/agreements/send/send-page.tsx'))
const SendMany = lazy(() => import('#web/areas/agreements/send/send-many.tsx'))
const OneOffPage = lazy(() => import('#web/areas/agreements/one-off/one-off-page.tsx'))
const WordingPage = lazy(() => import('#web/areas/agreements/wording-page.tsx'))
const Rules = lazy(() => import('#web/areas/rules/rules.tsx'))
const RuleTablePage = lazy(() => import('#web/areas/rules/table/rule-table-page.tsx'))
const Approvals = lazy(() => import('#web/areas/approvals/approvals.tsx'))
const Absences = lazy(() => import('#web/areas/approvals/absences.tsx'))
const InstallationTrail = lazy(() => import('#web/areas/rules/installation-trail.tsx'))
const KeysPage = lazy(() => import('#web/areas/programs/keys-page.tsx'))
const CallsPage = lazy(() => import('#web/areas/programs/calls-page.tsx'))
const SettingsPage = lazy(() => import('#web/areas/settings/settings.tsx'))
const PostRoom = lazy(() => import('#web/areas/post-room/post-room.tsx'))
const VerifyPage = lazy(() => import('#web/areas/verify/verify-page.tsx'))

const Notices = ({ children }: { readonly children: ReactNode }) => (
  <NoticeProvider place={useLocation().pathname}>{children}</NoticeProvider>
)

/** An address of before: a new agreement for one record. */
function OfRecord() {
  const { kind = '', id = '' } = useParams()
  const known = RECORD_KINDS.find((each) => PLURALS[each] === kind)
  return <Navigate to={`/agreements/new?for=${known ?? kind}/${id}&best=yes`} replace />
}

export function BrevanApp() {
  return (
    <QueryClientProvider client={queries}>
      {/* What is bound to the address follows it at once: a box that is ticked late is ticked twice. */}
      <BrowserRouter useTransitions={false}>
        <Notices>
          <Suspense fallback={<Loading />}>
            <Routes>
              <Route path="/verify" element={<VerifyPage />} />
              <Route element={<Shell />}>
                <Route index element={<Navigate to="/desk" replace />} />
                <Route path="/desk" element={<Desk />} />
                <Route path="/templates" element={<Templates />} />
                <Route path="/templates/library" element={<ClauseLibrary />} />
                <Route path="/templates/packets" element={<Packets />} />
                <Route path="/templates/packets/:id/afterwards" element={<Aftermath kind="packet" />} />
                <Route path="/templates/:id/afterwards" element={<Aftermath kind="template" />} />
                <Route path="/templates/intakes" element={<Intakes />} />
                <Route path="/intakes/:id" element={<Intake />} />
                <Route path="/intakes/:id/answers/:answer" element={<Intake />} />
                <Route path="/templates/:id" element={<Studio />} />
                <Route path="/records" element={<Records />} />
                <Route path="/records/sheets/:id" element={<SheetPage />} />
                <Route path="/records/:kind" element={<Records />} />
                <Route path="/records/:kind/:id/agreement" element={<OfRecord />} />
                <Route path="/records/:kind/:id" element={<Records />} />
                <Route path="/runs" element={<Runs />} />
                <Route path="/runs/:id" element={<RunPage />} />
                <Route path="/agreements" element={<Register />} />
                <Route path="/agreements/new" element={<NewAgreementPage />} />
                <Route path="/agreements/send" element={<SendMany />} />
                <Route path="/agreements/:id" element={<Register />} />
                <Route path="/agreements/:id/send" element={<SendPage />} />
                <Route path="/agreements/:id/wording" element={<WordingPage />} />
                <Route path="/one-offs/:id" element={<OneOffPage />} />
                <Route path="/rules" element={<Rules />} />
                <Route path="/rules/trail" element={<InstallationTrail />} />
                <Route path="/rules/:id" element={<RuleTablePage />} />
                <Route path="/approvals" element={<Approvals />} />
                <Route path="/approvals/:step" element={<Approvals />} />
                <Route path="/absences" element={<Absences />} />
                <Route path="/settings" element={<SettingsPage />} />
                <Route path="/settings/programs" element={<KeysPage />} />
                <Route path="/settings/programs/connections" element={<Connections />} />
                <Route path="/settings/programs/connections/:id" element={<Connection />} />
                <Route path="/settings/programs/calls" element={<CallsPage />} />
                <Route path="/post-room" element={<PostRoom />} />
                <Route path="/post-room/:id" element={<PostRoom />} />
                <Route path="*" element={<NoSuchPage />} />
              </Route>
            </Routes>
          </Suspense>
        </Notices>
      </BrowserRouter>
    </QueryClientProvider>
  )
}
