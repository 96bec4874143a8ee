/** An entry of a record by its name: names may be called like what every object has. */
export const ownOf = <T>(record: Readonly<Record<string, T>> | undefined, name: string): T | undefined =>
  record && Object.hasOwn(record, name) ? record[name] : undefined
