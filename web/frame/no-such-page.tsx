import { Link, useLocation } from 'react-router'
import { Empty } from '#web/parts/states.tsx'

/** Where an address leads nowhere. */
export function NoSuchPage() {
  const { pathname } = useLocation()
  return (
    <Empty title="There is nothing at this address">
      <p className="wrap-anywhere">
        {pathname} names no page here. It may have been shortened on its way to you.
      </p>
      <p className="mt-2">
        <Link to="/desk" className="text-petrol underline">
          To the desk
        </Link>
        , or Ctrl K finds a page by its name.
      </p>
    </Empty>
  )
}
