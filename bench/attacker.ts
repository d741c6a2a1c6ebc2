/** Attacks an installation from a process of its own, over and over, so many at once, until its standard input ends. */
import { Agent, type AgentOptions, request as httpRequest } from 'node:http';

interface Attack {
  url: string;
  method?: string;
  headers?: Record<string, string>;
  body?: string;
  /** How often the body is repeated. */
  times?: number;
  atOnce: number;
  /** The address it is made from. */
  from: string;
}

const attack = JSON.parse(process.argv[2] ?? '{}') as Attack;
const body = attack.body?.repeat(attack.times ?? 1);
let over = false;
let done = 0;
const answers = new Map<number, number>();

process.stdin.on('end', () => {
  over = true;
});
process.stdin.resume();

/** From an address of its own, as an attacker has one. */
const agent = new Agent({ keepAlive: true, maxSockets: attack.atOnce, localAddress: attack.from } as AgentOptions);

function ask(url: string): Promise<number> {
  return new Promise((resolve, reject) => {
    const request = httpRequest(url, { method: attack.method ?? 'POST', headers: attack.headers, agent }, (answer) => {
      answer.resume();
      answer.once('end', () => resolve(answer.statusCode ?? 0));
      answer.once('error', reject);
    });
    request.once('error', reject);
    request.end(body);
  });
}

async function attacker(): Promise<void> {
  while (!over) {
    try {
      const status = await ask(attack.url.replace('RANDOM', Math.random().toString(36).slice(2)));
      answers.set(status, (answers.get(status) ?? 0) + 1);
    } catch {
      answers.set(0, (answers.get(0) ?? 0) + 1);
    }
    done += 1;
  }
}

console.log('attacking');
void Promise.all(Array.from({ length: attack.atOnce }, attacker)).then(() => {
  console.log(JSON.stringify({ done, answers: Object.fromEntries(answers) }));
  process.exit(0);
});
