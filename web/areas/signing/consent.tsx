import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import type { Signing } from '#contract/agreement.ts'
import { address, call, problemText } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'

const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'long' })

/** Consent before anything can be signed, with the disclosures of 15 U.S.C. 7001(c)(1). */
export function Consent({ token, signing }: { readonly token: string; readonly signing: Signing }) {
  const [agreed, setAgreed] = useState(false)
  const consent = useMutation({
    mutationFn: () => call('consent', { params: { token } }),
  })
  return (
    <main className="mx-auto max-w-xl px-6 py-12">
      <p className="text-sm text-soft">{signing.from}</p>
      <h1 className="mt-1 text-2xl">{signing.title}</h1>
      <p className="mt-3">
        {signing.name}, this agreement is for you to sign as {signing.role}. It has {signing.pages} pages
        {signing.signBy && <> and can be signed until {day.format(new Date(signing.signBy))}</>}.
      </p>
      <h2 className="mt-8 text-lg">Signing electronically</h2>
      <ul className="mt-2 list-disc space-y-1.5 pl-4 text-sm">
        <li>Your electronic signature binds you as one on paper does. It counts for this agreement only.</li>
        <li>
          You may have this agreement on paper instead, at no cost, and you may withdraw this consent until
          you have signed: close the page and write to the sender. Refusing or withdrawing has no other effect
          than that nothing is signed here.
        </li>
        <li>
          You need a browser that shows PDF pages, and a mail box for the finished copy.{' '}
          <a
            className="text-petrol underline"
            href={address('signingDocument', { params: { token } })}
            target="_blank"
            rel="noreferrer"
          >
            Open the document as a PDF
          </a>{' '}
          to see that yours does; you can print or keep it from there.
        </li>
        <li>
          If your mail address changes, tell the sender. The time of each act and your network address are
          kept with the document.
        </li>
      </ul>
      <label className="mt-6 flex items-start gap-2.5">
        <input
          type="checkbox"
          className="mt-1"
          checked={agreed}
          onChange={(event) => setAgreed(event.target.checked)}
        />
        I agree to read and sign this agreement electronically.
      </label>
      {consent.isError && (
        <p role="alert" className="mt-3 text-sm text-brick">
          {problemText(consent.error)}
        </p>
      )}
      <Button
        kind="main"
        className="mt-4 px-5 py-1.5"
        disabled={!agreed}
        busy={consent.isPending}
        onClick={() => consent.mutate()}
      >
        Read the agreement
      </Button>
    </main>
  )
}
