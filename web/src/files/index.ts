export { Files } from './files.tsx';
