import { initial } from '#core/text/cut.ts'
import type { RoleShape } from '#core/document/template.ts'

const paths: Record<RoleShape, string> = {
  circle: 'M8 1a7 7 0 1 1 0 14a7 7 0 1 1 0-14Z',
  square: 'M1.5 1.5h13v13h-13Z',
  diamond: 'M8 .5 15.5 8 8 15.5.5 8Z',
  hexagon: 'M4.5 1.5h7L15.5 8l-4 6.5h-7L.5 8Z',
  triangle: 'M8 1 15.5 14.5H.5Z',
  drop: 'M8 .5c3 4 5.5 6 5.5 9.5a5.5 5.5 0 0 1-11 0C2.500 6.500 5 4.500 8 .5Z',
}

/** A role's shape with its letter: told apart without colour. */
export function RoleMark({ shape, letter }: { readonly shape: RoleShape; readonly letter: string }) {
  return (
    <svg width="18" height="18" viewBox="0 0 16 16" role="img" aria-label={`Role ${letter}`}>
      <path d={paths[shape]} fill="none" stroke="currentColor" strokeWidth="1.1" />
      <text x="8" y="11.200" textAnchor="middle" fontSize="8" fontWeight="600" fill="currentColor">
        {initial(letter)}
      </text>
    </svg>
  )
}
