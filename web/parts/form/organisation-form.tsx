import * as v from 'valibot'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { keysOf } from '#core/keys-of.ts'
import { TAX_SCHEMES } from '#core/organisation/organisation.ts'
import { filled, text } from './entries.ts'
import { LinesField, SelectField, TextField } from './fields.tsx'
import type { EntryField } from './use-entry.ts'

type OrganisationFields = Answer<Api['settings']>['organisation']

const ZONES = Intl.supportedValuesOf('timeZone')
const LANGUAGES = ['en-US', 'en-GB', 'es', 'es-MX', 'fr', 'fr-CA', 'de', 'it', 'nl', 'pt', 'pt-BR'] as const
const languageName = new Intl.DisplayNames(undefined, { type: 'language' })

/** What is entered of an organization; of each group of synonyms its words, with commas between. */
export const organisationSchema = v.object({
  name: filled('Enter the organization’s name.'),
  address: text(500),
  place: text(120),
  language: filled('Choose a language.'),
  timeZone: filled('Choose a time zone.'),
  sender: filled('Enter the address that emails come from.', 254),
  synonyms: v.pipe(
    v.array(v.string()),
    v.transform((groups) => groups.map(wordsOf).filter((group) => group.length > 0)),
  ),
  city: text(120),
  postCode: text(20),
  taxNumber: text(40),
  taxScheme: v.picklist(keysOf(TAX_SCHEMES)),
})

const wordsOf = (group: string): string[] =>
  group
    .split(',')
    .map((word) => word.trim())
    .filter(Boolean)

/** An organization as it is entered. */
export const organisationEntries = (value: OrganisationFields): v.InferInput<typeof organisationSchema> => ({
  ...value,
  synonyms: value.synonyms.map((group) => group.join(', ')),
})

const listed = (values: readonly string[], own: string): readonly string[] =>
  own === '' || values.includes(own) ? values : [own, ...values]

/** What an installation has to know of its organization. */
export function OrganisationForm({
  at,
  language,
  timeZone,
  bills = false,
}: {
  readonly at: (name: Exclude<keyof OrganisationFields, 'synonyms'>) => EntryField
  /** Those that stand there now: they can be chosen even where the lists lack them. */
  readonly language: string
  readonly timeZone: string
  /** With what bills say of it, which nobody needs on the first day. */
  readonly bills?: boolean
}) {
  return (
    <div className="grid grid-cols-2 gap-x-5 gap-y-3 max-md:grid-cols-1">
      <TextField label="Name" of={at('name')} autoComplete="organization" maxLength={200} />
      <TextField
        label="Emails come from"
        hint="Replies to signing requests go to this address."
        of={at('sender')}
        type="email"
      />
      <LinesField label="Address" of={at('address')} maxLength={500} />
      <TextField
        label="Place"
        hint="The place of signing, as seals state it."
        of={at('place')}
        maxLength={120}
      />
      <SelectField
        label="Language"
        hint="New templates begin in it."
        of={at('language')}
        options={listed(LANGUAGES, language).map((tag) => [tag, languageName.of(tag) ?? tag] as const)}
      />
      <SelectField
        label="Time zone"
        hint="Dates of agreements are days of this zone."
        of={at('timeZone')}
        options={listed(ZONES, timeZone).map((zone) => [zone, zone.replaceAll('_', ' ')] as const)}
      />
      {bills && (
        <>
          <h3 className="col-span-full mt-2 border-t border-hair pt-3 font-serif text-base font-semibold">
            On invoices
          </h3>
          <TextField label="City" hint="Apart from the address." of={at('city')} maxLength={120} />
          <TextField label="Postal code" of={at('postCode')} maxLength={20} />
          <TextField
            label="Tax number"
            hint="An invoice follows EN 16931 only with a VAT number."
            of={at('taxNumber')}
            maxLength={40}
          />
          <SelectField
            label="Tax on sales"
            of={at('taxScheme')}
            options={keysOf(TAX_SCHEMES).map((code) => [code, TAX_SCHEMES[code]] as const)}
          />
        </>
      )}
    </div>
  )
}
