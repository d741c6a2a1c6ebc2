/** Attacks an installation from a process of its own, over and over, so many at once, until its standard input ends. */
interface Attack {
  url: string;
  method?: string;
  headers?: Record<string, string>;
  body?: string;
  /** Octets of a body in place of one that is given. */
  bytes?: number;
  /** Opened and left open, with so long a pause before the next. */
  keepOpen?: boolean;
  atOnce: number;
}

const attack = JSON.parse(process.argv[2] ?? '{}') as Attack;
const body = attack.bytes === undefined ? attack.body : 'x'.repeat(attack.bytes);
let over = false;
let done = 0;
const answers = new Map<number, number>();

process.stdin.on('end', () => {
  over = true;
});
process.stdin.resume();

async function attacker(): Promise<void> {
  while (!over) {
    try {
      const answer = await fetch(attack.url.replace('RANDOM', Math.random().toString(36).slice(2)), {
        method: attack.method ?? 'POST',
        headers: attack.headers,
        body,
        redirect: 'manual',
      });
      answers.set(answer.status, (answers.get(answer.status) ?? 0) + 1);
      if (attack.keepOpen && answer.ok) void answer.body?.getReader().read();
      else await answer.arrayBuffer();
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
