import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { createPublicKey, verify } from 'node:crypto'
import { expect } from 'chai'
import { OAuth2Server } from 'oauth2-mock-server'
import { Secrets } from '#server/ground/secrets.ts'
import { askSystem } from '#server/outside/system.ts'

// OAuth 2.0 client credentials (RFC 6749, 4.4) against a server of another library, whose tokens are JWTs (RFC 7519) that the
// system behind it checks by the server's published keys (RFC 7517).

const secrets = Secrets.ofKey(Buffer.alloc(32, 1).toString('base64'))
const kept = secrets.seal('p%ss')

describe('authorisation', () => {
  const server = new OAuth2Server()
  let issuer = ''
  let asked = 0
  let refuse = 0
  const known: string[] = []
  const system = createServer((request, response) => {
    void (async () => {
      const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? ''
      const [head = '', body = '', signature = ''] = token.split('.')
      const { keys } = (await (await fetch(`${issuer}/jwks`)).json()) as { keys: object[] }
      const key = createPublicKey({ key: keys[0] as never, format: 'jwk' })
      const sound = verify(
        'RSA-SHA256',
        Buffer.from(`${head}.${body}`),
        key,
        Buffer.from(signature, 'base64url'),
      )
      const { iss, exp } = JSON.parse(Buffer.from(body || 'e30', 'base64url').toString()) as {
        iss?: string
        exp?: number
      }
      const may = sound && iss === issuer && (exp ?? 0) > Date.now() / 1000 && refuse-- <= 0
      known.push(token)
      response.writeHead(may ? 200 : 401, { 'content-type': 'application/json' }).end(JSON.stringify({ may }))
    })()
  })

  before(async () => {
    await server.issuer.keys.generate('RS256')
    await server.start(0, '127.0.0.1')
    issuer = server.issuer.url!
    server.service.on('beforeResponse', () => asked++)
    await new Promise<void>((resolve) => system.listen(0, '127.0.0.1', resolve))
  })
  after(async () => {
    await server.stop()
    system?.close()
  })

  const ask = (now: Date) => {
    const { port } = system.address() as AddressInfo
    return askSystem(
      { settings: { inner: ['127.0.0.1', '::1'] }, secrets },
      {
        id: 'system',
        address: `http://127.0.0.1:${port}`,
        auth: {
          kind: 'client',
          tokenUrl: `${issuer}/token`,
          client: 'a:b',
          secret: kept,
          scope: 'read',
        },
      },
      { method: 'GET', path: '/records' },
      now,
    )
  }

  it('is asked for once, and its token is taken as long as it counts', async () => {
    const now = new Date()
    expect(await ask(now)).to.deep.include({ ok: true, status: 200, json: { may: true } })
    await ask(now)
    expect(asked).to.equal(1)
    expect(new Set(known).size).to.equal(1)
    await ask(new Date(now.getTime() + 3600_000))
    expect(asked).to.equal(2)
  })

  it('is asked for once more where its token is refused, and no oftener', async () => {
    const before = asked
    refuse = 1
    expect(await ask(new Date())).to.deep.include({ ok: true, status: 200 })
    expect(asked).to.equal(before + 1)
    refuse = 9
    expect(await ask(new Date())).to.deep.include({ status: 401 })
    refuse = 0
  })

  it('says what the server says where there is no token', async () => {
    server.service.once('beforeResponse', (answer) => {
      answer.statusCode = 400
      answer.body = { error: 'invalid_scope' }
    })
    const refused = await ask(new Date(Date.now() + 10 * 3600_000))
    expect(refused).to.deep.equal({
      ok: false,
      at: 'authentication',
      why: 'No token: it answered 400, invalid_scope.',
    })
  })
})
