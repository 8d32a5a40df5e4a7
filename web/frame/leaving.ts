/** What has to be brought to its end before somebody signs out. */
export const beforeSignOut = new Set<() => Promise<void>>()
