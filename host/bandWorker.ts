// Entry of a pool thread on Node.
import { parentPort, workerData } from 'node:worker_threads'
import { serveBands, type WorkerStart } from '../core/engine/pool'

parentPort!.postMessage('ready')
serveBands(workerData as WorkerStart)
