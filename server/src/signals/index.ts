export { signalRoutes } from './routes.ts';
export { linkBroker, type BrokerLink } from './broker.ts';
export { takePack } from './take.ts';
