import { answer, buffersOf, type JobRequest } from './jobs.js';

/** A thread of its own: a worker of a page, or of Node. */
interface Port {
  postMessage(message: unknown, transfer: ArrayBuffer[]): void;
}
interface NodePort extends Port {
  on(event: 'message', listener: (data: JobRequest) => void): void;
}
declare const self: (Port & { onmessage: (event: { data: JobRequest }) => void }) | undefined;
declare const process: { getBuiltinModule(name: string): { parentPort: NodePort } } | undefined;

const reply = (port: Port, request: JobRequest): void =>
  void answer(request, (progress) => port.postMessage({ progress }, [])).then((message) =>
    port.postMessage(message, [...buffersOf(message)]),
  );

if (typeof process !== 'undefined' && typeof process.getBuiltinModule === 'function') {
  const { parentPort } = process.getBuiltinModule('node:worker_threads');
  parentPort.on('message', (data) => reply(parentPort, data));
} else if (typeof self !== 'undefined') {
  const port = self;
  port.onmessage = ({ data }) => reply(port, data);
}
