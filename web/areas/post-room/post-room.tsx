import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'
import { address, useAnswer } from '#web/api/client.ts'
import { renew } from '#web/api/queries.ts'
import { Input } from '#web/parts/input.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { fileSize, When } from '#web/parts/signs/when.tsx'

/** Mails as outside people received them: the stand-in's mailboxes. */
export default function PostRoom() {
  const { id } = useParams()
  const [search, setSearch] = useState('')
  const mails = useAnswer('receivedMails', { query: { search } }, { every: 3000, keep: true })
  if (mails.isPending) return <Loading />
  if (mails.isError) return <Failed error={mails.error} retry={() => void mails.refetch()} />
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(0,1.35fr)]">
      <div className="flex min-h-0 flex-col">
        <div className="px-4 pt-4 pb-2">
          <h1 className="text-xl">Test inbox</h1>
          <p className="mt-0.5 text-sm text-soft">
            Every email and text message that Brevan sent, as its recipient got it. Nothing leaves this
            machine. Anyone who can open this page can open every signing link: use it for the demo and for
            trials only.
          </p>
          <Input
            aria-label="Search emails"
            placeholder="Search by recipient or subject"
            className="mt-2"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
        </div>
        <Texts search={search} />
        {mails.data.length === 0 ? (
          <Empty title={search ? 'No email has these words' : 'No email yet'}>
            {search ? null : 'Send an agreement: the email to its first signer arrives here.'}
          </Empty>
        ) : (
          <ul className="min-h-0 flex-1 overflow-auto border-t border-hair" aria-label="Emails">
            {mails.data.map((mail) => (
              <li
                key={mail.id}
                className={`border-b border-hair/60 ${String(mail.id) === id ? 'bg-petrol-wash' : ''}`}
              >
                <Link to={`/post-room/${mail.id}`} className="block px-4 py-1.5 text-sm hover:bg-wash">
                  <span className="flex justify-between gap-3">
                    <span className={`truncate ${mail.read ? '' : 'font-semibold'}`}>{mail.subject}</span>
                    <span className="text-soft">
                      <When at={mail.receivedAt} />
                    </span>
                  </span>
                  <span className="block truncate text-soft">to {mail.to}</span>
                </Link>
              </li>
            ))}
          </ul>
        )}
      </div>
      {id ? <Mail id={id} /> : <p className="border-l border-hair p-6 text-soft">Choose an email.</p>}
    </div>
  )
}

/** Texts as telephones received them: the newest, for codes are looked for here. */
function Texts({ search }: { readonly search: string }) {
  const texts = useAnswer('receivedTexts', { query: { search } }, { every: 3000, keep: true })
  if (!texts.data?.length) return null
  return (
    <section aria-label="Text messages" className="border-t border-hair px-4 py-2 text-sm">
      <h2 className="font-serif text-base font-semibold">Text messages</h2>
      <ul className="max-h-28 overflow-auto">
        {texts.data.slice(0, 20).map(({ id, to, text, receivedAt }) => (
          <li key={id} className="py-0.5">
            <span className="text-soft">
              {to}, <When at={receivedAt} />:
            </span>{' '}
            {text}
          </li>
        ))}
      </ul>
    </section>
  )
}

function Mail({ id }: { readonly id: string }) {
  const mail = useAnswer('receivedMail', { params: { id } })
  const loaded = mail.isSuccess
  useEffect(() => {
    if (loaded) void renew('receivedMails')
  }, [loaded, id])
  if (mail.isPending) return <Loading />
  if (mail.isError) return <Failed error={mail.error} retry={() => void mail.refetch()} />
  const { data } = mail
  return (
    <section aria-label={data.subject} className="flex min-h-0 flex-col border-l border-hair">
      <div className="border-b border-hair px-5 py-3 text-sm">
        <h2 className="text-lg">{data.subject}</h2>
        <p className="text-soft">
          from {data.from} to {data.to}
        </p>
        {data.attachments.map((attachment, index) => (
          <a
            key={attachment.sha256}
            className="mt-1 mr-4 inline-block text-petrol underline"
            href={address('receivedAttachment', { params: { id, index } })}
          >
            {attachment.name} ({fileSize(attachment.size)})
          </a>
        ))}
      </div>
      {data.html ? (
        // No scripts, no forms, no cookies: the frame may only open links in a window of their own.
        <iframe
          title={data.subject}
          sandbox="allow-popups allow-popups-to-escape-sandbox"
          srcDoc={data.html.replace('<html', '<base target="_blank"><html')}
          className="min-h-0 flex-1 bg-white"
        />
      ) : (
        <pre className="flex-1 overflow-auto p-5 whitespace-pre-wrap">{data.text}</pre>
      )}
    </section>
  )
}
