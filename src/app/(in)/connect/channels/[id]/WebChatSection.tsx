import type { WebChatSettings } from '../../../../../core/connect/webChat';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { CarryValue } from '../../../../../ui/primitives/CopyButton';
import { Facts, Panel, Section } from '../../../../../ui/primitives/layout';
import { WebChatFields } from '../../_parts/WebChatFields';
import { saveWebChatAction } from '../actions';

interface Props {
  channelId: string;
  settings: WebChatSettings;
  snippet: string;
  textChannels: [string, string][];
  admin: boolean;
}

export function WebChatSection({ channelId, settings, snippet, textChannels, admin }: Props) {
  return (
    <Section
      title="The chat on the website"
      id="chat"
      aside={
        admin && (
          <DialogForm
            open="Change the chat"
            title="The chat on the website"
            submit="Save"
            action={saveWebChatAction.bind(null, channelId)}
          >
            <WebChatFields initial={settings} textChannels={textChannels} />
          </DialogForm>
        )
      }
    >
      <Panel className="grid gap-4 p-4">
        {admin && (
          <CarryValue
            label="Snippet"
            direction="The website’s pages load this; Windgap owns it"
            value={snippet}
            note="Before the closing body tag of every page that is to have the chat. It sets no cookies and loads nothing from anywhere else."
          />
        )}
        <Facts
          items={[
            ['Allowed websites', settings.origins.join(', ')],
            ['Greeting', settings.greeting],
            ['Greeting of those who return', settings.returningGreeting || 'the same'],
            [
              'Asked before the first words',
              [settings.askName && 'name', settings.askPhone && 'phone'].filter(Boolean).join(', ') || 'nothing',
            ],
            ['Consent', settings.consentText || 'not asked for'],
            [
              'Answers',
              settings.answers === 'live'
                ? 'live, in the browser'
                : `later by text over ${textChannels.find(([id]) => id === settings.replyChannelId)?.[1] ?? 'a channel that is gone'}`,
            ],
          ]}
        />
      </Panel>
    </Section>
  );
}
