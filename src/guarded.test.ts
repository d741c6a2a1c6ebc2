/**
 * That nothing is done unasked: every operation that knows who does something judges whether they may, and every action
 * of a page finds out who that is. Read from the code itself, so that a new one without its check fails here.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { expect, test } from 'vitest';

const SRC = import.meta.dirname;

const files = readdirSync(SRC, { recursive: true, encoding: 'utf8' })
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.tsx?$/.test(file))
  .map((file) => {
    const text = readFileSync(join(SRC, file), 'utf8');
    return { file, text, tree: ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true) };
  });

interface Found {
  file: string;
  name: string;
  exported: boolean;
  parameters: readonly ts.ParameterDeclaration[];
  body: ts.Node;
}

function functionsOf({ file, tree }: (typeof files)[number]): Found[] {
  const found: Found[] = [];
  for (const statement of tree.statements) {
    const exported =
      ts.canHaveModifiers(statement) &&
      (ts.getModifiers(statement) ?? []).some(({ kind }) => kind === ts.SyntaxKind.ExportKeyword);
    if (ts.isFunctionDeclaration(statement) && statement.body && statement.name)
      found.push({
        file,
        name: statement.name.text,
        exported,
        parameters: [...statement.parameters],
        body: statement.body,
      });
    if (ts.isVariableStatement(statement))
      for (const { name, initializer } of statement.declarationList.declarations)
        if (initializer && (ts.isArrowFunction(initializer) || ts.isFunctionExpression(initializer)))
          found.push({
            file,
            name: name.getText(),
            exported,
            parameters: [...initializer.parameters],
            body: initializer.body,
          });
  }
  return found;
}

function callsIn(body: ts.Node): ts.CallExpression[] {
  const calls: ts.CallExpression[] = [];
  const visit = (node: ts.Node) => {
    if (ts.isCallExpression(node)) calls.push(node);
    ts.forEachChild(node, visit);
  };
  visit(body);
  return calls;
}

const mentions = (call: ts.CallExpression, name: string) =>
  call.arguments.some((argument) => new RegExp(`\\b${name}\\b`).test(argument.getText()));

/** What takes somebody and needs no check of its own. */
const HARMLESS: Record<string, string> = {
  'operations/context/actor.ts hasRole': 'is the check',
  'operations/context/actor.ts requireRole': 'is the check',
  'operations/context/actor.ts requireAccess': 'is the check',
  'operations/context/actor.ts requireScope': 'is the check',
  'operations/context/appSight.ts narrowedApp': 'is the check',
  'operations/context/appSight.ts seesAny': 'is the check',
  'operations/context/audit.ts recordAudit': 'writes who did what, for whoever has judged it',
  'operations/audit/noted.ts noteRefusal': 'writes who was refused, by whoever judged it',
  'operations/runs/automationChanges.ts noteAutomation': 'writes who changed it, for whoever has judged it',
  'operations/conversations/conversationWork.ts whereOfView': 'makes a condition of words',
  'operations/conversations/conversationWork.ts teamsOf': 'is about whoever asks',
  'operations/context/actor.ts requireConfirmed': 'is the check',
  'operations/context/reach.ts reachOf': 'is the check',
  'operations/context/reach.ts reachedChanges': 'is the check',
  'operations/context/reach.ts readingReachOf': 'is the check',
  'operations/context/reach.ts requireReachedMessage': 'is the check',
  'operations/context/reach.ts requireReachedConversation': 'is the check',
  'operations/context/reach.ts requireReached': 'is the check',
  'operations/conversations/reachedConversation.ts reachedConversation': 'is the check',
  'operations/people/factors/change.ts noteFactorChange': 'writes who changed it, for whoever has judged it',
  'operations/people/sessions.ts endSessionsOf': 'ends what whoever has judged it is the reason for',
  'operations/apps/webhooks/subscriptions.ts standing': 'lets an app find its own only',
};

/** What touches them without asking again. */
const UNASKED: Record<string, string> = {
  'operations/people/people.ts changePassword': 'wants the present password',
  'operations/channels/channels.ts openChannel': 'makes an address that nobody has yet',
  'operations/channels/webChat.ts openWebChat': 'makes an address that nobody has yet',
  'operations/channels/reservedAddresses.ts reservedAddress': 'makes an address that nobody has yet',
};

const operations = files.filter(({ file }) => file.startsWith('operations/')).flatMap(functionsOf);

