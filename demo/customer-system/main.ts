// The stand-in customer system of the demo: `node dist/server/customers.js`. Its state lasts as long as it runs.
import { CustomerSystem } from './system.ts'

const system = new CustomerSystem()
const NAMES = [
  'Alder Run',
  'Bittern Fen',
  'Catkin Lane',
  'Dunnock Hill',
  'Elmstead',
  'Fallow Weir',
  'Goldfinch Down',
  'Harebell Croft',
]
const KINDS = ['Orchard', 'Fruit Farm', 'Growers', 'Gardens']
for (let i = 0; i < 30; i++)
  system.add(
    `${NAMES[i % NAMES.length]} ${KINDS[Math.floor(i / NAMES.length)]}`,
    i % 3 === 2
      ? []
      : [
          { item: 'Full colony, ten frames', quantity: 12 + i, unit: 'colony', price: 245 },
          { item: 'Night delivery', quantity: 1, unit: 'trip', price: 180 },
        ],
  )
const port = Number(process.env['BREVAN_SYSTEM_PORT'] ?? 4390)
await system.start(port)
process.stdout.write(`The stand-in customer system answers at http://127.0.0.1:${port}\n`)
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => void system.stop().then(() => process.exit(0)))
