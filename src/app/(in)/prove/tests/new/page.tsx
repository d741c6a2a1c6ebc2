import { requireRole } from '../../../../../operations/context';
import { Empty, Page } from '../../../../../ui/primitives/layout';
import { signedIn } from '../../../../_server/session';
import { choicesFor } from '../choices';
import { TestEditor } from '../TestEditor';

export default async function NewTestPage() {
  const { ctx, actor } = await signedIn();
  requireRole(actor, 'administrator');
  const choices = await choicesFor(ctx, actor);
  const [phone] = choices.phones;
  const [channel] = choices.channels;
  return (
    <Page
      title="Write a test"
      purpose="{{ run }} in a text becomes a word that no other run has, so that nothing else is taken for what this test waits for."
    >
      {phone && channel ? (
        <TestEditor
          name=""
          content={{
            stimulus: { kind: 'text', phone: phone[0], channel: channel[0], text: 'Windgap test {{ run }}' },
            expectations: [{ expect: 'routed', route: choices.routes[0]?.[0] ?? '' }],
            times: 1,
          }}
          guardsPublishing={false}
          choices={choices}
        />
      ) : (
        <Empty what="A test needs a channel, and a handset of the bench or a phone verified by code." />
      )}
    </Page>
  );
}
