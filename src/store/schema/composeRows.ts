/** Stored rows of what is composed: templates, their versions, and files. */

import type { Severity } from '../../core/finding';
import type { Mapping } from '../../core/templates/mapping';
import type { Category, Template, Variant } from '../../core/templates/template';
import { bytes, define, generated, json, orNull, type RowOf, real, text, whole } from './definition';

/** `platform`: approved by a business-chat platform; `plain`: an SMS text; `reply`: for people at the desk. */
export type TemplateKind = 'platform' | 'plain' | 'reply';

/** A version as it is handed to a platform, written down before it is. */
export interface Submission {
  number: number;
  content: Template;
  at: number;
  by: string;
  findings: { code: string; severity: Severity; grade?: string }[];
  likelihood: number;
}

export const templates = define('templates', ['id'], {
  id: text(),
  kind: text<TemplateKind>(),
  /** The account at the platform; null for what no platform judges. */
  account_id: orNull(text()),
  name: text(),
  category: text<Category>(),
  variants: json<Variant[]>(),
  /** The platform's id, once it was submitted. */
  remote_id: orNull(text()),
  /** The submission under way; left behind where its answer was lost. */
  submitting: orNull(json<Submission>()),
  created_at: whole(),
  changed_at: whole(),
  changed_by: text(),
  archived_at: orNull(whole()),
});
export type TemplateRow = RowOf<typeof templates>;

export type VersionState = 'in-review' | 'approved' | 'rejected' | 'paused' | 'retired';

/** A platform's reason, in its own words, with the part it is about where it says so. */
export interface StoredReason {
  text: string;
  code?: string;
  part?: string;
  language?: string;
}

export const templateVersions = define('template_versions', ['id'], {
  id: text(),
  template_id: text(),
  number: whole(),
  content: json<Template>(),
  state: text<VersionState>(),
  remote_id: text(),
  edition: text(),
  /** What the platform filed it under; null while it has not told. */
  filed_as: orNull(text<Category>()),
  reasons: json<StoredReason[]>(),
  submitted_at: whole(),
  submitted_by: text(),
  decided_at: orNull(whole()),
  usual_minutes: orNull(whole()),
  checked_at: orNull(whole()),
  next_check_at: orNull(whole()),
  findings: json<{ code: string; severity: Severity; grade?: string }[]>(),
  likelihood: real(),
});
export type TemplateVersionRow = RowOf<typeof templateVersions>;

export const templateEvents = define('template_events', ['id'], {
  id: generated(),
  template_id: text(),
  at: whole(),
  what: text<'created' | 'saved' | 'submitted' | 'refused' | VersionState | 'refiled' | 'archived'>(),
  version: orNull(whole()),
  by: text(),
  detail: orNull(json<{ said?: string }>()),
});
export type TemplateEventRow = RowOf<typeof templateEvents>;

export const mediaFiles = define('media_files', ['id'], {
  id: text(),
  name: text(),
  type: text(),
  bytes: whole(),
  content: bytes(),
  created_at: whole(),
});
export type MediaFileRow = RowOf<typeof mediaFiles>;

/** Which template records become, and where its values come from. */
export interface TemplateUse {
  id: string;
  mapping: Mapping;
}

/** What a message was made of: the version that was sent, in which language, with which values by variable. */
export interface MessageTemplate {
  id: string;
  version: number;
  remote_id: string;
  edition: string;
  language: string;
  /** The person's own language, where the template has no variant in it and this one was taken instead. */
  instead_of?: string;
  values: Readonly<Record<string, string>>;
  /** In the order of the platform's numbers. */
  numbered: string[];
}
