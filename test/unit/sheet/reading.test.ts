import { expect } from 'chai'
import fc from 'fast-check'
import type { Cell } from '#core/outline/cell.ts'
import { describeColumn, type Said } from '#core/sheet/columns.ts'
import { cellReading } from '#core/sheet/reading.ts'

const readings = (cells: readonly Cell[], said: Said = {}) => {
  const column = describeColumn('Column', cells, { said })
  return cells.map((cell) => cellReading(column, cell))
}

describe('how a cell was read', () => {
  it('is told of dates by the order of their column', () => {
    const dates = ['02/04/2027', '27/03/2027', '3 May 2027']
    expect(readings(dates)).to.deep.equal(['2027-04-02', '2027-03-27', '2027-05-03'])
    expect(readings(['02/04/2027', '03/04/2027'], { dateOrder: 'month first' })[0]).to.equal('2027-02-04')
  })

  it('is left open where the column leaves it open', () => {
    expect(readings(['02/04/2027', '03/05/2027'])).to.deep.equal([null, null])
  })

  it('is told of numbers, percentages and answers', () => {
    expect(readings(['1.237,50', '12', '12.50', '$ 9.80'])).to.deep.equal(['1237.5', null, null, '9.8'])
    expect(readings(['Y', 'no', 'n'])).to.deep.equal(['yes', null, 'no'])
  })

  it('is not told where the cell says it itself, is empty or at fault', () => {
    expect(
      readings([{ date: '2027-04-02' }, null, 'next week', '2027-04-03', '2027-04-04', '2027-04-05']),
    ).to.deep.equal(Array.from({ length: 6 }, () => null))
  })

  it('of every day, however written, is that day', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2001-01-01'), max: new Date('2099-12-31'), noInvalidDate: true }),
        (day) => {
          const iso = day.toISOString().slice(0, 10)
          const [year, month, date] = iso.split('-')
          expect(
            readings([`${date}.${month}.${year}`], { type: 'date', dateOrder: 'day first' }),
          ).to.deep.equal([iso])
          expect(
            readings([`${month}/${date}/${year}`], { type: 'date', dateOrder: 'month first' }),
          ).to.deep.equal([iso])
        },
      ),
    )
  })
})
