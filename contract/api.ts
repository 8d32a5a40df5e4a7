import { aftermathRoutes } from './next-steps-routes.ts'
import { agreementRoutes } from './agreement-routes.ts'
import { signingRoutes } from './signing-routes.ts'
import { approvalRoutes } from './approval-routes.ts'
import { organisationRoutes } from './organisation-routes.ts'
import { formRoutes, intakeRoutes } from './intake-routes.ts'
import { connectionRoutes } from './connection-routes.ts'
import { oneOffRoutes } from './one-off-routes.ts'
import { pageFileRoutes } from './page-file-routes.ts'
import { peopleRoutes, postRoomRoutes } from './people-routes.ts'
import { keyRoutes, programRoutes, webhookRoutes } from './program-routes.ts'
import { recordRoutes } from './record-routes.ts'
import { searchRoutes } from './search.ts'
import { ruleRoutes } from './rule-routes.ts'
import { runRoutes, sheetRoutes } from './run-routes.ts'
import { table } from './route.ts'
import { templateRoutes } from './template-routes.ts'
import { verifyRoutes } from './verify.ts'

/** Every route of the application. */
export const api = table({
  ...peopleRoutes,
  ...searchRoutes,
  ...organisationRoutes,
  ...templateRoutes,
  ...pageFileRoutes,
  ...oneOffRoutes,
  ...recordRoutes,
  ...sheetRoutes,
  ...runRoutes,
  ...ruleRoutes,
  ...approvalRoutes,
  ...agreementRoutes,
  ...postRoomRoutes,
  ...signingRoutes,
  ...intakeRoutes,
  ...aftermathRoutes,
  ...connectionRoutes,
  ...formRoutes,
  ...verifyRoutes,
  ...keyRoutes,
  ...programRoutes,
  ...webhookRoutes,
})
export type Api = typeof api
export type RouteName = keyof Api
