import { parentPort, workerData } from 'node:worker_threads';
import { levelled, type LevelProblem } from '#core/upkeep/index.ts';

const { problem, seed } = workerData as { problem: LevelProblem; seed: number };
parentPort?.postMessage(levelled(problem, seed));
