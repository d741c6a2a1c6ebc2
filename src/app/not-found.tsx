import { Link } from '../ui/primitives/Link';
import { GatePage } from '../ui/shell/GatePage';

export default function NotFound() {
  return (
    <GatePage title="There is nothing here" purpose="The address may be mistyped, or what it named is gone.">
      <Link href="/">To the overview</Link>
    </GatePage>
  );
}
