/** Texts made of templates: which version serves, which language a person gets, what is said. */

import { channelKind } from '../../core/connect/channelKinds';
import { cause } from '../../core/delivery/causes';
import type { Finding } from '../../core/finding';
import { groupBy } from '../../core/groupBy';
import { sameLanguage, variantFor } from '../../core/templates/mapping';
import { numberedValues, render, renderPlain } from '../../core/templates/render';
import { type Standing, standingOf } from '../../core/templates/standing';
import { type Template, type Variant, variablesOf } from '../../core/templates/template';
import type {
  ChannelRow,
  MessageTemplate,
  ProviderAccountRow,
  TemplateRow,
  TemplateVersionRow,
} from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Unit } from '../../store/store';
import { type Actor, type AppContext, invalid, invalidText, OperationError, requireAccess } from '../context';
import { contentOf } from './templates';

/** A template to be sent; `values` by the names of its variables. */
export interface TemplateChoice {
  /** Its id, or its name where that is one. */
  id: string;
  values: Readonly<Record<string, string>>;
  /** BCP 47; without it the person's own. */
  language?: string;
}

export interface TemplateCatalogue {
  templates: TemplateRow[];
  versions: TemplateVersionRow[];
}

/** What several orders name, read once. */
export async function readCatalogue(unit: Unit, ids: readonly string[]): Promise<TemplateCatalogue> {
  if (ids.length === 0) return { templates: [], versions: [] };
  const wanted = [...new Set(ids)];
  const rows = [
    ...(await unit.templates.all({ id: wanted })),
    ...(await unit.templates.all({ name: wanted, archived_at: null })),
  ];
  return { templates: rows, versions: await unit.templateVersions.all({ template_id: rows.map(({ id }) => id) }) };
}

/** What would be sent of a template now: the version that serves, else what is written. */
export async function servedContent(
  tables: Tables,
  id: string,
): Promise<{ row: TemplateRow; content: Template; version?: TemplateVersionRow } | undefined> {
  const row = await tables.templates.one({ id, archived_at: null });
  if (!row) return undefined;
  const { serving } = standingOf(contentOf(row), await tables.templateVersions.all({ template_id: id }));
  return { row, content: serving?.content ?? contentOf(row), version: serving };
}

export interface TemplateOffer {
  id: string;
  name: string;
  variants: readonly Variant[];
  /** What keeps it from being sent now. */
  problem?: Finding;
}

/** Templates that records may become, as they would be sent now. */
export async function offeredTemplates(ctx: AppContext, actor: Actor): Promise<TemplateOffer[]> {
  requireAccess(actor, 'viewer', 'messages:send');
  const rows = await ctx.store.templates.all(
    { archived_at: null, kind: ['platform', 'plain'] },
    { order: [['name', 'ASC']] },
  );
  return Promise.all(
    rows.map(async ({ id, name }) => ({
      id,
      name,
      variants: (await servedContent(ctx.store, id))?.content.variants ?? [],
      problem: await problemOf(ctx.store, id),
    })),
  );
}

/** What keeps a template from being sent; undefined when nothing does. */
export async function problemOf(tables: Tables, id: string): Promise<Finding | undefined> {
  return (await problemsOf(tables, [id])).get(id);
}

/** The same of many at once. */
export async function problemsOf(tables: Tables, ids: readonly string[]): Promise<Map<string, Finding | undefined>> {
  const [rows, versions, accounts] = await Promise.all([
    tables.templates.allBy('id', ids),
    tables.templateVersions.allBy('template_id', ids),
    tables.accounts.all(),
  ]);
  const byId = new Map(rows.map((row) => [row.id, row]));
  const byTemplate = groupBy(versions, ({ template_id }) => template_id);
  return new Map(
    ids.map((id) => {
      const row = byId.get(id);
      if (!row || row.archived_at !== null)
        return [
          id,
          {
            code: 'template-gone',
            severity: 'error',
            problem: 'Its template was archived.',
            remedy: 'Choose another.',
          },
        ];
      if (row.kind !== 'platform') return [id, undefined];
      const standing = standingOf(contentOf(row), byTemplate.get(id) ?? []);
      const account = accounts.find((each) => each.id === row.account_id);
      return [id, standing.serving ? undefined : unserved(row, standing, account?.name)];
    }),
  );
}

