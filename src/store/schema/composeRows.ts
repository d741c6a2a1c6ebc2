/** Stored rows of what is composed: templates, their versions, and files. */
import type { Severity } from '../../core/finding';
import type { Mapping } from '../../core/templates/mapping';
import type { Category, Template, Variant } from '../../core/templates/template';

/** `platform`: approved by a business-chat platform; `plain`: an SMS text; `reply`: for people at the desk. */
export type TemplateKind = 'platform' | 'plain' | 'reply';

export interface TemplateRow {
  id: string;
  kind: TemplateKind;
  /** The account at the platform; null for what no platform judges. */
  account_id: string | null;
  name: string;
  category: Category;
  variants: Variant[];
  /** The platform's id, once it was submitted. */
  remote_id: string | null;
  created_at: number;
  changed_at: number;
  changed_by: string;
  archived_at: number | null;
}

export type VersionState = 'in-review' | 'approved' | 'rejected' | 'paused' | 'retired';

/** A platform's reason, in its own words, with the part it is about where it says so. */
export interface StoredReason {
  text: string;
  code?: string;
  part?: string;
  language?: string;
}

export interface TemplateVersionRow {
  id: string;
  template_id: string;
  number: number;
  content: Template;
  state: VersionState;
  remote_id: string;
  edition: string;
  /** What the platform filed it under; null while it has not said. */
  filed_as: Category | null;
  reasons: StoredReason[];
  submitted_at: number;
  submitted_by: string;
  decided_at: number | null;
  usual_minutes: number | null;
  checked_at: number | null;
  next_check_at: number | null;
  findings: { code: string; severity: Severity; grade?: string }[];
  likelihood: number;
}

export interface TemplateEventRow {
  id?: number;
  template_id: string;
  at: number;
  what: 'created' | 'saved' | 'submitted' | 'refused' | VersionState | 'refiled' | 'archived';
  version: number | null;
  by: string;
  detail: { said?: string } | null;
}

export interface MediaFileRow {
  id: string;
  name: string;
  type: string;
  bytes: number;
  content: Buffer;
  created_at: number;
}

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
