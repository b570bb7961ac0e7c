// Levelling beside the page: it says how far it is, and gives the plan; ending the worker stops it.
import { level, type Levelled, type LevelProblem, type LevelProgress } from '#core/upkeep/index.ts';

export type LevelAsk = { readonly problem: LevelProblem; readonly seed: number };
export type LevelSaid = { readonly progress: LevelProgress } | { readonly levelled: Levelled };

self.onmessage = ({ data: { problem, seed } }: MessageEvent<LevelAsk>) => {
  const say = (said: LevelSaid): void => self.postMessage(said);
  const steps = level(problem, seed);
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return say({ levelled: step.value });
    say({ progress: step.value });
  }
};
