/** The questions a draft asks, each with what is proposed and what was answered. */

export interface Question {
  key: string;
  group: string;
  label: string;
  options: [value: string, label: string][];
  value: string;
  /** Nobody answered it: the value is what is proposed. */
  proposed: boolean;
  /** Nothing works without it. */
  must: boolean;
}

interface Asked {
  key: string;
  group: string;
  label: string;
  options: readonly (readonly [string, string])[];
  proposal: string | undefined;
  must?: boolean;
}

const MOST_OPTIONS = 150;

export class Questions {
  readonly asked: Question[] = [];

  constructor(private readonly answers: Readonly<Record<string, string>>) {}

  /** The answer, or what is proposed while nobody answered. Undefined for none of the options. */
  ask({ key, group, label, options, proposal, must = false }: Asked): string | undefined {
    const known = this.asked.find((question) => question.key === key);
    if (known) return known.value || undefined;
    const answer = Object.hasOwn(this.answers, key) ? this.answers[key] : undefined;
    const offered = options.slice(0, MOST_OPTIONS).map(([value, text]): [string, string] => [value, text]);
    const fits = answer !== undefined && (answer === '' || offered.some(([value]) => value === answer));
    const value = (fits ? answer : proposal) ?? '';
    this.asked.push({ key, group, label, options: offered, value, proposed: !fits, must });
    return value || undefined;
  }
}
