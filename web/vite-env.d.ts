/// <reference types="vite/client" />
declare module 'virtual:routes' {
  /** Every route of the contract, made from it at build time. */
  export const routes: Readonly<
    Record<import('#contract/api.ts').RouteName, import('./api/routes.ts').CalledRoute>
  >
}