test('every operation that knows who does something judges whether they may', () => {
  const knowing = operations.filter(({ parameters }) =>
    parameters.some(({ type }) => type && /^(?:Actor|Extract<Actor\b.*)$/.test(type.getText())),
  );
  const judging = new Set<string>();
  const actorOf = ({ parameters }: Found) =>
    parameters.find(({ type }) => type && /^(?:Actor|Extract<Actor\b.*)$/.test(type.getText()))?.name.getText() ??
    'actor';
  for (let before = -1; before !== judging.size; ) {
    before = judging.size;
    for (const each of knowing) {
      const actor = actorOf(each);
      const judges = callsIn(each.body).some((call) => {
        const callee = call.expression.getText();
        return (
          (/^require(?!Reach|Confirmed)\w*$|^hasRole$/.test(callee) || judging.has(callee)) && mentions(call, actor)
        );
      });
      if (judges) judging.add(each.name);
    }
  }
  const open = knowing.filter(
    ({ file, name, exported }) => exported && !judging.has(name) && !(`${file} ${name}` in HARMLESS),
  );
  expect(knowing.length).toBeGreaterThan(200);
  expect(open.map(({ file, name }) => `${file} ${name}`)).toEqual([]);
  const known = new Set(knowing.map(({ file, name }) => `${file} ${name}`));
  expect(Object.keys(HARMLESS).filter((each) => !known.has(each))).toEqual([]);
});

/** What writes a secret, a person or a key, and what says that it was asked again who it is. */
const TOUCHES =
  /\bunit\.(apiKeys|users|passkeys|entryCodes)\.(insert|change|remove)\(|\bsealer\.seal\(|\bsealed_\w+:(?! _)|inbound_token:/;

test('whoever touches secrets, people or keys has shown lately that it is they', () => {
  const touching = operations.filter(
    ({ parameters, exported, body }) =>
      exported &&
      TOUCHES.test(body.getText()) &&
      parameters.some(({ type }) => type && /^(?:Actor|Extract<Actor\b.*)$/.test(type.getText())),
  );
  const asked = new Set(
    operations.filter(({ body }) => /\brequireConfirmed\(/.test(body.getText())).map(({ name }) => name),
  );
  const open = touching.filter(
    ({ file, name, body }) =>
      !(`${file} ${name}` in UNASKED) &&
      !asked.has(name) &&
      !callsIn(body).some((call) => asked.has(call.expression.getText())),
  );
  expect(touching.length).toBeGreaterThan(20);
  expect(open.map(({ file, name }) => `${file} ${name}`)).toEqual([]);
});

/** Actions of people who are not signed in yet, by file. */
const BEFORE_SIGNING_IN = [
  'app/sign-in/actions.ts',
  'app/sign-in/second/actions.ts',
  'app/welcome/actions.ts',
  'app/enter/actions.ts',
];
/** What actions call without saying who calls: it changes nothing, or is about whoever calls. */
const CALLED_BY_ANYBODY = new Set(['loadChannel', 'refuseDuringDrill', 'entryLink']);

const actions = files.filter(({ text }) => /^['"]use server['"];/.test(text));

test('every action of a page finds out who does it, and says so to what it calls', () => {
  const taken = new Map(
    operations
      .filter(({ exported, parameters }) => exported && parameters[0]?.type?.getText() === 'AppContext')
      .map((each) => [each.name, each]),
  );
  const problems = actions
    .filter(({ file }) => !BEFORE_SIGNING_IN.includes(file))
    .flatMap((source) => {
      const signing = new Set(['signedIn', 'requireSession']);
      const own = functionsOf(source);
      const signs = ({ body }: Found) => callsIn(body).some((call) => signing.has(call.expression.getText()));
      for (let before = -1; before !== signing.size; ) {
        before = signing.size;
        for (const each of own) if (signs(each)) signing.add(each.name);
      }
      return own.flatMap(({ name, exported, body, file }) => {
        const calls = callsIn(body);
        const signed = signing.has(name);
        const unsaid = calls
          .filter((call) => taken.has(call.expression.getText()) && !CALLED_BY_ANYBODY.has(call.expression.getText()))
          .filter((call) => !mentions(call, 'actor') && !mentions(call, 'person'));
        return [
          ...(exported && !signed ? [`${file} ${name} does not sign in`] : []),
          ...unsaid.map((call) => `${file} ${name} calls ${call.expression.getText()} as nobody`),
        ];
      });
    });
  expect(actions.length).toBeGreaterThan(25);
  expect(problems).toEqual([]);
});

/** Shows nothing of anybody, and stands in a frame that needs somebody. */
const WITHOUT_DATA = ['app/(in)/route/conversations/page.tsx'];

test('every page and every address that people open needs somebody who is signed in', () => {
  const open = files
    .filter(({ file }) => /^app\/\(in\)\/.*(?:page\.tsx|route\.ts)$/.test(file))
    .filter(({ text, file }) => {
      if (/\b(?:signedIn|requireSession|currentPerson|currentSession)\(/.test(text)) return false;
      // What is answered by a function beside it.
      const beside = [...text.matchAll(/from '(\.[^']*)'/g)].map(([, path = '']) =>
        join('app', file.slice(4), '..', path),
      );
      return !files.some(
        (other) =>
          beside.some((path) => other.file === `${path}.ts` || other.file === `${path}.tsx`) &&
          /\b(?:signedIn|requireSession|currentPerson|currentSession)\(/.test(other.text),
      );
    })
    .map(({ file }) => file);
  expect(open).toEqual(WITHOUT_DATA);
});
