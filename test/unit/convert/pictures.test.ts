import { createCanvas } from '@napi-rs/canvas'
import { expect } from 'chai'
import { readPicture, sizeOfPicture } from '#server/convert/read-picture.ts'

describe('the gate for pictures from outside', () => {
  const canvas = createCanvas(300, 200)
  canvas.getContext('2d').fillRect(20, 20, 100, 100)
  const [png, jpeg] = [canvas.toBuffer('image/png'), canvas.toBuffer('image/jpeg')]

  it('lets whole pictures in, also those of one colour', () => {
    expect(readPicture(png)).to.include({ ok: true, width: 300, height: 200 })
    expect(readPicture(jpeg)).to.include({ ok: true, width: 300, height: 200 })
    const white = createCanvas(4000, 4000)
    const context = white.getContext('2d')
    context.fillStyle = '#fff'
    context.fillRect(0, 0, 4000, 4000)
    expect(readPicture(white.toBuffer('image/png'))).to.include({ ok: true, width: 4000 })
    expect(readPicture(white.toBuffer('image/jpeg'))).to.include({ ok: true, width: 4000 })
  })

  it('refuses what says that it is larger than its bytes can hold', () => {
    for (const side of [6000, 20_000, 2 ** 31]) {
      const head = Buffer.from(png)
      head.writeUInt32BE(side, 16)
      head.writeUInt32BE(side, 20)
      const read = sizeOfPicture(head)
      expect(read?.ok, String(side)).to.equal(false)
    }
    // 66 bytes that say they are 6000 by 6000.
    const small = Buffer.concat([
      png.subarray(0, 33),
      Buffer.from('00000001494441547800000000', 'hex'),
      Buffer.from('0000000049454e44ae426082', 'hex'),
    ])
    small.writeUInt32BE(6000, 16)
    small.writeUInt32BE(6000, 20)
    expect(sizeOfPicture(small)?.ok).to.equal(false)
  })

  it('refuses what is cut off anywhere', () => {
    for (const whole of [png, jpeg])
      for (const share of [0.1, 0.5, 0.9]) {
        const read = sizeOfPicture(whole.subarray(0, Math.floor(whole.length * share)))
        expect(read?.ok ?? false).to.equal(false)
      }
    expect(sizeOfPicture(Buffer.from('no picture'))).to.equal(null)
  })
})
