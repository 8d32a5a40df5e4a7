/** `make`, worked out once for each object for as long as that lives. The object must never change. */
export function perObject<K extends object, V>(make: (of: K) => V): (of: K) => V {
  const made = new WeakMap<K, { readonly value: V }>()
  return (of) => {
    const known = made.get(of)
    if (known) return known.value
    const value = make(of)
    made.set(of, { value })
    return value
  }
}
