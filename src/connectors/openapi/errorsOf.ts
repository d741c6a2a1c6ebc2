/** How refusals are told and what they mean, from answers the document calls refusals and from samples of them. */
import type { CauseCode } from '../../core/delivery/causes';
import { cause } from '../../core/delivery/causes';
import { type ApiDocument, type Described, list } from './document';
import { type Field, fieldsOfSample, fieldsOfSchema, readSchema, step, together } from './fields';
import { choice, type Parts, present } from './given';
import { likeliest, wordsOf } from './parts';

/** What a code of a refusal may mean; anything else is “refused for a reason not known”, with its words. */
const MEANINGS: readonly CauseCode[] = [
  'credential-refused',
  'credential-lacks-permission',
  'credential-expired',
  'account-disabled',
  'credit-gone',
  'limit-reached',
  'throttled',
  'sender-not-owned',
  'address-malformed',
  'number-not-in-service',
  'country-off',
  'content-refused',
  'opted-out',
  'registration-missing',
  'window-closed',
  'provider-error',
];

/** Where every answer says whether it accepts, for a provider that refuses with a status of 200 as well. */
export interface Acceptance {
  acceptedWhere?: { at: string; is: string[] };
  /** Fields that only refusals have. */
  refusals: Field[];
}

export function acceptanceOf({ document, chosen }: Parts, sentId: string | undefined): Acceptance {
  const branches = Object.values(chosen).flatMap(({ call }) => branchesOf(document, call));
  const send = chosen.send && sentId ? branchesOf(document, chosen.send.call) : [];
  const good = send.find(({ fields }) => fields.some(({ path }) => path === sentId));
  const bad = good ? send.filter((branch) => branch !== good) : [];
  const refusals = bad
    .flatMap(({ fields }) => fields)
    .filter(({ path }) => !good?.fields.some((field) => field.path === path));
  for (const { name, value } of good?.marks ?? []) {
    const other = bad.some(({ marks }) => marks.some((mark) => mark.name === name && mark.value !== value));
    const everywhere = Object.values(chosen).every(({ call }) => {
      const own = branches.filter((branch) => branch.call === call);
      return (
        own.length === 0 || own.some(({ marks }) => marks.some((mark) => mark.name === name && mark.value === value))
      );
    });
    if (other && everywhere) return { acceptedWhere: { at: `$${step(name)}`, is: [value] }, refusals };
  }
  return { refusals };
}

interface Branch {
  call: Described;
  fields: Field[];
  /** Words that always stand in it. */
  marks: { name: string; value: string }[];
}

function branchesOf(document: ApiDocument, call: Described): Branch[] {
  const answer = call.answers.find(({ status }) => /^2/.test(status));
  const read = answer && readSchema(document, answer.schema);
  const shapes = read ? (read.choices.length > 0 ? read.choices.map(({ schema }) => schema) : [answer.schema]) : [];
  return shapes.map((schema) => ({
    call,
    fields: fieldsOfSchema(document, schema),
    marks: readSchema(document, schema).properties.flatMap(([name, inner]) => {
      const { node } = readSchema(document, inner);
      const only = node.const ?? (list(node.enum).length === 1 ? list(node.enum)[0] : undefined);
      return only === undefined || typeof only === 'object' ? [] : [{ name, value: String(only) }];
    }),
  }));
}

export function errorsOf(
  { document, chosen, samples, questions }: Parts,
  { acceptedWhere, refusals }: Acceptance,
): { errors: object; unknown: string[] } {
  const calls = Object.values(chosen).map(({ call }) => call);
  const described = calls.flatMap(({ answers }) =>
    answers
      .filter(({ status }) => !/^[23]/.test(status))
      .flatMap(({ schema }) => (schema ? fieldsOfSchema(document, schema) : [])),
  );
  const refused = samples.filter(({ of, status }) => of !== 'post' && status >= 300);
  const inside = samples.filter(
    ({ of, status, value }) => status < 300 && calls.some(({ id }) => id === of) && looksRefused(value),
  );
  const fields = together(
    [...refusals, ...described],
    [...refused, ...inside].flatMap(({ value }) => fieldsOfSample(value)),
  );
  const unique = [...new Map(fields.map((field) => [field.path, field])).values()];
  const code = questions.ask({
    key: 'errors.code',
    group: 'Errors',
    label: 'Error code',
    options: unique.map(choice),
    proposal: likeliest(unique, 'code')?.path,
  });
  const text = questions.ask({
    key: 'errors.text',
    group: 'Errors',
    label: 'Error text',
    options: unique.map(choice),
    proposal: likeliest(unique, 'said', [code])?.path,
  });
  const values = unique.find(({ path }) => path === code)?.values ?? [];
  const rules = values.slice(0, 30).flatMap((value) => {
    const means = questions.ask({
      key: `code.${value}`,
      group: 'Errors',
      label: `“${value}” means`,
      options: MEANINGS.map((name) => [name, cause(name).title]),
      proposal: causeOf(value),
    });
    return means ? [{ code: value, cause: means }] : [];
  });
  const inSuccess = !acceptedWhere && (refusals.length > 0 || inside.length > 0) ? code : undefined;
  const open = values.filter((value) => !rules.some((rule) => rule.code === value));
  return {
    errors: present({
      code,
      text,
      acceptedWhere,
      refusedWhere: inSuccess,
      // What a status means by itself: RFC 9110, section 15.5.2, and RFC 6585, section 4.
      rules: [...rules, { status: 401, cause: 'credential-refused' }, { status: 429, cause: 'throttled' }],
    }),
    unknown: [
      ...(code ? [] : ['Where a refusal says its code: refusals are told by their status and words.']),
      ...(open.length > 0
        ? [`What the codes ${open.slice(0, 8).join(', ')} mean: such a refusal is shown with the provider’s words.`]
        : []),
    ],
  };
}

const looksRefused = (value: unknown) =>
  fieldsOfSample(value).some(
    (field) =>
      wordsOf(field.path).some((word) => ['error', 'errors', 'failure', 'why', 'err'].includes(word)) &&
      field.values.length > 0,
  );

function causeOf(code: string): CauseCode | undefined {
  const said = wordsOf(code).join(' ');
  if (
    /\b(key|token|credentials?|auth\w*|password|login)\b.*\b(invalid|wrong|unknown|bad|refused)|unauthori[sz]ed|(invalid|bad|wrong) (key|token|credentials?)/.test(
      said,
    )
  )
    return 'credential-refused';
  if (
    /\b(credit|balance|funds)\b.*\b(exhausted|gone|low|insufficient|empty)|(no|insufficient) (credit|balance|funds)/.test(
      said,
    )
  )
    return 'credit-gone';
  if (/too many|rate limit|throttl/.test(said)) return 'throttled';
  if (/\b(line|sender|number|from)\b.*\bnot owned/.test(said)) return 'sender-not-owned';
  if (
    /\b(recipient|destination|to)\b.*\b(invalid|malformed|bad)|(invalid|bad) (recipient|destination|number)/.test(said)
  )
    return 'address-malformed';
  return undefined;
}
