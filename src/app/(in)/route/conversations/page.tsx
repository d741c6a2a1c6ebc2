export const metadata = { title: 'Conversations' };

export default function ConversationsPage() {
  return (
    <div className="hidden flex-1 place-items-center p-8 text-soft md:grid">
      <p>Choose a conversation to read and answer it.</p>
    </div>
  );
}
