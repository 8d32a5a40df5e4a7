import { Decimal } from 'decimal.js'
import {
  addBusinessDays,
  addMonths,
  businessDaysBetween,
  type Roll,
  ROLLS,
  rollToBusinessDay,
} from '../../calendar/business-days.ts'
import { joined, nameParts } from '../../words/join.ts'
import { amountInWords, numberInWords } from '../../words/words.ts'
import { isList, number, toText, type Value } from '../values/value.ts'
import { asDate, type BuiltIns, integer, one } from './built-in.ts'

const closed = (holidays: Value | undefined): ReadonlySet<string> | null =>
  holidays === undefined || holidays === null
    ? new Set()
    : isList(holidays)
      ? new Set(holidays.map(toText))
      : null

const texts = (list: Value): readonly string[] | null =>
  isList(list) ? list.filter((item) => item !== null && item !== '').map(toText) : null

const language = (value: Value | undefined): string => (typeof value === 'string' ? value : 'en')

/** What contracts need and FEEL does not have. These are ours. */
export const contractFunctions: BuiltIns = {
  'add months': {
    parameters: ['date', 'months', 'end of month'],
    optional: 1,
    types: ['date', 'number', 'boolean'],
    result: 'date',
    help: 'The same day so many months later, or the last day of that month. With true, a month’s last day stays a last day',
    call: ([date, months, keep]) => {
      const [from, count] = [asDate(date!), integer(months!)]
      return from && count !== null ? addMonths(from, count, keep === true) : null
    },
  },
  'add business days': {
    parameters: ['date', 'days', 'holidays'],
    optional: 1,
    types: ['date', 'number', 'list'],
    result: 'date',
    help: 'So many working days later (or earlier), Saturdays, Sundays and listed holidays left out',
    call: ([date, days, holidays]) => {
      const [from, count, free] = [asDate(date!), integer(days!), closed(holidays)]
      return from && count !== null && free ? addBusinessDays(from, count, free) : null
    },
  },
  'business days': {
    parameters: ['from', 'to', 'holidays'],
    optional: 1,
    types: ['date', 'date', 'list'],
    result: 'number',
    help: 'Working days after the first date up to and including the second',
    call: ([from, to, holidays]) => {
      const [start, end, free] = [asDate(from!), asDate(to!), closed(holidays)]
      const count = start && end && free ? businessDaysBetween(start, end, free) : null
      return count === null ? null : number(count)
    },
  },
  'business day': {
    parameters: ['date', 'roll', 'holidays'],
    optional: 2,
    types: ['date', 'string', 'list'],
    result: 'date',
    help: `The date, moved where it is no working day: ${ROLLS.join(', ')}`,
    call: ([date, roll, holidays]) => {
      const [from, free] = [asDate(date!), closed(holidays)]
      const wanted = roll ?? 'following'
      return from && free && ROLLS.includes(wanted as Roll)
        ? rollToBusinessDay(from, wanted as Roll, free)
        : null
    },
  },
  'number in words': {
    parameters: ['number', 'language'],
    optional: 1,
    types: ['number', 'string'],
    result: 'string',
    help: 'A whole number in words; "en", "es", "fr" or "de"',
    call: ([value, tag]) => (value instanceof Decimal ? numberInWords(value, language(tag)) : null),
  },
  'amount in words': {
    parameters: ['amount', 'currency', 'language'],
    optional: 1,
    types: ['number', 'string', 'string'],
    result: 'string',
    help: 'An amount of money in words, with the currency’s smaller unit as a fraction',
    call: ([amount, currency, tag]) =>
      amount instanceof Decimal && typeof currency === 'string'
        ? amountInWords(amount, currency, language(tag))
        : null,
  },
  'join with and': {
    parameters: ['list', 'language'],
    optional: 1,
    types: ['list', 'string'],
    result: 'string',
    help: 'The texts of a list as a sentence has them: a, b and c',
    call: ([list, tag]) => {
      const found = texts(list!)
      return found && joined(found, 'conjunction', language(tag))
    },
  },
  'join with or': {
    parameters: ['list', 'language'],
    optional: 1,
    types: ['list', 'string'],
    result: 'string',
    help: 'The texts of a list as a choice: a, b or c',
    call: ([list, tag]) => {
      const found = texts(list!)
      return found && joined(found, 'disjunction', language(tag))
    },
  },
  'first name': one('name', 'string', 'The given names of a full name', (name) =>
    typeof name === 'string' ? nameParts(name).first : null,
  ),
  'last name': one('name', 'string', 'The family name of a full name', (name) =>
    typeof name === 'string' ? nameParts(name).last : null,
  ),
  'round money': {
    parameters: ['amount', 'digits', 'rounding'],
    optional: 1,
    types: ['number', 'number', 'string'],
    result: 'number',
    help: 'Rounded to so many digits, "half up" or "half even"',
    call: ([amount, digits, rounding]) => {
      const places = integer(digits!)
      if (!(amount instanceof Decimal) || places === null || places < 0 || places > 20) return null
      if (rounding !== undefined && rounding !== 'half up' && rounding !== 'half even') return null
      return amount.toDecimalPlaces(
        places,
        rounding === 'half even' ? Decimal.ROUND_HALF_EVEN : Decimal.ROUND_HALF_UP,
      )
    },
  },
}
