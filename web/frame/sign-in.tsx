import { useMutation } from '@tanstack/react-query'
import { useForm } from 'react-hook-form'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { Wordmark } from './wordmark.tsx'

export function SignIn({ demo, organisation }: { readonly demo: boolean; readonly organisation: string }) {
  const people = useAnswer('demoPeople', {}, { enabled: demo })
  const signIn = useMutation({
    mutationFn: (body: { email: string; password: string }) => call('signIn', { body }),
  })
  const choose = useMutation({
    mutationFn: (email: string) => call('demoSignIn', { body: { email } }),
  })
  const form = useForm({ defaultValues: { email: '', password: '' } })
  return (
    <main className="mx-auto grid min-h-dvh max-w-4xl grid-cols-1 content-center gap-14 px-6 md:grid-cols-2">
      <section>
        <Wordmark />
        <h1 className="mt-8 text-2xl">Sign in</h1>
        <p className="mt-1 text-sm text-soft">{organisation}</p>
        <form
          className="mt-5 flex max-w-xs flex-col gap-4"
          onSubmit={(event) => void form.handleSubmit((values) => signIn.mutate(values))(event)}
        >
          <Labelled label="Email address">
            <Input
              type="email"
              autoComplete="username"
              autoFocus
              {...form.register('email', { required: true })}
            />
          </Labelled>
          <Labelled label="Password">
            <Input
              type="password"
              autoComplete="current-password"
              {...form.register('password', { required: true })}
            />
          </Labelled>
          {signIn.isError && (
            <p role="alert" className="text-sm text-brick">
              {problemText(signIn.error)}
            </p>
          )}
          <Button kind="main" type="submit" busy={signIn.isPending}>
            Sign in
          </Button>
        </form>
      </section>
      {demo && (
        <section>
          <h2 className="text-lg">The demo’s people</h2>
          <p className="mt-1 text-sm text-soft">
            {organisation} and everyone in it are made up. One click signs you in.
          </p>
          <ul className="mt-4 border-t border-hair">
            {people.data?.map(({ name, email, post }) => (
              <li key={email} className="border-b border-hair">
                <button
                  className="flex w-full items-baseline justify-between py-2 text-left hover:bg-wash"
                  onClick={() => choose.mutate(email)}
                >
                  <span className="font-semibold">{name}</span>
                  <span className="text-sm text-soft">{post}</span>
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </main>
  )
}
