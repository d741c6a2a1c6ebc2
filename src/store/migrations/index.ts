import { first } from './0001-first';
import { connect } from './0002-connect';
import { messages } from './0003-messages';
import { apps } from './0004-apps';
import { automations } from './0005-automations';
import { records } from './0006-records';
import { sheets } from './0007-sheets';
import { feeds } from './0008-feeds';
import { templates } from './0009-templates';
import { contacts } from './0010-contacts';
import type { Migration } from './migration';

export const MIGRATIONS: readonly Migration[] = [
  first,
  connect,
  messages,
  apps,
  automations,
  records,
  sheets,
  feeds,
  templates,
  contacts,
];
