import { useState } from 'react'
import { useNavigate } from 'react-router'
import type { Person } from '#contract/person.ts'
import { call } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { forgetHere, settleHere, unsavedHere } from './kept-here.ts'

/** Who is signed in, with the settings and the way out. */
export function PersonMenu({ person }: { readonly person: Person }) {
  const navigate = useNavigate()
  const [asking, setAsking] = useState(false)
  const signOut = async () => {
    await call('signOut')
    forgetHere()
    // The page begins anew: nothing of this person stays in its memory.
    window.location.assign('/desk')
  }
  const leave = async () => {
    await settleHere()
    if (unsavedHere()) setAsking(true)
    else await signOut()
  }
  return (
    <>
      <Menu
        trigger={
          <button className="min-w-0 text-left leading-tight">
            <span className="block truncate font-semibold">{person.name}</span>
            <span className="block truncate text-xs text-soft">{person.post}</span>
          </button>
        }
      >
        {person.rights.includes('settings') && (
          <MenuItem onSelect={() => void navigate('/settings')}>Settings</MenuItem>
        )}
        <MenuItem onSelect={() => void leave()}>Sign out</MenuItem>
      </Menu>
      <Dialog title="Sign out without saving?" open={asking} onClose={() => setAsking(false)}>
        <p>You have entries that are not saved. If you sign out, they are lost.</p>
        <div className="mt-5 flex gap-3">
          <Button kind="main" onClick={() => setAsking(false)}>
            Stay signed in
          </Button>
          <Button onClick={() => void signOut()}>Sign out</Button>
        </div>
      </Dialog>
    </>
  )
}
