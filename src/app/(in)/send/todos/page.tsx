import { hasRole } from '../../../../operations/context';
import { colleagues, listTodos } from '../../../../operations/conversations';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { SelectField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Link } from '../../../../ui/primitives/Link';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { addTodoAction, finishTodoAction, finishTodosAction } from './actions';

export default async function TodosPage({ searchParams }: { searchParams: Promise<{ done?: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const done = (await searchParams).done === '1';
  const [todos, { people }] = await Promise.all([listTodos(ctx, actor, done), colleagues(ctx, actor)]);
  const agent = hasRole(actor, 'agent');
  return (
    <ListPage
      title="To-dos"
      purpose="Tasks for people: sends and steps that failed, and what colleagues asked for."
      actions={
        <>
          <Link href={done ? '/send/todos' : '/send/todos?done=1'} className="self-center text-[13px]">
            {done ? 'Open tasks' : 'Finished tasks'}
          </Link>
          {agent && (
            <DialogForm
              open="Add a to-do"
              title="Add a to-do"
              submit="Add"
              action={addTodoAction.bind(null, undefined)}
            >
              <TextField name="title" label="Task" />
              <SelectField name="assignedTo" label="For" options={[['', 'anybody'], ...people]} />
            </DialogForm>
          )}
        </>
      }
      page="/send/todos"
      since={since}
      topics={['todo']}
      empty={{
        what: done
          ? 'Nothing was done here yet.'
          : 'Nothing to do. A send that fails for good, or a step of a route that does, comes here.',
      }}
      bulk={agent && !done ? [{ label: 'Mark as done', action: finishTodosAction }] : undefined}
      rows={todos}
      keyOf={({ id }) => id}
      columns={[
        {
          head: 'Task',
          className: 'w-full',
          cell: ({ title, why, ref }) => (
            <>
              <span className="block">{title}</span>
              {why && <span className="block text-[13px] text-clay">{why}</span>}
              {ref?.startsWith('msg_') && <Link href={`/watch/messages/${ref}`}>Trail</Link>}
            </>
          ),
        },
        {
          head: 'About',
          className: 'whitespace-nowrap',
          cell: ({ contactId, contactName, conversationId }) =>
            conversationId ? (
              <Link href={`/route/conversations/${conversationId}`}>{contactName ?? 'the conversation'}</Link>
            ) : contactId ? (
              <Link href={`/compose/contacts/${contactId}`}>{contactName ?? 'the contact'}</Link>
            ) : null,
        },
        {
          head: 'Since',
          className: 'whitespace-nowrap',
          value: ({ createdAt }) => createdAt,
          cell: ({ createdAt }) => <Age at={createdAt} past />,
        },
        { head: 'For', className: 'whitespace-nowrap', cell: ({ assignee }) => assignee ?? 'anybody' },
        { head: 'By', className: 'whitespace-nowrap', cell: ({ by }) => by },
        {
          head: '',
          className: 'whitespace-nowrap text-right',
          cell: ({ id, doneAt, doneBy }) =>
            doneAt ? (
              <span className="text-soft">
                {doneBy} <ClockTime at={doneAt} />
              </span>
            ) : (
              agent && <ActionButton action={finishTodoAction.bind(null, id)}>Done</ActionButton>
            ),
        },
      ]}
    />
  );
}
