import { type Source, table } from './model';
import type * as rows from './routingRows';

export function routingTables(s: Source) {
  return {
    routeRevisions: table<rows.RouteRevisionRow>(s, 'route_revisions', ['number'], {
      number: 'whole',
      content: 'json',
      published_at: 'whole',
      by: 'text',
      note: 'text',
    }),
    routeDrafts: table<rows.RouteDraftRow>(s, 'route_drafts', ['id'], {
      id: 'text',
      content: 'json',
      changed_at: 'whole',
      by: 'text',
    }),
    messageRoutings: table<rows.MessageRoutingRow>(s, 'message_routings', ['message_id'], {
      message_id: 'text',
      revision: 'whole',
      outcome: 'text',
      routes: 'json',
      facts: 'json',
      cause: 'text',
      at: 'whole',
    }),
    replays: table<rows.ReplayRow>(s, 'replays', ['id'], {
      id: 'text',
      before: 'json',
      after: 'json',
      state: 'text',
      messages: 'whole',
      done: 'whole',
      summary: 'json',
      created_at: 'whole',
      by: 'text',
      ended_at: 'whole',
    }),
    conversationNotes: table<rows.ConversationNoteRow>(s, 'conversation_notes', ['id'], {
      id: 'text',
      conversation_id: 'text',
      at: 'whole',
      by: 'text',
      kind: 'text',
      text: 'text',
    }),
    presence: table<rows.PresenceRow>(s, 'conversation_presence', ['conversation_id', 'user_id'], {
      conversation_id: 'text',
      user_id: 'text',
      at: 'whole',
      writing: 'whole',
    }),
    todos: table<rows.TodoRow>(s, 'todos', ['id'], {
      id: 'text',
      contact_id: 'text',
      title: 'text',
      why: 'text',
      ref: 'text',
      created_at: 'whole',
      by: 'text',
      done_at: 'whole',
      done_by: 'text',
    }),
  };
}
