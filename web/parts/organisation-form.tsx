import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { Faults } from '#web/api/problem.ts'
import { TAX_SCHEMES, type TaxScheme } from '#core/organisation/organisation.ts'
import { Input, Labelled, Select, TextArea } from './input.tsx'

export type OrganisationFields = Answer<Api['settings']>['organisation']

const ZONES = Intl.supportedValuesOf('timeZone')
const LANGUAGES = ['en-US', 'en-GB', 'es', 'es-MX', 'fr', 'fr-CA', 'de', 'it', 'nl', 'pt', 'pt-BR'] as const
const languageName = new Intl.DisplayNames(undefined, { type: 'language' })

/** What an installation has to know of whose it is. `faults`: what is wrong with a field, by its name. */
export function OrganisationForm({
  value,
  faults,
  bills = false,
  onChange,
}: {
  readonly value: OrganisationFields
  readonly faults: Faults
  /** With what bills say of it, which nobody needs on the first day. */
  readonly bills?: boolean
  readonly onChange: (next: OrganisationFields) => void
}) {
  const field = (name: Exclude<keyof OrganisationFields, 'synonyms' | 'taxScheme'>) => ({
    value: value[name],
    'aria-invalid': faults[name] !== undefined,
    onChange: (event: { target: { value: string } }) => onChange({ ...value, [name]: event.target.value }),
  })
  const fault = (name: string) =>
    faults[name] && <span className="mt-1 block text-xs text-brick">{faults[name]}</span>
  return (
    <div className="grid grid-cols-2 gap-x-5 gap-y-3">
      <Labelled label="Name">
        <Input autoComplete="organization" maxLength={200} {...field('name')} />
        {fault('name')}
      </Labelled>
      <Labelled label="Mails come from" hint="Answers to signing requests go there.">
        <Input type="email" {...field('sender')} />
        {fault('sender')}
      </Labelled>
      <Labelled label="Address">
        <TextArea rows={3} maxLength={500} {...field('address')} />
        {fault('address')}
      </Labelled>
      <Labelled label="Place" hint="Where it signs, as seals say it.">
        <Input maxLength={120} {...field('place')} />
        {fault('place')}
      </Labelled>
      <Labelled label="Language" hint="New templates begin in it.">
        <Input list="languages" {...field('language')} />
        <datalist id="languages">
          {LANGUAGES.map((tag) => (
            <option key={tag} value={tag}>
              {languageName.of(tag)}
            </option>
          ))}
        </datalist>
        {fault('language')}
      </Labelled>
      <Labelled label="Time zone" hint="Its days are the days of agreements.">
        <Input list="zones" {...field('timeZone')} />
        <datalist id="zones">
          {ZONES.map((zone) => (
            <option key={zone} value={zone} />
          ))}
        </datalist>
        {fault('timeZone')}
      </Labelled>
      {bills && (
        <>
          <h3 className="col-span-2 mt-2 border-t border-hair pt-3 font-serif text-base font-semibold">
            On bills
          </h3>
          <Labelled label="City" hint="Apart from the address.">
            <Input maxLength={120} {...field('city')} />
            {fault('city')}
          </Labelled>
          <Labelled label="Postal code">
            <Input maxLength={20} {...field('postCode')} />
            {fault('postCode')}
          </Labelled>
          <Labelled label="Tax number" hint="Bills are by EN 16931 only with a VAT number.">
            <Input maxLength={40} {...field('taxNumber')} />
            {fault('taxNumber')}
          </Labelled>
          <Labelled label="Tax on what is sold">
            <Select
              value={value.taxScheme}
              onChange={(event) => onChange({ ...value, taxScheme: event.target.value as TaxScheme })}
            >
              {Object.entries(TAX_SCHEMES).map(([code, said]) => (
                <option key={code} value={code}>
                  {said}
                </option>
              ))}
            </Select>
          </Labelled>
        </>
      )}
    </div>
  )
}