function unserved(row: TemplateRow, { state, newest }: Standing<TemplateVersionRow>, who: string | undefined): Finding {
  const code =
    state === 'draft' ? 'template-not-submitted' : state === 'paused' ? 'template-paused' : 'template-not-approved';
  const said =
    state === 'in-review'
      ? 'it is in review'
      : [state === 'paused' ? undefined : `it is ${state}`, newest?.reasons[0]?.text].filter(Boolean).join(': ') ||
        undefined;
  const { explain, remedy } = cause(code);
  return { code, severity: 'error', problem: explain({ who, subject: row.name, said }), remedy };
}

export interface TemplateText {
  text: string;
  /** What stands above it where it is a mail. */
  subject?: string;
  /** Answers that may be pressed. */
  choices?: string[];
  /** Absent for what no platform judges. */
  template?: MessageTemplate;
}

/** Throws what keeps a template from being sent, at the field of the order that names it. */
export function textOf(
  catalogue: TemplateCatalogue,
  choice: TemplateChoice,
  { channel, account, language }: { channel: ChannelRow; account: ProviderAccountRow; language?: string },
): TemplateText {
  const row =
    catalogue.templates.find(({ id }) => id === choice.id) ??
    catalogue.templates.find(({ name }) => name === choice.id);
  if (!row)
    throw invalidText('template', `There is no template “${choice.id}”.`, 'Use the id or the name of a template.');
  if (row.archived_at !== null) throw invalidText('template', `${row.name} was archived.`, 'Choose another template.');
  const served =
    row.kind === 'platform' ? servingOf(row, catalogue.versions, channel, account) : { content: contentOf(row) };
  const mail = channelKind(channel.kind).subjects === true;
  const chosen = chooseVariant(row.name, served.content, choice.language, language);
  const variant = row.kind === 'platform' || mail ? chosen : { ...chosen, header: undefined };
  const variables = variablesOf(variant);
  const unknown = Object.keys(choice.values).find(
    (name) => !variables.includes(name) && !knownSomewhere(served.content, name),
  );
  if (unknown !== undefined)
    throw invalidText(
      'template.values',
      `${row.name} has no variable “${unknown}”.`,
      `It has ${variables.join(', ') || 'none'}.`,
    );
  const plain = row.kind === 'platform' ? undefined : renderPlain(variant, choice.values, { mail });
  const { text, findings } = plain ?? render(variant, choice.values);
  const [finding] = findings;
  if (finding)
    throw new OperationError(
      'invalid',
      finding.problem,
      findings.map((each) => ({ field: `template.values.${each.variable}`, finding: each })),
    );
  if (!('version' in served)) return { text, subject: plain?.subject, choices: plain?.choices };
  const { version } = served;
  return {
    text,
    template: {
      id: row.id,
      version: version.number,
      remote_id: version.remote_id,
      edition: version.edition,
      language: variant.language,
      ...(language && !choice.language && !sameLanguage(variant.language, language) ? { instead_of: language } : {}),
      values: choice.values,
      numbered: numberedValues(variant, choice.values),
    },
  };
}

function knownSomewhere({ variants }: Template, name: string): boolean {
  return variants.some((variant) => variablesOf(variant).includes(name));
}

function servingOf(
  row: TemplateRow,
  versions: readonly TemplateVersionRow[],
  channel: ChannelRow,
  account: ProviderAccountRow,
) {
  if (row.account_id !== account.id)
    throw invalidText(
      'template',
      `${row.name} is approved for another account than ${channel.name} belongs to.`,
      'Choose a channel of that account, or a plain template.',
    );
  const standing = standingOf(
    contentOf(row),
    versions.filter(({ template_id }) => template_id === row.id),
  );
  if (standing.serving) return { content: standing.serving.content, version: standing.serving };
  throw invalid('template', unserved(row, standing, account.name));
}

function chooseVariant(name: string, { variants }: Template, asked: string | undefined, own: string | undefined) {
  const variant = variantFor(variants, asked ?? own);
  if (!variant) throw new Error('A template stands without a language');
  if (asked && !sameLanguage(variant.language, asked)) {
    const { explain, remedy } = cause('template-language-missing');
    throw new OperationError('invalid', explain({ subject: name }), [
      {
        field: 'template.language',
        finding: {
          code: 'template-language-missing',
          severity: 'error',
          problem: `${name} has no variant in ${asked}; it has ${variants.map(({ language }) => language).join(', ')}.`,
          remedy,
        },
      },
    ]);
  }
  return variant;
}
