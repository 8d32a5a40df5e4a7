import { randomUUID } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { count, eq } from 'drizzle-orm'
import { allBlocks, passageTitle, textBlocks } from '#core/document/walk.ts'
import { merge } from '#core/merge/merge.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { finishedText } from '#core/merge/text.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { RecordData } from '#core/outline/field.ts'
import type { App } from '#server/app/app.ts'
import { migrate } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import {
  organisation as organisationTable,
  person,
  series,
  team,
  teamMember,
  template,
} from '#server/db/schema.ts'
import { roomFile } from '#server/ground/room.ts'
import { hashPassword } from '#server/services/installation/people.ts'
import { readMapping, saveMapping } from '#server/services/sheets/mappings.ts'
import { uploadSheet } from '#server/services/sheets/sheets.ts'
import { keepCase } from '#server/services/templates/cases.ts'
import { keepClause } from '#server/services/templates/library.ts'
import { examples } from '#server/services/studio/proofs.ts'
import { senderOf } from '#server/services/templates/editions.ts'
import { COMMON_SERIES } from '#server/services/installation/organisation.ts'
import { makeShelf } from '#server/services/templates/shelves.ts'
import { addTemplate, publish } from '#server/services/templates/templates.ts'
import { addedFields, growers, prices } from './record-book.ts'
import { healthDeclarationPdf } from './forms/health-declaration.ts'
import { siteAccessPdf } from './forms/site-access.ts'
import { type BroughtForm, healthDeclarationForm, siteAccessForm } from './season-forms.ts'
import { priceSchedule } from './season-packet.ts'
import { bringIn, readsOf } from '#server/services/templates/page-files.ts'
import { makePacket } from '#server/services/templates/packets.ts'
import { keepView } from '#server/services/records/record-lists.ts'
import { insertRecord } from '#server/services/records/records.ts'
import { saveFields } from '#server/services/records/record-fields.ts'
import { transaction } from '#server/app/transaction.ts'
import { saveList } from '#server/services/next-steps/lists.ts'
import { arrivalNotice } from './arrival-notice.ts'
import { colonySale, salesSheet } from './colony-sale.ts'
import { organisation } from './organisation.ts'
import { loadFormerSales, loadFormerSeasons } from './past-seasons.ts'
import { demoPassword, people } from './people.ts'
import { loadAbsence, loadFirstRules, loadSaleRules, loadSeasonRules } from './rules.ts'
import { saleInvoice } from './sale-invoice.ts'
import { seasonAgreement } from './season-agreement.ts'
import { decidePast } from './story.ts'

/** Loads the demo into an empty database; where people are, nothing is touched. True where it was loaded. */
export async function loadDemo(
  app: App /** `past`: the share of the past seasons that is loaded, up to 1. */,
  /** `rules`: all of the scenario's tables, and a run that waits for its approvals; else the first rule alone. */
  options: { readonly sheet: boolean; readonly past?: number; readonly rules?: 'all' },
): Promise<boolean> {
  await migrate(app.settings)
  const [there] = await app.db.select({ people: count() }).from(person)
  if (there?.people) return false
  const passwordHash = await hashPassword(demoPassword)
  await app.db
    .insert(person)
    .values(people.map((each) => ({ ...each, rights: [...each.rights], id: randomUUID(), passwordHash })))
  const ines = one(await app.db.select().from(person).where(eq(person.post, 'contract administrator')))
  await app.db.insert(organisationTable).values(organisation)
  await app.db.insert(series).values([
    { id: 'season', pattern: 'LP-2027-{n}' },
    { id: COMMON_SERIES, pattern: 'LP-{n}' },
    { id: INVOICES, pattern: 'INV-{n}' },
  ])
  const templateId = randomUUID()
  await app.db.insert(template).values({
    id: templateId,
    name: seasonAgreement.title,
    seriesId: 'season',
    draft: seasonAgreement,
    changedAt: app.now(),
    changedBy: ines.id,
  })
  if (options.rules) await loadSeasonRules(app, ines, templateId)
  else await loadFirstRules(app, ines)
  if (options.past) await loadFormerSeasons(app, ines, templateId, options.past)
  await publish(app, ines, templateId, 1, 'For the season 2027')
  await loadStudio(app, ines, templateId)
  if (options.rules) {
    await loadSaleRules(app, ines, await saleOf(app))
    await loadAbsence(app, await app.db.select().from(person))
  }
  if (options.past) await loadFormerSales(app, ines, await saleOf(app), options.past)
  if (options.past && options.rules) await decidePast(app)
  await loadRecords(app, ines)
  await loadPacket(app, ines, templateId)
  if (options.rules) await loadAftermath(app, ines)
  if (options.sheet) {
    const sales = await uploadSheet(app, ines, 'colony-sales-2027.csv', Buffer.from(salesSheet()))
    const sale = await saleOf(app)
    await saveMapping(app, ines, sales.id, sale, { ...(await readMapping(app, sales.id, sale)).columns })
    const sheet = await uploadSheet(
      app,
      ines,
      'bookings-2027.xlsx',
      await readFile(roomFile('demo/sheets/bookings-2027.xlsx')),
    )
    const suggested = await readMapping(app, sheet.id, templateId)
    // The one column whose name says too little; in an upload of one's own it is left for the user to find.
    await saveMapping(app, ines, sheet.id, templateId, { ...suggested.columns, first_season: 'New grower' })
  }
  return true
}

