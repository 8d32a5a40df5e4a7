import { PDFDocument } from 'pdf-lib'
import { SheetWriter } from './sheet-writer.ts'

// The declaration that goes with colonies over a state’s border: two pages with fields of their own, filled by the keeper.

export async function healthDeclarationPdf(): Promise<Uint8Array> {
  const sheet = await SheetWriter.open()
  sheet
    .title('Colony health declaration')
    .paragraph(
      'To be filled in by the keeper of the colonies, for every consignment that crosses the border of a state, not more than ten days before it leaves.',
    )
  const at: Record<string, number> = {}
  const labelled = (name: string, label: string) => {
    at[name] = sheet.y
    sheet.text(label, 72, 10.5)
    sheet.down(26)
  }
  labelled('keeper', 'Name of the keeper')
  labelled('registration', 'Registration number')
  labelled('colonies', 'Number of colonies')
  labelled('origin', 'County and state of origin')
  labelled('destination', 'Place of destination')
  labelled('leaves', 'Leaves on')
  sheet.heading('Inspection')
  labelled('inspected', 'Inspected on')
  labelled('foulbrood', 'Free of foulbrood')
  labelled('treated', 'Treated against mites')
  labelled('strength', 'Strength')
  labelled('remarks', 'Remarks')
  const first = { ...at }
  sheet.nextPage()
  sheet
    .heading('Declaration')
    .paragraph(
      'I declare that what is said here is true, that the colonies were inspected as the rules of the state of destination ask, and that I will tell the inspector of anything that changes until they have arrived.',
    )
  sheet.down(30)
  sheet.under('Signature of the keeper', 72, 290).under('Date', 320, 420)
  const { document } = sheet
  const form = document.getForm()
  const [page] = document.getPages()
  const text = (name: string, width: number, more: { max?: number; comb?: boolean; high?: number } = {}) => {
    const field = form.createTextField(name)
    if (more.max) field.setMaxLength(more.max)
    if (more.comb) field.enableCombing()
    if (more.high) field.enableMultiline()
    field.addToPage(page!, {
      x: 230,
      y: 792 - first[name]! - 5 - ((more.high ?? 18) - 18),
      width,
      height: more.high ?? 18,
      borderWidth: 0.5,
    })
  }
  text('keeper', 260)
  text('registration', 160, { max: 8, comb: true })
  text('colonies', 80)
  text('origin', 260)
  text('destination', 260)
  text('leaves', 120)
  text('inspected', 120)
  for (const name of ['foulbrood', 'treated']) {
    const box = form.createCheckBox(name)
    box.addToPage(page!, { x: 230, y: 792 - first[name]! - 2, width: 12, height: 12, borderWidth: 0.8 })
  }
  const strength = form.createRadioGroup('strength')
  ;['strong', 'medium', 'weak'].forEach((option, i) => {
    strength.addOptionToPage(option, page!, {
      x: 230 + i * 80,
      y: 792 - first['strength']! - 2,
      width: 12,
      height: 12,
      borderWidth: 0.8,
    })
    sheet.page = page!
    sheet.y = first['strength']!
    sheet.text(option, 248 + i * 80, 10.5)
  })
  text('remarks', 310, { high: 60 })
  return PDFDocument.load(await document.save()).then((made) => made.save())
}
