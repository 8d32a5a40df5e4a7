/** A key with Ctrl, Cmd or Alt is another one: Ctrl+K is no k. */
export const isCombined = (event: {
  readonly ctrlKey: boolean
  readonly metaKey: boolean
  readonly altKey: boolean
}): boolean => event.ctrlKey || event.metaKey || event.altKey

/** Whether keys go into something that is being written. */
export const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(input|textarea|select)$/i.test(target.tagName))
