import { useEffect, useRef, useState } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { RECORDING } from '#core/ceremony/recording.ts'
import { address, call, problemText, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { Button } from '#web/parts/button.tsx'
import { Labelled, TextArea } from '#web/parts/input.tsx'
import { UploadButton } from '#web/parts/upload-button.tsx'

type Told = Answer<Api['sendingOf']>['introduction']
type Kind = 'sound' | 'film'

/** The first of these that the browser writes. */
const FORMATS: Readonly<Record<Kind, readonly string[]>> = {
  sound: ['audio/webm;codecs=opus', 'audio/mp4', 'audio/ogg;codecs=opus'],
  film: ['video/webm;codecs=vp9,opus', 'video/webm;codecs=vp8,opus', 'video/mp4'],
}
const DENSITY = { audioBitsPerSecond: 64_000, videoBitsPerSecond: 1_000_000 }

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`

interface Recording {
  readonly kind: Kind
  readonly recorder: MediaRecorder
  readonly stream: MediaStream
}

/** Records with the browser's own recorder; ends by itself when it has lasted as long as it may. */
function useRecorder(onDone: (recorded: Blob) => void, onProblem: (problem: string) => void) {
  const [recording, setRecording] = useState<Recording | null>(null)
  const [seconds, setSeconds] = useState(0)
  const now = useRef<Recording | null>(null)
  const stop = () => now.current?.recorder.state === 'recording' && now.current.recorder.stop()
  const begin = async (kind: Kind) => {
    try {
      const stream = await navigator.mediaDevices.getUserMedia({
        audio: true,
        video: kind === 'film' ? { width: { ideal: 640 }, height: { ideal: 360 } } : false,
      })
      const mimeType = FORMATS[kind].find((each) => MediaRecorder.isTypeSupported(each))
      const recorder = new MediaRecorder(stream, { ...DENSITY, ...(mimeType ? { mimeType } : {}) })
      const parts: Blob[] = []
      recorder.ondataavailable = ({ data }) => parts.push(data)
      recorder.onstop = () => {
        stream.getTracks().forEach((track) => track.stop())
        now.current = null
        setRecording(null)
        onDone(new Blob(parts, { type: recorder.mimeType }))
      }
      recorder.start(1000)
      now.current = { kind, recorder, stream }
      setSeconds(0)
      setRecording(now.current)
    } catch (error) {
      onProblem(
        error instanceof DOMException && error.name === 'NotAllowedError'
          ? 'The browser was not allowed to use the microphone. Allow it beside the address, or take a file.'
          : 'No microphone or camera could be opened. A file can be taken instead.',
      )
    }
  }
  useEffect(() => {
    if (!recording) return
    const started = Date.now()
    const timer = setInterval(() => {
      const lasted = Math.floor((Date.now() - started) / 1000)
      setSeconds(lasted)
      if (lasted >= RECORDING.seconds) recording.recorder.stop()
    }, 250)
    return () => clearInterval(timer)
  }, [recording])
  // Whoever leaves the page is not listened to any more.
  useEffect(
    () => () => {
      if (!now.current) return
      now.current.recorder.onstop = null
      now.current.stream.getTracks().forEach((track) => track.stop())
    },
    [],
  )
  return { recording, seconds, begin, stop }
}

/** A short word of the sender's before the text: recorded here or taken as a file, with what is said in it typed. */
export function Introduction({ id, told }: { readonly id: string; readonly told: Told }) {
  const say = useNotice()
  const params = { id }
  const [busy, setBusy] = useState(false)
  const [version, setVersion] = useState(0)
  const keep = async (recorded: Blob) => {
    setBusy(true)
    try {
      await call('keepRecording', { params, body: recorded })
      setVersion((before) => before + 1)
      await renew('sendingOf')
    } catch (error) {
      say(problemText(error), 'fault')
    } finally {
      setBusy(false)
    }
  }
  const { recording, seconds, begin, stop } = useRecorder(
    (recorded) => void keep(recorded),
    (problem) => say(problem, 'fault'),
  )
  const drop = useCall('dropRecording', () => void renew('sendingOf'))
  return (
    <section aria-label="Recorded word" className="text-sm">
      <h2 className="mt-6 mb-1 font-serif text-base font-semibold">A word of yours before the text</h2>
      {recording ? (
        <div className="flex items-center gap-3">
          {recording.kind === 'film' && <Seen stream={recording.stream} />}
          <p role="status" className="tabular-nums">
            Recording, {clock(seconds)} of {clock(RECORDING.seconds)}
          </p>
          <Button kind="main" onClick={stop}>
            Stop
          </Button>
        </div>
      ) : told ? (
        <Kept key={`${told.kind}${version}`} id={id} told={told} version={version} />
      ) : (
        <p className="text-soft">
          Up to {RECORDING.seconds / 60} minutes of sound or film: who asks, and what comes next. It is no
          part of the document, and plays only when a recipient starts it.
        </p>
      )}
      {!recording && (
        <p className="mt-2 flex flex-wrap gap-2">
          <Button kind="quiet" disabled={busy} onClick={() => void begin('sound')}>
            {told ? 'Record anew' : 'Record sound'}
          </Button>
          <Button kind="quiet" disabled={busy} onClick={() => void begin('film')}>
            {told ? 'Film anew' : 'Record film'}
          </Button>
          <UploadButton
            label="A recording"
            accept="audio/*,video/*"
            busy={busy}
            onFiles={([file]) => void keep(file)}
          >
            Take a file
          </UploadButton>
          {told && (
            <Button kind="quiet" busy={drop.isPending} onClick={() => drop.mutate({ params })}>
              Take it away
            </Button>
          )}
        </p>
      )}
    </section>
  )
}

function Seen({ stream }: { readonly stream: MediaStream }) {
  return (
    <video
      ref={(film) => {
        if (film && film.srcObject !== stream) film.srcObject = stream
      }}
      className="aspect-video w-48 bg-ink"
      autoPlay
      muted
      playsInline
      aria-label="What the camera sees"
    />
  )
}

/** Milliseconds after the last key until what is said is kept. */
const PAUSE = 600

function Kept({
  id,
  told,
  version,
}: {
  readonly id: string
  readonly told: NonNullable<Told>
  readonly version: number
}) {
  const say = useNotice()
  const [text, setText] = useState(told.transcript)
  const [state, setState] = useState<'kept' | 'changed'>('kept')
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const save = (transcript: string) =>
    call('keepTranscript', { params: { id }, body: { transcript } }).then(
      () => setState('kept'),
      (error: unknown) => say(problemText(error), 'fault'),
    )
  const change = (transcript: string) => {
    setText(transcript)
    setState('changed')
    clearTimeout(timer.current)
    timer.current = setTimeout(() => void save(transcript), PAUSE)
  }
  const source = `${address('introduction', { params: { id } })}?${version}`
  const Player = told.kind === 'film' ? 'video' : 'audio'
  return (
    <div className="grid gap-2">
      <Player
        className={told.kind === 'film' ? 'aspect-video w-72 bg-ink' : 'w-72'}
        controls
        preload="none"
        src={source}
        aria-label="The recorded word"
      />
      <Labelled
        label="What is said"
        hint={
          text.trim()
            ? state === 'kept'
              ? 'saved'
              : 'changed'
            : 'Type it: not everybody can hear it, and it cannot go without.'
        }
      >
        <TextArea
          rows={3}
          maxLength={8000}
          value={text}
          onChange={(event) => change(event.target.value)}
          onBlur={() => {
            clearTimeout(timer.current)
            if (state === 'changed') void save(text)
          }}
        />
      </Labelled>
    </div>
  )
}
