'use client';

import type { WebChatSettings } from '../../../../../core/connect/webChat';
import type { ConnectorView } from '../../../../../operations/accounts';
import { ActionForm, TextField } from '../../../../../ui/forms/ActionForm';
import { CredentialFields } from '../../../../../ui/forms/CredentialFields';
import { EncryptionFields } from '../../../../../ui/forms/EncryptionFields';
import { WebChatFields } from '../../_parts/WebChatFields';
import { openWebChatAction } from '../../channels/actions';
import { connectAction } from '../actions';

export function ConnectForm({ connector }: { connector: ConnectorView }) {
  return (
    <ActionForm
      action={connectAction.bind(null, connector.id)}
      submit="Check and save"
      busy={`Asking ${connector.name}…`}
    >
      <TextField
        name="name"
        label="Connection name"
        help="What your colleagues call this account; only seen here."
        autoFocus
      />
      <CredentialFields fields={connector.fields} />
      {connector.encryption && <EncryptionFields encryption={connector.encryption} />}
    </ActionForm>
  );
}

export function WebChatForm({
  initial,
  textChannels,
}: {
  initial: Partial<WebChatSettings>;
  textChannels: [string, string][];
}) {
  return (
    <ActionForm action={openWebChatAction} submit="Make the chat">
      <TextField name="name" label="Channel name" help="The website or desk it serves." autoFocus />
      <WebChatFields initial={initial} textChannels={textChannels} />
    </ActionForm>
  );
}
