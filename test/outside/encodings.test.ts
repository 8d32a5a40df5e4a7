import { expect } from 'chai'
import iconv from 'iconv-lite'
import { type Encoding, ENCODINGS } from '#core/sheet/encodings.ts'
import { decodeText } from '#server/convert/sheet/encoding.ts'

// The WHATWG Encoding Standard's single-byte tables, as this Node's ICU has them. Windows-1252 is asked in stream mode:
// Node 20 reads it as Latin-1 otherwise. Bytes that an encoding leaves open are left out.
const SINGLE_BYTE = ENCODINGS.filter((encoding) =>
  /^(windows-125|iso-8859|koi8|macintosh|ibm866)/.test(encoding),
)

const tables = {
  english: 'Orchard,Acres,Fee\nNorth “Ridge” Orchard — east,120,€ 195\nSmith’s Farm,80,€ 212\n',
  polish:
    'Sad,Hektary\nSad Żółkiewski i Wspólnicy,120\nJabłonie Ścibora Łęckiego,80\nWiśnie Kędzierzyńskie,40\n',
  russian: 'Сад,Гектары\nСеверный сад и пасека,120\nЯблоневый хутор у реки,80\nВишнёвая роща Ивановых,45\n',
  greek:
    'Κτήμα,Στρέμματα\nΒόρειο περιβόλι και μελίσσια,120\nΜηλιές του ποταμού,80\nΚερασιές της κοιλάδας,45\n',
  japanese:
    '果樹園,面積,備考\n大塚果樹園,120,北の斜面にあります\n川辺りんご園,80,開花は四月の上旬です\nさくらんぼの里,45,農薬は使いません\n',
  chinese:
    '果园,面积,备注\n北山苹果园,120,四月上旬开花\n河边樱桃园,80,不使用农药\n东岭梨园有限公司,45,需要提前通知\n',
  korean:
    '과수원,면적,비고\n북산 사과 농원,120,사월 초에 꽃이 핍니다\n강변 체리 농장,80,농약을 쓰지 않습니다\n',
}

describe('text files in the encodings people have', () => {
  for (const encoding of SINGLE_BYTE)
    it(`every byte of ${encoding} is the character of the standard’s table`, () => {
      const decoder = new TextDecoder(encoding)
      for (let byte = 0x80; byte < 256; byte++) {
        const bytes = Uint8Array.of(byte)
        const expected = decoder.decode(bytes, { stream: true })
        if (expected === '\ufffd' || /[\u0080-\u009f\ue000-\uf8ff]/.test(expected)) continue
        const ours = decodeText(bytes, encoding).text
        // ICU fills some places that the standard leaves open.
        if (ours !== '\ufffd')
          expect(ours.normalize('NFC'), `byte ${byte.toString(16)}`).to.equal(expected.normalize('NFC'))
      }
    })

  const found: readonly (readonly [keyof typeof tables, Encoding, readonly Encoding[]])[] = [
    ['english', 'windows-1252', ['windows-1252']],
    ['russian', 'windows-1251', ['windows-1251']],
    ['russian', 'koi8-r', ['koi8-r']],
    ['greek', 'windows-1253', ['windows-1253', 'iso-8859-7']],
    ['japanese', 'shift_jis', ['shift_jis']],
    ['japanese', 'euc-jp', ['euc-jp']],
    ['chinese', 'gb18030', ['gb18030']],
    ['korean', 'euc-kr', ['euc-kr']],
    ['japanese', 'utf-16le', ['utf-16le']],
    ['chinese', 'utf-16be', ['utf-16be']],
    ['english', 'utf-16le', ['utf-16le']],
    ['polish', 'utf-8', ['utf-8']],
  ]
  for (const [language, encoding, expected] of found)
    it(`${language} in ${encoding}, without a mark, is found out and read whole`, () => {
      const read = decodeText(iconv.encode(tables[language], encoding))
      expect(read.encoding).to.be.oneOf(expected)
      expect(read.text).to.equal(tables[language])
    })

  it('what is guessed is said to be a guess, and can be said otherwise', () => {
    const bytes = iconv.encode(tables.polish, 'iso-8859-2')
    expect(decodeText(bytes).sure).to.equal(false)
    expect(decodeText(bytes, 'iso-8859-2')).to.deep.include({ text: tables.polish, sure: true })
  })
})
