import { hasMail } from '../../../operations/people';
import { Link } from '../../../ui/primitives/Link';
import { GatePage } from '../../../ui/shell/GatePage';
import { windgap } from '../../_server/windgap';
import { LostForm } from './LostForm';

/** For whoever lost their password. */
export default async function LostPage() {
  const mail = await hasMail(await windgap());
  return (
    <GatePage
      title="A new password"
      purpose={
        mail
          ? 'A link to choose one is mailed to you. It works once, for an hour.'
          : 'No mail is set up here. An owner makes a link for you, under People.'
      }
    >
      {mail && <LostForm />}
      <p className="mt-4 text-[13px]">
        <Link href="/sign-in">Sign in</Link>
      </p>
    </GatePage>
  );
}
