/**
 * Liquid as Windgap uses it: a short list of tags and filters, no files, own properties only,
 * unknown names an error rather than an empty string, bounded in memory and time.
 */
import { Liquid, type LiquidOptions } from 'liquidjs';

const LIMITS = {
  ownPropertyOnly: true,
  strictVariables: true,
  strictFilters: true,
  memoryLimit: 1_000_000,
  // Of the clock on the wall, milliseconds: a busy machine stands still for a while, and no innocent text may fail for it.
  renderLimit: 1000,
  parseLimit: 100_000,
  // Whoever asks for a template by name finds nothing: no text is worth a way to the files of the server.
  templates: {},
};

/** Choosing, repeating and naming. What reads another template, or changes how output is treated, is not among them. */
export const TAGS = [
  'assign',
  'capture',
  'case',
  'comment',
  'if',
  'unless',
  'for',
  'break',
  'continue',
  'raw',
  '#',
] as const;

/**
 * Filters on words, numbers, dates and lists. Left out on purpose: `raw`, which would pass a
 * value by the examination every value gets; those that evaluate an expression in a string
 * (`…_exp`); and `sample`, by which the same record gives different texts.
 */
const FILTERS = [
  ...['append', 'prepend', 'capitalize', 'downcase', 'upcase', 'strip', 'lstrip', 'rstrip', 'squish'],
  ...['strip_newlines', 'newline_to_br', 'remove', 'remove_first', 'remove_last', 'replace', 'replace_first'],
  ...['replace_last', 'truncate', 'truncatewords', 'normalize_whitespace', 'number_of_words', 'split', 'slice'],
  ...['escape', 'escape_once', 'xml_escape', 'url_encode', 'url_decode', 'cgi_escape', 'uri_escape', 'json', 'jsonify'],
  ...['base64_encode', 'base64_decode', 'sha256', 'hmac_sha256', 'default'],
  ...['abs', 'at_least', 'at_most', 'ceil', 'divided_by', 'floor', 'minus', 'modulo', 'plus', 'round', 'times'],
  ...['to_integer', 'date', 'date_to_xmlschema', 'date_to_rfc822', 'date_to_string', 'date_to_long_string'],
  ...['join', 'first', 'last', 'size', 'reverse', 'sort', 'sort_natural', 'uniq', 'compact', 'concat', 'map', 'where'],
  ...['sum', 'array_to_sentence_string'],
] as const;

/** An engine with these limits; whatever else is set, it knows no tag and no filter beyond the lists above. */
export function createLiquid(options: Pick<LiquidOptions, 'lenientIf' | 'outputEscape'> = {}): Liquid {
  const engine = new Liquid({ ...options, ...LIMITS });
  keepOnly(engine.tags, TAGS);
  keepOnly(engine.filters, FILTERS);
  return engine;
}

function keepOnly(known: Record<string, unknown>, allowed: readonly string[]): void {
  for (const name of allowed) if (!(name in known)) throw new Error(`Liquid has no “${name}”`);
  for (const name of Object.keys(known)) if (!allowed.includes(name)) delete known[name];
}

export const liquid = createLiquid();

/** What is wrong with a template before anything is put into it; undefined when nothing is. */
export function templateProblem(text: string): string | undefined {
  try {
    liquid.parse(text);
    return undefined;
  } catch (error) {
    return (error as Error).message.replace(/, line:\d+, col:\d+$/, '');
  }
}
