import { listApps } from '../../../../operations/apps';
import { listChannels } from '../../../../operations/channels';
import { areAdministratorsByTeam, hasRole } from '../../../../operations/context';
import { listTeams, type TeamView } from '../../../../operations/people';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { ActionForm, CheckField, SelectField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Empty, Page, Panel, Section } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';
import { signedIn } from '../../../_server/session';
import { administratorsAction, giveToTeamAction, removeTeamAction, setTeamAction, takeFromTeamAction } from './actions';

export default async function TeamsPage() {
  const { ctx, actor } = await signedIn();
  const [teams, channels, apps, byTeam] = await Promise.all([
    listTeams(ctx, actor),
    listChannels(ctx, actor),
    listApps(ctx, actor),
    areAdministratorsByTeam(ctx.store),
  ]);
  const owner = hasRole(actor, 'owner');
  const free: [string, string][] = [
    ...channels.map(({ channel }): [string, string] => [`channel ${channel.id}`, `${channel.name} (channel)`]),
    ...apps.map(({ app }): [string, string] => [`app ${app.id}`, `${app.name} (app)`]),
  ];
  return (
    <Page
      title="Teams"
      purpose="What belongs to a team that keeps it to its members is seen and done by them alone: on pages, in search and exports, by API keys. Owners see everything; contacts are everybody’s."
      actions={
        owner && (
          <DialogForm open="Add a team" title="Add a team" submit="Add it" action={setTeamAction.bind(null, null)}>
            <TextField name="name" label="Name" />
            <MembersOnly />
          </DialogForm>
        )
      }
    >
      {teams.length === 0 ? (
        <Empty what="There are no teams: everybody sees every channel, app and conversation." />
      ) : (
        <Table
          caption="Teams"
          rows={teams}
          keyOf={({ name }) => name}
          columns={[
            { head: 'Team', cell: ({ name }) => name },
            {
              head: 'Who sees what belongs to it',
              cell: ({ membersOnly }) => (membersOnly ? 'its members alone' : 'everybody'),
            },
            { head: 'Members', cell: ({ members }) => members.join(', ') || 'nobody' },
            { head: 'Belongs to it', cell: (team) => <Belongings team={team} owner={owner} /> },
            {
              head: 'Change',
              cell: (team) => owner && <Changes team={team} free={free} />,
            },
          ]}
        />
      )}
      {owner && (
        <div className="mt-6">
          <Section title="Administrators" id="administrators">
            <Panel className="max-w-[560px] p-4">
              <ActionForm action={administratorsAction} submit="Save">
                <CheckField
                  name="byTeam"
                  label="Administrators, too, see what their own teams reach"
                  initial={byTeam}
                  help="Otherwise they see what belongs to any team. The audit tells of everything, and is for owners then."
                />
              </ActionForm>
            </Panel>
          </Section>
        </div>
      )}
    </Page>
  );
}

function MembersOnly({ initial = false }: { initial?: boolean }) {
  return (
    <CheckField
      name="membersOnly"
      label="Only its members see what belongs to it"
      initial={initial}
      help="Its channels and apps, and conversations on its channels or assigned to it. Whoever a conversation is assigned to sees that one."
    />
  );
}

function Belongings({ team: { channels, apps, conversations }, owner }: { team: TeamView; owner: boolean }) {
  const things = [
    ...channels.map((each) => ({ ...each, kind: 'channel' as const })),
    ...apps.map((each) => ({ ...each, kind: 'app' as const })),
  ];
  return (
    <div className="grid gap-1">
      {things.map(({ id, name, kind }) => (
        <span key={id} className="flex flex-wrap items-center gap-2">
          {name} <span className="text-soft">({kind})</span>
          {owner && <ActionButton action={takeFromTeamAction.bind(null, kind, id)}>Take it out</ActionButton>}
        </span>
      ))}
      {conversations > 0 && (
        <span className="text-soft">
          {conversations === 1 ? '1 open conversation' : `${conversations} open conversations`}
        </span>
      )}
      {things.length === 0 && conversations === 0 && <span className="text-soft">nothing</span>}
    </div>
  );
}

function Changes({ team: { name, membersOnly }, free }: { team: TeamView; free: [string, string][] }) {
  return (
    <span className="flex flex-wrap gap-2">
      <DialogForm
        open="Change"
        label={`Change ${name}`}
        title={name}
        submit="Save"
        action={setTeamAction.bind(null, name)}
      >
        <MembersOnly initial={membersOnly} />
      </DialogForm>
      <DialogForm
        open="Give a channel or app"
        label={`Give a channel or app to ${name}`}
        title={`What belongs to ${name}`}
        description="A channel or an app belongs to one team; it moves from another one."
        submit="Give it"
        action={giveToTeamAction.bind(null, name)}
      >
        <SelectField name="what" label="Channel or app" options={free} />
      </DialogForm>
      <ActionButton
        action={removeTeamAction.bind(null, name)}
        confirm={{
          title: `Remove ${name}`,
          consequence: 'Routes that assign conversations to it go on doing so, under a name nobody is in.',
          go: 'Remove it',
        }}
      >
        Remove
      </ActionButton>
    </span>
  );
}
