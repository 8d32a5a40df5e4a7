import { useMutation } from '@tanstack/react-query'
import { FileCheck } from 'lucide-react'
import { useRef, useState } from 'react'
import type { ExaminedFile } from '#contract/verify.ts'
import { describeProofs } from '#core/evidence/describe.ts'
import { call, problemText } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Speaking, useWords } from '#web/areas/signing/words.tsx'

/** For anybody, without a session: a file is dropped, and what its seal says is told in plain words. */
export default function VerifyPage() {
  return (
    <Speaking language="en">
      <Verify />
    </Speaking>
  )
}

const LARGEST = 40_000_000

function Verify() {
  const input = useRef<HTMLInputElement>(null)
  const [over, setOver] = useState(false)
  const [name, setName] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const examine = useMutation({ mutationFn: (file: File) => call('examineFile', { body: file }) })
  const take = (file: File | undefined) => {
    if (!file) return
    setName(file.name)
    setProblem(
      file.size > LARGEST ? 'The file is larger than 40 MB.' : file.size === 0 ? 'The file is empty.' : null,
    )
    if (file.size > LARGEST || file.size === 0) examine.reset()
    else examine.mutate(file)
  }
  const failed = problem ?? (examine.isError ? problemText(examine.error) : null)
  return (
    <main className="mx-auto max-w-2xl px-5 py-12">
      <h1 className="text-2xl">Check a signed document</h1>
      <p className="mt-2 text-[1.0625rem]">
        Whether it is as it was sealed, by whom and when, and who signed it. The file is looked at and not
        kept.
      </p>
      <div
        className={`mt-6 flex flex-col items-center gap-3 border border-dashed px-6 py-10 ${over ? 'border-petrol bg-petrol-wash' : 'border-hair bg-sheet'}`}
        onDragOver={(event) => {
          event.preventDefault()
          setOver(true)
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault()
          setOver(false)
          take(event.dataTransfer.files[0])
        }}
      >
        <FileCheck size={28} className="text-soft" aria-hidden />
        <p>Drop a PDF here, or</p>
        <Button
          kind="main"
          className="min-h-11 px-5"
          busy={examine.isPending}
          onClick={() => input.current?.click()}
        >
          Choose a file
        </Button>
        <input
          ref={input}
          type="file"
          accept="application/pdf,.pdf"
          className="sr-only"
          aria-label="A PDF to check"
          tabIndex={-1}
          onChange={(event) => {
            take(event.target.files?.[0])
            event.target.value = ''
          }}
        />
      </div>
      <div aria-live="polite" className="mt-6">
        {failed && (
          <p role="alert" className="text-brick">
            {failed}
          </p>
        )}
        {!failed && examine.data && <Result name={name} found={examine.data} />}
      </div>
    </main>
  )
}

function Result({ name, found }: { readonly name: string; readonly found: ExaminedFile }) {
  const { say, moment } = useWords()
  if (found.kind === 'unsealed')
    return (
      <section aria-label="Result" className="border-l-4 border-ochre pl-4">
        <h2 className="text-xl">This file has no seal</h2>
        <p className="mt-1 text-sm wrap-anywhere text-soft">{name}</p>
        <p className="mt-2">{found.problem}</p>
      </section>
    )
  const { intact, problems, by, at, timeBy, ours, known, evidence, sha256 } = found
  const time = (instant: string) => moment(new Date(instant), 'UTC')
  return (
    <section
      aria-label="Result"
      className={`border-l-4 pl-4 ${!intact ? 'border-brick' : ours ? 'border-moss' : 'border-ochre'}`}
    >
      <h2 className={`text-xl ${!intact ? 'text-brick' : ours ? 'text-moss' : 'text-ochre'}`}>
        {!intact
          ? 'It is not as it was sealed'
          : ours
            ? 'It is as it was sealed'
            : 'It was sealed by an unknown sealer'}
      </h2>
      <p className="mt-1 text-sm wrap-anywhere text-soft">{name}</p>
      {problems.length > 0 && (
        <ul className="mt-2 list-disc pl-5">
          {problems.map((each) => (
            <li key={each}>{each}</li>
          ))}
        </ul>
      )}
      {intact && !ours && (
        <p className="mt-2">
          Nothing was changed since it was sealed. Who sealed it, this installation cannot tell: anybody can
          make a seal in any name. Compare the fingerprint below with one that you have from them.
        </p>
      )}
      {!intact && (
        <p className="mt-2">
          Do not rely on what it says. Ask the person who gave it to you for the file as it was sent.
        </p>
      )}
      <dl className="mt-4 grid grid-cols-[8rem_1fr] gap-x-4 gap-y-1.5">
        {by && (
          <>
            <dt className="text-soft">{ours ? 'Sealed by' : 'Calls itself'}</dt>
            <dd>
              {by.name}
              {ours ? ', with the key of this installation' : ''}
              <code className="block text-xs wrap-anywhere text-soft">{by.fingerprint}</code>
            </dd>
          </>
        )}
        {at && timeBy && (
          <>
            <dt className="text-soft">Sealed at</dt>
            <dd>
              {time(at)}, by the clock of {timeBy.name}
            </dd>
          </>
        )}
        {intact && evidence && (
          <>
            <dt className="text-soft">Agreement</dt>
            <dd>
              {evidence.agreement.name}
              <span className="block text-sm text-soft">
                {evidence.agreement.number}, revision {evidence.agreement.revision}
                {known
                  ? '; this installation has the same file'
                  : '; this installation has no record of it, which the seal does not need'}
              </span>
            </dd>
          </>
        )}
        <dt className="text-soft">SHA-256</dt>
        <dd>
          <code className="text-xs wrap-anywhere">{sha256}</code>
        </dd>
      </dl>
      {intact && evidence && (
        <>
          <h3 className="mt-6 text-lg">{ours ? 'Who signed' : 'Who signed, by the file’s own word'}</h3>
          <ol>
            {evidence.parties.map((party) => (
              <li key={`${party.label} ${party.name}`} className="border-b border-hair/60 py-2">
                <p>
                  <span className="font-semibold">{party.name}</span> as {party.label},{' '}
                  {party.kind === 'assenter' ? 'agreed' : say(`evidence.manner.${party.signature}`)},{' '}
                  {time(party.signedAt)}
                </p>
                <p className="text-sm text-soft">Known by {describeProofs(party, say).join('; and by ')}.</p>
                <p className="text-sm text-soft">From the network address {party.networkAddress}.</p>
              </li>
            ))}
          </ol>
        </>
      )}
      {intact && !evidence && (
        <p className="mt-4">It does not say who signed in a form that can be read here.</p>
      )}
    </section>
  )
}
