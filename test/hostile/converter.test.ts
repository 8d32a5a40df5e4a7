import { chmodSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { officePages } from '#server/convert/pages/office.ts'
import { docx } from '#test/support/hostile-files.ts'

/** What runs with these words in its command line. */
const running = (words: string): number =>
  readdirSync('/proc')
    .filter((id) => /^\d+$/.test(id))
    .filter((id) => {
      try {
        return readFileSync(`/proc/${id}/cmdline`, 'utf8').includes(words)
      } catch {
        return false
      }
    }).length

describe('a converter of documents that goes wrong', () => {
  const path = process.env['PATH']
  let folder = ''
  const bounds = { seconds: 3, memory: 300, processes: 12, written: 10_000_000 }

  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'brevan-office-'))))
  afterEach(() => {
    process.env['PATH'] = path
    rmSync(folder, { recursive: true, force: true })
  })
  /** Puts a program in the place of the office suite. */
  const instead = (script: string) => {
    writeFileSync(join(folder, 'soffice'), `#!/bin/bash\n${script}\n`)
    chmodSync(join(folder, 'soffice'), 0o755)
    process.env['PATH'] = `${folder}:${path}`
  }
  const convert = async () => {
    const made = await officePages(await docx('<w:p><w:r><w:t>Words</w:t></w:r></w:p>'), bounds)
    return made.ok ? 'made' : made.problem
  }

  it('and hangs is given up, with everything it started', async () => {
    instead('sleep 41.7 & sleep 41.7')
    expect(await convert()).to.contain('longer than 3 seconds')
    expect(running('sleep\u000041.7')).to.equal(0)
  })

  it('and forks without end is ended', async () => {
    instead('for i in $(seq 60); do sleep 41.8 & done; wait')
    expect(await convert()).to.contain('more memory')
    expect(running('sleep\u000041.8')).to.equal(0)
  })

  it('and takes memory without end is ended', async () => {
    instead('exec node -e "const all = []; setInterval(() => all.push(Buffer.alloc(5e7, 1)), 20)"')
    expect(await convert()).to.contain('more memory')
  })

  it('and ends with nothing says that the document is at fault', async () => {
    instead('exit 0')
    expect(await convert()).to.contain('damaged')
  })

  it('has no network', async () => {
    instead(
      'if [ "$(ls /sys/class/net | grep -v lo | wc -l)" != 0 ] && ip route 2>/dev/null | grep -q .; then exit 3; fi; exit 0',
    )
    expect(await convert()).to.contain('damaged')
  })

  it('that is not there is told, with how to add it', async () => {
    process.env['PATH'] = '/nowhere'
    expect(await convert()).to.contain('./brevan add office')
  })
})
