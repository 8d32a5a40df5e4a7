/** Names of the document properties that keep what has no place in the text. */
export const OUTLINE_PROPERTY = 'Data outline'
export const ROLES_PROPERTY = 'Signer roles'
export const SENDING_PROPERTY = 'Sending defaults'
export const PAGE_PROPERTY = 'Page'
