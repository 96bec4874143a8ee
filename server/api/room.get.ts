import { roomUsed } from '../services/room'
import { route } from '../utils/route'

export default route(() => roomUsed())
