/** The faces of nearly all text, and milliseconds that the first of it waits for them: set in another face, it would jump. */
const FACES = ['400 1em "Source Sans 3"', '600 1em "Source Sans 3"', '600 1em "Source Serif 4"']
const FACES_WITHIN = 1000

/** Resolves once the faces are here, or have been waited for long enough. */
export const facesHere = (): Promise<unknown> =>
  Promise.race([
    Promise.allSettled(FACES.map((face) => document.fonts.load(face))),
    new Promise((resolve) => setTimeout(resolve, FACES_WITHIN)),
  ])
