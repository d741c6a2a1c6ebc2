/** Fennick's name server: answers what texts stand at the names of the domains it keeps (RFC 1035, TXT alone). */
import { createSocket } from 'node:dgram';
import { decode, encode } from 'dns-packet';

export interface Zone {
  /** Texts by name, in lower case. */
  readonly records: Map<string, string[]>;
  listen(port: number): Promise<void>;
}

export function createZone(): Zone {
  const records = new Map<string, string[]>();
  return {
    records,
    listen(port) {
      const socket = createSocket('udp4');
      socket.on('message', (packet, { port: from, address }) => {
        try {
          const { id, questions = [] } = decode(packet);
          const [question] = questions;
          const texts = records.get(question?.name.toLowerCase() ?? '');
          const answer = encode({
            type: 'response',
            id,
            // 0x400: it is the one who knows; 3: there is no such name.
            flags: 0x400 | (texts ? 0 : 3),
            questions,
            answers: (texts ?? []).map((text) => ({
              type: 'TXT' as const,
              name: question?.name ?? '',
              ttl: 0,
              // A string of a record holds 255 octets at most.
              data: text.match(/.{1,255}/gs) ?? [''],
            })),
          });
          socket.send(answer, from, address);
        } catch {
          // What is no question gets no answer.
        }
      });
      return new Promise((resolve) => socket.bind(port, '127.0.0.1', () => resolve()));
    },
  };
}
