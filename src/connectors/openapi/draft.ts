/**
 * A connector profile drafted from what a provider publishes: its OpenAPI document, and samples of its answers and
 * posts. Everything that is guessed is a question with a proposal; what is answered is taken instead.
 */

import { stringify } from 'yaml';
import type { Finding } from '../../core/finding';
import { examineProfile } from '../profile/readProfile';
import { readExample } from '../profile/runExamples';
import type { HttpProfile } from '../profile/schema';
import { type ApiDocument, type Described, readDocument } from './document';
import { eventsOf } from './events';
import { fieldsOfSample, fieldsOfSchema, together } from './fields';
import { CALLS, type CallFields, type CallPart, likeliestCall } from './parts';
import { profileOf } from './profileOf';
import { type Question, Questions } from './questions';
import { type ReadSample, readSample, type Sample } from './samples';

export interface DraftInput {
  document: string;
  samples: Sample[];
  /** By the key of a question; an empty text is “none of them”. */
  answers: Record<string, string>;
  /** The secret with which a sample post was sealed. Used for trying, and written nowhere. */
  secret: string;
}

export interface Draft {
  /** What is wrong with the document or a sample. */
  mistakes: Finding[];
  questions: Question[];
  /** Of what samples may be: calls of the document, and “post”. */
  samplesOf: [id: string, label: string][];
  /** The profile; empty while there is no document. */
  text: string;
  /** What neither the document nor a sample says. */
  unknown: string[];
  findings: Finding[];
}

const CALL_LABELS: Record<CallPart, string> = {
  account: 'Account check',
  numbers: 'Number list',
  send: 'Send',
  setInbound: 'Set inbound URL',
};

export async function draftProfile(input: DraftInput): Promise<Draft> {
  const { document, mistakes } = await readDocument(input.document);
  const samples: ReadSample[] = [];
  for (const [index, sample] of input.samples.entries()) {
    if (sample.text.trim() === '') continue;
    const read = readSample(sample);
    if (read) samples.push(read);
    else mistakes.push(sampleMistake(`Sample ${index + 1} is neither JSON nor a form.`));
  }
  const ofPosts: Draft['samplesOf'] = [['post', 'A post to us']];
  if (!document) return { mistakes, questions: [], samplesOf: ofPosts, text: '', unknown: [], findings: [] };
  const calls = document.calls.map((call) => fieldsOfCall(document, call, samples));
  const questions = new Questions(input.answers);
  const chosen: Partial<Record<CallPart, CallFields>> = {};
  for (const part of CALLS) {
    const id = questions.ask({
      key: `call.${part}`,
      group: 'Requests',
      label: CALL_LABELS[part],
      options: calls.map(({ call }) => [
        call.id,
        call.summary ? `${call.id} · ${call.summary}`.slice(0, 120) : call.id,
      ]),
      proposal: likeliestCall(calls, part)?.call.id,
      must: part === 'send' || part === 'numbers' || part === 'account',
    });
    const found = calls.find(({ call }) => call.id === id);
    if (found) chosen[part] = found;
  }
  mistakes.push(...disagreements(document, calls, samples));
  const made = profileOf({
    document,
    chosen,
    events: eventsOf(document, samples),
    samples,
    questions,
    secret: input.secret,
  });
  const bare = stringify(made.profile, { lineWidth: 0 });
  const reading = examineProfile(bare);
  const examples = reading.ok && 'account' in reading.profile ? await recorded(reading.profile, chosen, samples) : [];
  const text = examples.length > 0 ? stringify({ ...made.profile, examples }, { lineWidth: 0 }) : bare;
  return {
    mistakes,
    questions: questions.asked,
    samplesOf: [...ofPosts, ...calls.map(({ call }): [string, string] => [call.id, `The answer to ${call.id}`])],
    text,
    unknown: made.unknown,
    findings: reading.ok ? [] : reading.findings,
  };
}

function fieldsOfCall(document: ApiDocument, call: Described, samples: readonly ReadSample[]): CallFields {
  const good =
    call.answers.find(({ status }) => /^2/.test(status)) ?? call.answers.find(({ status }) => status === 'default');
  const seen = samples
    .filter((sample) => sample.of === call.id && sample.status < 300)
    .flatMap(({ value }) => fieldsOfSample(value));
  return {
    call,
    takes: call.body ? fieldsOfSchema(document, call.body.schema) : [],
    gives: together(good ? fieldsOfSchema(document, good.schema) : [], seen),
  };
}

/** What samples have otherwise than the document says: it is not what the provider does. */
function disagreements(document: ApiDocument, calls: readonly CallFields[], samples: readonly ReadSample[]): Finding[] {
  return samples.flatMap((sample) => {
    const call = calls.find((entry) => entry.call.id === sample.of)?.call;
    const answer =
      call?.answers.find(({ status }) => matches(status, sample.status)) ??
      call?.answers.find(({ status }) => status === 'default');
    if (!answer?.schema) return [];
    const described = fieldsOfSchema(document, answer.schema);
    if (described.length === 0) return [];
    return fieldsOfSample(sample.value).flatMap((seen) => {
      const said = described.find(({ path }) => path === seen.path);
      if (said && (said.type === seen.type || said.type === 'any' || seen.type === 'any')) return [];
      return said
        ? [
            sampleMistake(
              `${sample.of}: the sample has a ${seen.type} at ${seen.path}, the document says ${said.type}. The sample is believed.`,
            ),
          ]
        : [sampleMistake(`${sample.of}: the sample has something at ${seen.path} of which the document says nothing.`)];
    });
  });
}

const matches = (written: string, status: number) =>
  written === String(status) || written.toUpperCase() === `${Math.floor(status / 100)}XX`;

const sampleMistake = (problem: string): Finding => ({
  code: 'sample-differs',
  severity: 'attention',
  problem,
  remedy: 'Ask the provider which of the two it means.',
});

/** The samples as the profile’s examples: what it reads of them now is what it must go on to read. */
async function recorded(
  profile: HttpProfile,
  chosen: Partial<Record<CallPart, CallFields>>,
  samples: readonly ReadSample[],
) {
  const made: object[] = [];
  for (const sample of samples) {
    const what = (['account', 'numbers', 'send'] as const).find((part) => chosen[part]?.call.id === sample.of);
    const { body, status } = sample;
    const bare = sample.of === 'post' ? { posts: body, reads: null } : what && { answers: what, status, body };
    if (!bare) continue;
    const outcome = await readExample(profile, bare);
    if ('reads' in outcome) made.push({ ...bare, reads: outcome.reads });
    else if ('answers' in bare) made.push({ ...bare, refused: outcome.refused });
  }
  return made;
}
