import { operatorKey } from '../build/cache'
import type { ShotDocument } from './document'

/** Changes with anything that the passes are rendered from: passes with another stamp are out of date. */
export function sceneStamp(document: ShotDocument): string {
  const { file: _file, ...passes } = document.passes
  return operatorKey('scene', 1, document.scene, passes, document.frame)
}
