import 'server-only';
import { z } from 'zod';
import { OperationError } from '../../operations/context';
import { field } from './forms';

const MENDS: Record<string, string> = {
  name: 'Write the name colleagues know you by.',
  email: 'Write it as name@example.org.',
  password: 'A few unrelated words are easier to remember than symbols.',
};

const person = z.object({
  name: z.string().trim().min(1, 'The name is empty.').max(80),
  email: z.email('This is not an e-mail address.').max(200),
  // What is wrong with it is judged where it is taken.
  password: z.string().max(1000),
});

const given = (form: FormData) => ({
  name: field(form, 'name'),
  email: field(form, 'email').trim(),
  password: field(form, 'password'),
});

/** Name, e-mail and password of a new person. Throws the findings by field. */
export function readPersonForm(form: FormData): z.infer<typeof person> {
  return read(person.safeParse(given(form)));
}

/** Name and e-mail of somebody who will choose a password. */
export function readInvitation(form: FormData): Pick<z.infer<typeof person>, 'name' | 'email'> {
  return read(person.omit({ password: true }).safeParse(given(form)));
}

function read<Value>(parsed: z.ZodSafeParseResult<Value>): Value {
  if (parsed.success) return parsed.data;
  const findings = parsed.error.issues.map((issue) => {
    const name = String(issue.path[0]);
    return {
      field: name,
      finding: { code: 'invalid', severity: 'error' as const, problem: issue.message, remedy: MENDS[name] ?? '' },
    };
  });
  throw new OperationError('invalid', 'Some fields need another look.', findings);
}
