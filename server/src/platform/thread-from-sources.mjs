// A thread starts without the loader of TypeScript. Where the server runs from its sources it begins here: the loader is
// registered, then the task is carried out from the file it is written in.
import { register } from 'tsx/esm/api';

register();
export const carryOut = async ({ file, name, ask }) => (await import(file))[name](ask);
