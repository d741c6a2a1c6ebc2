import { GatePage } from '../../ui/shell/GatePage';
import { EnterForm } from './EnterForm';

/** Where invitations and codes lead. The code stands behind the #, which no server on the way gets to see. */
export default function EnterPage() {
  return (
    <GatePage title="Choose a password" purpose="With it you sign in from now on. The link you opened works once.">
      <EnterForm />
    </GatePage>
  );
}
