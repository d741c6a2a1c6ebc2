/** How Brackwater posts to its customers: signed, to the primary address and then the fallback, again with growing delays. */
import { createHmac } from 'node:crypto';
import { now } from '../clock';
import { during, rest } from '../underWay';
import type { BrackwaterAccount, CallbackTarget, LogLine } from './accounts';
import type { BrackwaterFaults } from './faults';

const RETRIES = [400, 1000, 2000, 4000, 8000, 15_000, 30_000, 60_000];

export class Callbacks {
  /** What was posted in vain as often as Brackwater tries, with every answer, oldest first. */
  readonly givenUp: { body: object; answers: (number | string)[] }[] = [];

  constructor(
    private readonly faults: () => BrackwaterFaults,
    private readonly note: (line: Omit<LogLine, 'at'>) => void,
  ) {}

  /**
   * Posts until somebody answers 2xx: primary, fallback, then both again with growing delays,
   * each time as the address is set by then.
   */
  async post(account: BrackwaterAccount, target: () => CallbackTarget, body: object, about: string) {
    const times = this.faults().postsTwice ? 2 : 1;
    for (let time = 0; time < times; time++) {
      const answers: (number | string)[] = [];
      for (let round = 0; ; round++) {
        if (await this.postOnce(account, target(), body, about, answers)) break;
        const delay = RETRIES[round];
        if (delay === undefined) {
          this.givenUp.push({ body, answers });
          return;
        }
        await rest(delay);
      }
    }
  }

  private async postOnce(
    account: BrackwaterAccount,
    { method, primary, fallback }: CallbackTarget,
    body: object,
    about: string,
    answers: (number | string)[],
  ): Promise<boolean> {
    for (const address of [primary, fallback].filter(Boolean)) {
      const text = this.faults().garblesPosts ? `{"events":[{"kind":` : JSON.stringify(body);
      const status = await this.callBack(account, address, text, method);
      answers.push(status);
      const where = address === primary ? 'primary' : 'fallback';
      this.note({ account: account.id, kind: 'callback', summary: `${method} ${about} → ${where} ${address}`, status });
      if (typeof status === 'number' && status >= 200 && status < 300) return true;
    }
    return false;
  }

  private async callBack(
    account: BrackwaterAccount,
    address: string,
    body: string,
    method: string,
  ): Promise<number | string> {
    const time = String(Math.floor(now() / 1000));
    const key = this.faults().signsWithAnotherSecret ? 'bws_anothersecretaltogether00000' : account.secret;
    const signature = `h1=${createHmac('sha256', key).update(`${time}.${body}`).digest('hex')}`;
    try {
      return await during(async () => {
        const answer = await fetch(address, {
          method,
          headers: {
            'content-type': 'application/json',
            'x-brackwater-time': time,
            'x-brackwater-signature': signature,
          },
          body: method === 'GET' ? undefined : body,
          signal: AbortSignal.timeout(8000),
        });
        await answer.arrayBuffer();
        return answer.status;
      });
    } catch (error) {
      return (error as { cause?: { code?: string } }).cause?.code ?? (error as Error).name;
    }
  }
}
