// The thread as the loader runs it from source, in tests and development: threads do not inherit the loader.
import { register } from 'tsx/esm/api'

register()
const thread = await import('./thread.ts')
export default thread.default
