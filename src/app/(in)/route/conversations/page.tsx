import { DocumentTitle } from '../../../../ui/primitives/DocumentTitle';

export default function ConversationsPage() {
  return (
    <div className="hidden flex-1 place-items-center p-8 text-soft md:grid">
      <DocumentTitle of="Conversations" />
      <p>Choose a conversation to read and answer it.</p>
    </div>
  );
}
