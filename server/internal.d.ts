// What Nitro knows of the routes that it found.
declare module '#nitro-internal-virtual/server-handlers' {
  export const handlers: { route?: string; method?: string }[]
}