type Person = typeof person.$inferSelect

/** The series that invoices are numbered in, without a gap. */
const INVOICES = 'invoices'

/** What follows a sale: it is filed, billed, looked after; and where it is refused, somebody asks why. */
async function loadAftermath(app: App, ines: Person): Promise<void> {
  const invoice = one(
    await app.db.select({ id: template.id }).from(template).where(eq(template.name, saleInvoice.title)),
  )
  const petra = one(await app.db.select().from(person).where(eq(person.post, 'sales')))
  const common = { when: '', delay: { count: 0, unit: 'days' as const }, tell: ines.id }
  await saveList(
    app,
    { ...ines, rights: [...ines.rights] },
    { kind: 'template', id: await saleOf(app) },
    {
      version: 0,
      steps: [
        {
          ...common,
          id: 'file',
          on: 'executed',
          kind: 'file to the record',
          name: '{{number}} {{buyer.name}}',
        },
        {
          ...common,
          id: 'bill',
          on: 'executed',
          kind: 'next document',
          template: invoice.id,
          send: true,
          bill: {
            name: 'buyer.name',
            address: 'buyer.address',
            due: 'due',
            sellerCountry: 'US',
            buyerCountry: 'US',
          },
        },
        {
          ...common,
          id: 'call',
          on: 'executed',
          when: 'colonies > 20',
          delay: { count: 3, unit: 'business days' },
          kind: 'follow-up',
          person: petra.id,
          text: 'Call {{buyer.contact}} about the yard for {{colonies}} colonies',
          days: 5,
        },
        {
          ...common,
          id: 'why',
          on: 'declined',
          kind: 'mail',
          to: 'ruth.ambler@larkmere.example',
          subject: 'Refused: {{number}}, {{buyer.name}}',
          text: '{{buyer.name}} has refused to sign {{number}}. The agreement says why.',
          attach: false,
        },
      ],
    },
  )
}

async function saleOf(app: App): Promise<string> {
  const sale = one(
    await app.db.select({ id: template.id }).from(template).where(eq(template.name, colonySale.title)),
  )
  return sale.id
}

/** The record book: customers with a contact and a deal each, and the price list. */
async function loadRecords(app: App, ines: Person): Promise<void> {
  for (const kind of ['customer', 'deal'] as const) await saveFields(app, ines, kind, addedFields[kind] ?? [])
  await transaction(app, async (work) => {
    for (const price of prices) await insertRecord(work, ines, 'price', price, null)
    for (const { customer, contact, deal } of growers()) {
      const id = await insertRecord(work, ines, 'customer', customer, null)
      await insertRecord(work, ines, 'contact', contact, id)
      await insertRecord(work, ines, 'deal', deal, id)
    }
  })
  await keepView(app, { ...ines, rights: [...ines.rights] }, 'deal', {
    name: 'Agreed, to be written',
    filter: { search: '', where: 'status = "agreed"', sort: '' },
  })
}

async function broughtIn(app: App, by: Person, name: string, bytes: Uint8Array): Promise<BroughtForm> {
  const { file, fields } = await bringIn(app, by, name, bytes)
  const pages = await readsOf(app.db, file)
  return { file, fields, pages: pages.map(({ read }) => read) }
}

