export { ribbonsOf, stripStretch, threadStretch, visitState, type Stretch } from './ribbons.ts';
