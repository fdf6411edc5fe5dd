// First module of every worker thread: teaches it TypeScript, then hands over to the worker's own module.
import { register } from 'tsx/esm/api';
import { workerData } from 'node:worker_threads';

register();
await import(workerData.entry);
