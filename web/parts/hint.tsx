import { CircleQuestionMark } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'

// The guide's own pages, so that what the app says and what the guide says is one text.
const PAGES = import.meta.glob<string>('/docs/guide/*.md', { query: '?raw', import: 'default' })

const pageOf = (topic: string) => PAGES[`/docs/guide/${topic.replaceAll(' ', '-')}.md`]

/** A page of the guide, where a person stops: what this is for, and an example. */
export function Hint({ topic }: { readonly topic: string }) {
  const load = pageOf(topic)
  const [text, setText] = useState<string | null>(null)
  if (!load) return null
  return (
    <Popover.Root onOpenChange={(open) => open && void load().then(setText)}>
      <Popover.Trigger asChild>
        <button
          className="rounded-sm p-1 text-soft hover:text-ink"
          aria-label="What this is for"
          title="What this is for"
        >
          <CircleQuestionMark size={15} />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label="What this is for"
          sideOffset={6}
          collisionPadding={12}
          className="z-40 w-96 border border-hair bg-paper p-4 text-sm"
        >
          {text === null ? 'Loading …' : <Page text={text} />}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** Of Markdown (CommonMark) what the guide uses: a heading, paragraphs, code in backticks. */
function Page({ text }: { readonly text: string }) {
  return text
    .trim()
    .split(/\n{2,}/)
    .map((block, i) =>
      block.startsWith('# ') ? (
        <h2 key={i} className="mb-1 font-serif text-base font-semibold">
          {block.slice(2)}
        </h2>
      ) : (
        <p key={i} className="mt-1.5">
          {block.split('`').map((part, at) => (at % 2 ? <code key={at}>{part}</code> : part))}
        </p>
      ),
    )
}
