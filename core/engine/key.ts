// Short names for what is to be computed: the same for the same parts, another for any difference.
import { murmur3 } from './murmur'

const encoder = new TextEncoder()
/** Key of an operator from its name, version, values and the keys of its inputs. */
export function operatorKey(...parts: unknown[]): string {
  const bytes = encoder.encode(JSON.stringify(parts))
  return murmur3(bytes, 1).toString(36) + murmur3(bytes, 2).toString(36) + bytes.length.toString(36)
}
