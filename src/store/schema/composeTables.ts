import type * as rows from './composeRows';
import { type Source, table } from './model';

export function composeTables(s: Source) {
  return {
    templates: table<rows.TemplateRow>(s, 'templates', ['id'], {
      id: 'text',
      kind: 'text',
      account_id: 'text',
      name: 'text',
      category: 'text',
      variants: 'json',
      remote_id: 'text',
      created_at: 'whole',
      changed_at: 'whole',
      changed_by: 'text',
      archived_at: 'whole',
    }),
    templateVersions: table<rows.TemplateVersionRow>(s, 'template_versions', ['id'], {
      id: 'text',
      template_id: 'text',
      number: 'whole',
      content: 'json',
      state: 'text',
      remote_id: 'text',
      edition: 'text',
      filed_as: 'text',
      reasons: 'json',
      submitted_at: 'whole',
      submitted_by: 'text',
      decided_at: 'whole',
      usual_minutes: 'whole',
      checked_at: 'whole',
      next_check_at: 'whole',
      findings: 'json',
      likelihood: 'real',
    }),
    templateEvents: table<rows.TemplateEventRow>(
      s,
      'template_events',
      ['id'],
      { id: 'whole', template_id: 'text', at: 'whole', what: 'text', version: 'whole', by: 'text', detail: 'json' },
      true,
    ),
    mediaFiles: table<rows.MediaFileRow>(s, 'media_files', ['id'], {
      id: 'text',
      name: 'text',
      type: 'text',
      bytes: 'whole',
      content: 'bytes',
      created_at: 'whole',
    }),
  };
}
