/** The parts of the smpp package that are used here; it ships no types of its own. */
declare module 'smpp' {
  import type { EventEmitter } from 'node:events';
  import type { Server as NetServer, Socket } from 'node:net';

  export type Fields = Record<string, unknown>;

  export class PDU {
    constructor(command: string, fields?: Fields);
    command: string;
    command_id: number;
    command_length: number;
    command_status: number;
    sequence_number: number;
    isResponse(): boolean;
    response(fields?: Fields): PDU;
    toBuffer(): Buffer;
    [field: string]: unknown;
  }

  export class Session extends EventEmitter {
    socket: Socket;
    sequence: number;
    /** False when the socket can no longer be written to. */
    send(pdu: PDU, onResponse?: (response: PDU) => void): boolean;
    close(callback?: () => void): void;
    destroy(callback?: () => void): void;
    pause(): void;
    resume(): void;
  }

  export interface Server extends NetServer {
    sessions: Session[];
  }

  const smpp: {
    PDU: typeof PDU;
    connect(
      options: {
        host: string;
        port: number;
        tls?: boolean;
        lookup?: import('node:net').LookupFunction;
      } & import('node:tls').ConnectionOptions,
      connected?: () => void,
    ): Session;
    createServer(options: { key?: string; cert?: string }, listener: (session: Session) => void): Server;
    createServer(listener: (session: Session) => void): Server;
    filters: { message: { decode(value: Buffer): unknown; encode(value: unknown): unknown } };
  };
  export default smpp;
}
