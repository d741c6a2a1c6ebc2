/** Renders the templates of profiles. */
import type { Template } from 'liquidjs';
import { liquid } from '../../core/text/liquid';
import type { BodyTree } from '../profile/pieces';

type Render = (scope: Record<string, unknown>) => string;
const renderers = new Map<string, Render>();

/** Renders a template. Throws with Liquid's message when a name is unknown or a limit is passed. */
export function renderTemplate(template: string, scope: Record<string, unknown>): string {
  let render = renderers.get(template);
  if (!render) {
    render = plainRenderer(template) ?? liquidRenderer(template);
    renderers.set(template, render);
  }
  return render(scope);
}

function liquidRenderer(template: string): Render {
  const parts: Template[] = liquid.parse(template);
  return (scope) => String(liquid.renderSync(parts, scope));
}

const PLAIN_NAME = /\{\{\s*([A-Za-z]\w*(?:\.[A-Za-z]\w*)*)\s*\}\}/;

/**
 * Most templates are words and names, and are rendered for every message and every
 * signature; those need no engine. Whatever it cannot say plainly is left to Liquid,
 * also the wording of errors.
 */
function plainRenderer(template: string): Render | undefined {
  const pieces = template.split(new RegExp(PLAIN_NAME, 'g'));
  const words = pieces.filter((_, index) => index % 2 === 0);
  if (words.some((text) => /\{[{%]|[%}]\}/.test(text))) return undefined;
  const paths = pieces.map((piece, index) => (index % 2 === 1 ? piece.split('.') : []));
  const fallback = liquidRenderer(template);
  return (scope) => {
    let out = '';
    for (let index = 0; index < pieces.length; index++) {
      if (index % 2 === 0) {
        out += pieces[index];
        continue;
      }
      const value = ownValue(scope, paths[index] ?? []);
      if (typeof value !== 'string') return fallback(scope);
      out += value;
    }
    return out;
  };
}

function ownValue(scope: Record<string, unknown>, path: readonly string[]): unknown {
  let value: unknown = scope;
  for (const name of path) {
    if (typeof value !== 'object' || value === null || !Object.hasOwn(value, name)) return undefined;
    value = (value as Record<string, unknown>)[name];
  }
  return value;
}

/** Scheme, host and port of an address that is a template; as it is written where it cannot be read. */
export function originOf(template: string, credentials: Record<string, string>): string {
  try {
    return new URL(renderTemplate(template, { credentials })).origin;
  } catch {
    return template;
  }
}

/** Renders every value of a flat record. */
export function renderRecord(record: Record<string, string>, scope: Record<string, unknown>): Record<string, string> {
  return Object.fromEntries(Object.entries(record).map(([name, value]) => [name, renderTemplate(value, scope)]));
}

/**
 * Renders every text in a tree; numbers, booleans and structure stay as they are. Three
 * kinds of groups stand for something else: `{ $value: a.b }` for a value as it is,
 * `{ $each: a.b, $as: name, $give: … }` for a list with one entry for each of another, and
 * `{ $if: a.b, $give: … }` for what is left out where there is no such value.
 */
export function renderTree(tree: BodyTree, scope: Record<string, unknown>): BodyTree {
  return renderNode(tree, scope) ?? null;
}

function renderNode(tree: BodyTree, scope: Record<string, unknown>): BodyTree | undefined {
  if (typeof tree === 'string') return renderTemplate(tree, scope);
  if (Array.isArray(tree)) return tree.map((entry) => renderTree(entry, scope));
  if (typeof tree !== 'object' || tree === null) return tree;
  const { $value, $each, $as, $if, $give } = tree;
  if (typeof $value === 'string') return ownValue(scope, $value.split('.')) as BodyTree | undefined;
  if (typeof $each === 'string' && typeof $as === 'string' && $give !== undefined) {
    const list = ownValue(scope, $each.split('.'));
    return Array.isArray(list) ? list.map((entry) => renderTree($give, { ...scope, [$as]: entry })) : [];
  }
  if (typeof $if === 'string' && $give !== undefined) {
    const value = ownValue(scope, $if.split('.'));
    return value === undefined || value === null || value === '' ? undefined : renderNode($give, scope);
  }
  const entries = Object.entries(tree).map(([name, value]) => [name, renderNode(value, scope)] as const);
  return Object.fromEntries(entries.filter(([, value]) => value !== undefined)) as BodyTree;
}
