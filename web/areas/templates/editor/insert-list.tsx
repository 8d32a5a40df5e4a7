import type { MenuState } from '#web/areas/templates/text/insert-menu.ts'

const HEIGHT = 288

/** The menu at the writing place: above it where there is no room below. */
export function InsertList({ menu }: { readonly menu: MenuState }) {
  const above = menu.bottom + HEIGHT > window.innerHeight
  return (
    <div
      role="listbox"
      aria-label="Insert"
      className="fixed z-50 w-80 overflow-auto border border-hair bg-sheet py-1 text-sm"
      style={{
        left: Math.min(menu.left, window.innerWidth - 330),
        maxHeight: HEIGHT,
        ...(above ? { bottom: window.innerHeight - menu.top + 4 } : { top: menu.bottom + 4 }),
      }}
    >
      {menu.items.map((item, i) => (
        <div key={`${item.group} ${item.title}`}>
          {item.group !== menu.items[i - 1]?.group && (
            <p className="px-3 pt-1.5 pb-0.5 text-xs text-soft">{item.group}</p>
          )}
          <div
            role="option"
            aria-selected={i === menu.at}
            ref={(element) => {
              if (i === menu.at) element?.scrollIntoView({ block: 'nearest' })
            }}
            className={`flex cursor-pointer items-baseline justify-between gap-3 px-3 py-1 ${i === menu.at ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
            onMouseDown={(event) => {
              event.preventDefault()
              menu.choose(item)
            }}
          >
            <span className="truncate">{item.title}</span>
            <span className="shrink-0 truncate text-xs text-soft">{item.hint}</span>
          </div>
        </div>
      ))}
    </div>
  )
}