/** The season's packet, and the letter that goes out before the colonies do: agreement, price schedule and site access from one record. */
async function loadPacket(app: App, ines: Person, seasonId: string): Promise<void> {
  const parts = [seasonId]
  const access = siteAccessForm(
    await broughtIn(app, ines, 'Site access permission.pdf', await siteAccessPdf()),
  )
  for (const content of [priceSchedule, access]) {
    const { id } = await addTemplate(app, ines, content, null)
    await publish(app, ines, id, 1, 'For the season 2027')
    parts.push(id)
  }
  const health = healthDeclarationForm(
    await broughtIn(app, ines, 'Colony health declaration.pdf', await healthDeclarationPdf()),
  )
  const { id: declaration } = await addTemplate(app, ines, health, null)
  await publish(app, ines, declaration, 1, 'For the season 2027')
  await makePacket(app, ines, { name: 'Season packet', templates: parts })
  const { id: notice } = await addTemplate(app, ines, arrivalNotice, null)
  await publish(app, ines, notice, 1, 'For the season 2027')
  const { id: invoice } = await addTemplate(app, ines, saleInvoice, null)
  await app.db.update(template).set({ seriesId: INVOICES }).where(eq(template.id, invoice))
  await publish(app, ines, invoice, 1, 'For the season 2027')
}

/** Shelves, teams, further templates, library clauses and saved cases. */
async function loadStudio(app: App, ines: Person, seasonId: string): Promise<void> {
  const everyone = await app.db.select().from(person)
  const teams = {
    'Contract desk': ['contract administrator', 'legal'],
    Sales: ['sales', 'sales lead'],
  } as const
  const teamIds = new Map<string, string>()
  for (const [name, posts] of Object.entries(teams)) {
    const id = randomUUID()
    teamIds.set(name, id)
    await app.db.insert(team).values({ id, name })
    const members = everyone.filter(({ post }) => (posts as readonly string[]).includes(post))
    await app.db.insert(teamMember).values(members.map((each) => ({ teamId: id, personId: each.id })))
  }
  const open = await makeShelf(app, ines, { name: 'Season', rights: [] })
  const { id: sales } = await makeShelf(app, ines, {
    name: 'Sales',
    rights: [
      { team: teamIds.get('Contract desk')!, use: true, edit: true, publish: true },
      { team: teamIds.get('Sales')!, use: true, edit: false, publish: false },
    ],
  })
  await app.db.update(template).set({ shelfId: open.id }).where(eq(template.id, seasonId))
  const kept: Awaited<ReturnType<typeof keepClause>>[] = []
  for (const [title, tags] of [
    ['Law', ['closing']],
    ['Whole agreement', ['closing']],
    ['Events beyond control', ['risk']],
    ['Loss and damage', ['risk', 'insurance']],
  ] as const) {
    const clause = [...allBlocks(seasonAgreement.document.content)].find(
      (block) => block.type === 'clause' && passageTitle(block) === title,
    )
    if (clause?.type === 'clause')
      kept.push(
        await keepClause(app, ines, { title, tags: [...tags], content: structuredClone(clause), edition: 0 }),
      )
  }
  const { id: clause, content } = kept[0]!
  const law = {
    ...content,
    attrs: { ...content.attrs, id: 'law-of-the-library', source: { clause, edition: 1, linked: true } },
  }
  const saleBlocks = textBlocks(colonySale.document)
  const at = saleBlocks.findIndex((block) => passageTitle(block).startsWith('To be filled'))
  const sale: TemplateContent = {
    ...colonySale,
    document: { type: 'doc', content: saleBlocks.toSpliced(at, 0, law) },
  }
  const { id } = await addTemplate(app, ines, sale, sales)
  await publish(app, ines, id, 1, 'First edition')
  for (const payment of ['at handover', 'in instalments'])
    await keepExample(app, ines, id, sale, `Paid ${payment}`, { payment })
  await keepExample(app, ines, seasonId, seasonAgreement, 'Own land, returning, at home', {
    'land.leased': false,
    first_season: false,
    organic: false,
    'orchard.state': 'Oregon',
    colonies: '120',
  })
  await keepExample(
    app,
    ines,
    seasonId,
    seasonAgreement,
    'Leased, organic, first season, from another state',
    {
      'land.leased': true,
      landowner: 'Amos Pell',
      landowner_email: 'amos.pell@brightwaterland.example',
      first_season: true,
      organic: true,
      'orchard.state': 'Idaho',
      colonies: '480',
    },
  )
}

/** A saved case of a template's own examples with some values of its own, and the wording it gives now. */
async function keepExample(
  app: App,
  ines: Person,
  templateId: string,
  content: TemplateContent,
  name: string,
  values: RecordData,
): Promise<void> {
  const prepared = prepareTemplate(content)
  if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
  const data = { ...examples(content), ...values, ...senderOf(content, ines, organisation.name) }
  await keepCase(app, ines, templateId, {
    name,
    data: structuredClone(data) as Record<string, string>,
    expected: [...finishedText(merge(prepared.ready, data, null).document)],
  })
}
