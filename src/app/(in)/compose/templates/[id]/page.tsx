import { hasRole } from '../../../../../operations/context';
import {
  getTemplate,
  predictFor,
  suggestedVariables,
  templatePurposes,
  templateReaders,
} from '../../../../../operations/templates';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Page } from '../../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { archiveTemplateAction, retireTemplateAction } from '../actions';
import { NewTemplate } from '../NewTemplate';
import { Standing, SubmitTemplate } from './Standing';
import { TemplateEditor } from './TemplateEditor';
import { Versions } from './Versions';

const KINDS = {
  platform: '',
  plain: 'A text for any channel. What is saved is what is sent.',
  reply: 'A reply for people at the desk. What is saved is what they are offered.',
};

export default async function TemplatePage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const page = await orNotFound(getTemplate(ctx, actor, id));
  const { row, standing, versions, events, rules, platform, around } = page;
  const admin = hasRole(actor, 'administrator');
  const [purposes, { prediction, rate }, suggestions, readers] = await Promise.all([
    templatePurposes(ctx, actor),
    predictFor(ctx, actor, id),
    suggestedVariables(ctx, actor),
    templateReaders(ctx, actor),
  ]);
  const purpose = [row.kind, row.accountId].filter(Boolean).join(' ');
  const live = standing.serving ?? (standing.state === 'paused' ? standing.newest : undefined);
  return (
    <Page
      title={row.name}
      purpose={
        platform
          ? `Template for ${platform.name}. It may be sent once ${platform.name} approves it; saving does not submit it.`
          : KINDS[row.kind]
      }
      actions={
        admin && (
          <>
            <NewTemplate purposes={purposes} from={{ id, name: row.name, purpose }} />
            {live && (
              <ActionButton
                tone="danger"
                action={retireTemplateAction.bind(null, id)}
                confirm={{
                  title: `Take ${row.name} out of use?`,
                  consequence: `${platform?.name} forgets every version. Hooks and people who use it are refused from then on.`,
                  go: 'Take it out of use',
                }}
              >
                Retire
              </ActionButton>
            )}
            {!live && standing.state !== 'in-review' && (
              <ActionButton
                tone="danger"
                action={archiveTemplateAction.bind(null, id)}
                confirm={{
                  title: `Archive ${row.name}?`,
                  consequence: 'It is no longer listed and cannot be sent. Messages that were made of it keep it.',
                  go: 'Archive it',
                }}
              >
                Archive
              </ActionButton>
            )}
          </>
        )
      }
    >
      <LiveRefresh since={since} topics={['template']} subject={id} />
      {platform && (
        <Standing id={id} view={page} platform={platform.name} prediction={prediction} rate={rate} admin={admin} />
      )}
      <TemplateEditor
        key={id}
        id={id}
        content={{ name: row.name, category: row.category, variants: row.variants }}
        changedAt={row.changedAt}
        rules={rules}
        sent={row.kind !== 'reply'}
        around={around}
        reasons={
          standing.state === 'rejected' && standing.newest
            ? { by: platform?.name ?? '', list: standing.newest.reasons, content: standing.newest.content }
            : undefined
        }
        suggestions={suggestions}
        readers={readers}
        readOnly={!admin}
        submit={platform && admin ? <SubmitTemplate id={id} view={page} prediction={prediction} /> : undefined}
      />
      <Versions row={row} versions={versions} events={events} />
    </Page>
  );
}
