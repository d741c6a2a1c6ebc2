import { LISTED_WORDS } from '../../../../operations/profiles';
import { SelectField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { listWordAction } from './actions';

const MEANINGS: Record<string, string> = {
  sent: 'passed on, not arrived yet',
  delivered: 'it arrived',
  undelivered: 'it did not arrive',
  read: 'it was read',
  nothing: 'ignored',
  withdrawn: 'they want no more',
  given: 'they want messages again',
};

/** Says what a word means that the profile does not list, and has everything read again that waits for it. */
export function ListWord({ requestId, what, word }: { requestId: string; what: string; word: string }) {
  const list = Object.hasOwn(LISTED_WORDS, what) ? LISTED_WORDS[what as keyof typeof LISTED_WORDS] : undefined;
  if (!list) return null;
  return (
    <span className="mt-1 block">
      <DialogForm
        open={`Set the meaning of “${word}”`}
        title={`Meaning of “${word}”`}
        description="It is noted for this provider, and every post that waits for it is read again."
        submit="Save and read again"
        action={listWordAction.bind(null, requestId, what, word)}
      >
        <SelectField
          name="means"
          label="Meaning"
          options={list.means.map((means) => [means, MEANINGS[means] ?? means])}
        />
      </DialogForm>
    </span>
  );
}
