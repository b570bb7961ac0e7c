// The thread in which a year is levelled; TypeScript is read as the server's threads read it.
import { register } from 'tsx/esm/api';

register();
await import('./level-thread.ts');
