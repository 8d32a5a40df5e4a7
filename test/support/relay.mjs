// Inside a host's own network: its loopback ports lead through sockets of the file system to what lies outside.
// node relay.mjs port=/path/of/socket …
import { createConnection, createServer } from 'node:net'

for (const [port, path] of process.argv.slice(2).map((pair) => pair.split('=')))
  createServer((inside) => {
    const outside = createConnection(path)
    for (const [from, to] of [
      [inside, outside],
      [outside, inside],
    ]) {
      from.on('error', () => to.destroy())
      from.pipe(to)
    }
  }).listen(Number(port), '127.0.0.1')
