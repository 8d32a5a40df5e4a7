import { mkdir, mkdtemp, readdir, readFile, rm, symlink } from 'node:fs/promises'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { isOneOrigin } from '#contract/intake.ts'
import { writeCsv } from '#core/sheet/write.ts'
import { callOut } from '#server/outside/call-out.ts'
import { putIntoFolder } from '#server/outside/folders.ts'

describe('what goes out of here', () => {
  it('never reaches inner addresses, however they are written', async () => {
    let reached = 0
    const server = createServer((_, response) => {
      reached++
      response.end('inside')
    })
    await new Promise<void>((resolve) => server.listen(0, '::', resolve))
    const { port } = server.address() as AddressInfo
    for (const host of [
      '127.0.0.1',
      'localhost',
      '[::1]',
      '[::127.0.0.1]',
      '[::ffff:127.0.0.1]',
      '[64:ff9b::7f00:1]',
      '[2002:7f00:1::]',
      '2130706433',
      '0x7f.1',
    ]) {
      const called = await callOut({ url: `http://${host}:${port}/`, method: 'GET', headers: {}, inner: [] })
      expect(called.ok ? 'reached' : called.why, host).to.contain('own network')
    }
    expect(reached).to.equal(0)
    const allowed = await callOut({
      url: `http://127.0.0.1:${port}/`,
      method: 'GET',
      headers: {},
      inner: ['127.0.0.1'],
    })
    expect(allowed.ok && allowed.said).to.equal('inside')
    server.close()
  }).timeout(60_000)

  it('is filed below the server’s folder, through no symbolic link that leads out of it', async () => {
    const root = await mkdtemp(join(tmpdir(), 'brevan-filed-'))
    const elsewhere = await mkdtemp(join(tmpdir(), 'brevan-elsewhere-'))
    const settings = { filedFolder: root, inner: [] }
    const put = (address: string, path: readonly string[]) =>
      putIntoFolder(settings, { kind: 'local', address, userName: '', secret: '' }, path, Buffer.from('x'))
    try {
      await put('sales', ['2027', 'a.pdf'])
      expect(await readFile(join(root, 'sales', '2027', 'a.pdf'), 'utf8')).to.equal('x')
      await symlink(elsewhere, join(root, 'away'))
      await mkdir(join(root, 'inside'))
      await symlink(elsewhere, join(root, 'inside', 'deep'))
      for (const [address, path] of [
        ['away', ['a.pdf']],
        ['away/more', ['a.pdf']],
        ['inside', ['deep', 'a.pdf']],
        ['inside', ['deep', 'new', 'a.pdf']],
      ] as const)
        await put(address, path).then(
          () => expect.fail(`${address} led out`),
          (error: Error) => expect(error.message, address).to.contain('leads out'),
        )
      expect(await readdir(elsewhere)).to.deep.equal([])
    } finally {
      await rm(root, { recursive: true })
      await rm(elsewhere, { recursive: true })
    }
  })

  it('is a table in which no cell is a formula, in whatever language its reader splits cells', () => {
    const text = writeCsv([
      ['x;=HYPERLINK("http://a.example")', '=1', 'a\t@SUM(1)', 'b|+1', '-5', 'plain; words'],
    ])
    for (const sign of [',', ';', '\t', '|'])
      for (const cell of text.trim().split(sign))
        expect(cell.replace(/^["\s]+/, ''), `${sign} ${cell}`).to.not.match(/^[=@+]|^-(?!\d)/)
    expect(text).to.contain('plain; words')
  })

  it('is framed by one origin, written as a policy has it, and by no pattern', () => {
    for (const own of [
      'https://growers.example',
      'http://127.0.0.1:8080',
      'https://a.b-c.example:8443',
      'http://[::1]:80',
    ])
      expect(isOneOrigin(own), own).to.equal(true)
    for (const other of [
      'https://*',
      'https://*.example',
      'https://a;script-src *',
      'https://a b',
      "https://$&'",
      'data:',
      'https://a/',
    ])
      expect(isOneOrigin(other), other).to.equal(false)
  })
})
